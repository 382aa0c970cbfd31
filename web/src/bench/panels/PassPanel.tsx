import { Fragment, memo, useCallback, useEffect, useRef, useState, type RefObject } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import type { Operation } from "../../api/client";
import { Icon } from "../../ui/Icon";
import type { Painter } from "../canvas/Painter";
import { movePass, useBench, useBenchParts } from "../state/bench";
import { bring, useCarried } from "../state/carrying";
import { useFaces } from "../state/faces";
import { STAGES, useKinds } from "../state/kinds";
import { nextStep } from "../state/nextStep";
import { BandsCard } from "./BandsCard";
import { FacesCard } from "./FacesCard";
import { MatchTo } from "./MatchTo";
import { FrameCard } from "./FrameCard";
import { KeptSettings } from "./KeptSettings";
import { LooksCard } from "./LooksCard";
import { MarksCard } from "./MarksCard";
import { PassCard } from "./PassCard";
import { RawCard } from "./RawCard";
import { BorrowCard } from "./BorrowCard";
import { GlassesCard } from "./GlassesCard";
import { SetHead } from "./SetHead";
import { ShapeCard } from "./ShapeCard";
import { RedEyeCard } from "./RedEyeCard";
import { ClothingCard } from "./ClothingCard";
import { HairCard } from "./HairCard";
import { HairsCard } from "./HairsCard";
import { RoutinesCard } from "./RoutinesCard";
import { TextureCard } from "./TextureCard";
import { ZonesCard } from "./ZonesCard";

type Stage = Extract<Operation, { op: "switch_stage" }>["stage"];

/** The passes of a stage as cards, the latest on top. */
export const PassPanel = memo(function PassPanel({
  stage,
  painterRef,
}: {
  stage: string;
  painterRef: RefObject<Painter | null>;
}) {
  const { portrait, passes, gesture } = useBenchParts("portrait", "passes", "gesture");
  const carried = useCarried();
  const panel = useRef<HTMLElement>(null);
  const dragged = useRef<string | null>(null);
  const [openSets, setOpenSets] = useState<ReadonlySet<string>>(new Set());
  const kinds = useKinds();
  const here = kinds.data?.filter((k) => k.stage === stage && !k.guide && k.way !== "frame" && k.way !== "develop") ?? [];
  const shown = passes.filter((p) => here.some((k) => k.name === p.kind));
  const shownNow = useRef(shown);
  useEffect(() => {
    shownNow.current = shown;
  });
  // The same functions every time: a card is drawn anew only when its own pass changes.
  const move = useCallback((id: string, by: 1 | -1) => movePass(id, by, shownNow.current), []);
  const drag = useCallback((id: string) => (dragged.current = id), []);
  const drop = useCallback((id: string) => {
    const { passes: all, gesture: send } = useBench.getState();
    if (dragged.current && dragged.current !== id)
      send({ op: "move_pass", id: dragged.current, index: all.findIndex((p) => p.id === id) });
    dragged.current = null;
  }, []);
  const { analysis, face } = useFaces();
  // In a group what is for one person is for the chosen one.
  const chosen = (analysis?.faces.length ?? 0) > 1 ? (analysis?.faces[face]?.anchor ?? null) : null;
  const put = (one: Omit<Extract<Operation, { op: "add_pass" }>, "op">) => {
    const kind = here.find((k) => k.name === one.kind);
    gesture({ op: "add_pass", ...one, ...(kind?.by_side || kind?.meshed ? { face: chosen } : {}) });
  };
  // Values of a card that opens are what is wanted next; long panels would leave them below the edge.
  const openPass = useBench((s) => s.openPass);
  const opened = useRef(openPass);
  useEffect(() => {
    if (opened.current === openPass) return;
    opened.current = openPass;
    panel.current?.querySelector(".mg-card-open")?.scrollIntoView({ block: "nearest" });
  }, [openPass]);
  const add = (kind: string) => put({ kind });
  const title = STAGES.find((s) => s.name === stage)?.title;
  return (
    <aside ref={panel} className="mg-passes" aria-label="Passes">
      <div className="mg-panel-head">
        <h2>{title}</h2>
        {shown.length > 0 && (
          <Form.Check
            type="switch"
            role="switch"
            aria-label={`${title} on or off`}
            title="The whole stage on or off"
            checked={shown.some((p) => p.stage_on)}
            onChange={(e) => gesture({ op: "switch_stage", stage: stage as Stage, on: e.target.checked })}
          />
        )}
        <span className="flex-grow-1" />
        {carried.portrait && carried.portrait !== portrait?.id && (
          <Button variant="quiet" title={`Copy ${carried.title} here`} onClick={bring}>
            <Icon name="box-arrow-in-down" /> Bring
          </Button>
        )}
        {here.length > 2 ? (
          <Dropdown align="end">
            <Dropdown.Toggle variant="quiet" title="Add an empty pass">
              <Icon name="plus-lg" /> Pass
            </Dropdown.Toggle>
            <Dropdown.Menu>
              {here.map((k) => (
                <Dropdown.Item key={k.name} as="button" title={k.meaning} onClick={() => add(k.name)}>
                  {k.title}
                </Dropdown.Item>
              ))}
              <KeptSettings kinds={here} add={put} />
            </Dropdown.Menu>
          </Dropdown>
        ) : (
          // In Shape the card of moves has them.
          stage !== "shape" &&
          here.map((k) => (
            <Button key={k.name} variant="quiet" title={k.meaning} onClick={() => add(k.name)}>
              <Icon name="plus-lg" /> {k.title}
            </Button>
          ))
        )}
      </div>
      {stage === "look" && (
        <div className="mg-row">
          <Button
            size="sm"
            variant="tray"
            title="Exposure, highlights, shadows and white balance, subtly, by the picture's own statistics: ordinary settings that can be changed"
            onClick={() => gesture({ op: "propose_look" })}
          >
            <Icon name="stars" /> Propose light and colour
          </Button>
          <MatchTo />
        </div>
      )}
      {stage === "look" && <RawCard />}
      {stage === "look" && <FrameCard />}
      {stage === "clear" && <MarksCard />}
      {stage === "clear" && <BandsCard />}
      {(stage === "even" || stage === "features") && <RoutinesCard stage={stage} />}
      {stage === "even" && <TextureCard />}
      {stage === "features" && <RedEyeCard />}
      {stage === "features" && <HairsCard />}
      {stage === "features" && <GlassesCard />}
      {(stage === "features" || stage === "clear") && <BorrowCard />}
      {stage === "finish" && <LooksCard />}
      {stage === "shape" && <ShapeCard />}
      {stage === "shape" && <HairCard painterRef={painterRef} />}
      {stage === "shape" && <ClothingCard />}
      {shown.length === 0 && (
        <p className="mg-hint">
          {nextStep(stage, (analysis?.faces.length ?? 0) > 0)}
        </p>
      )}
      <ul>
        {[...shown].reverse().map((p, n, all) => {
          const { bound } = p;
          const first = bound && !all.slice(0, n).some((other) => other.bound?.id === bound.id);
          return (
            <Fragment key={p.id}>
              {first && (
                <SetHead
                  bound={bound}
                  members={passes.filter((other) => other.bound?.id === bound.id)}
                  open={openSets.has(bound.id)}
                  onOpen={() => setOpenSets((was) => new Set(was.has(bound.id) ? [...was].filter((s) => s !== bound.id) : [...was, bound.id]))}
                  painterRef={painterRef}
                />
              )}
              {(!bound || openSets.has(bound.id)) && (
                <PassCard
                  pass={p}
                  kind={here.find((k) => k.name === p.kind)}
                  below={all[n + 1]}
                  painterRef={painterRef}
                  onMove={move}
                  onDrag={drag}
                  onDrop={drop}
                />
              )}
            </Fragment>
          );
        })}
      </ul>
      {stage === "look" && (
        <>
          <FacesCard />
          <ZonesCard />
        </>
      )}
    </aside>
  );
});
