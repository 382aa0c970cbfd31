/** Hair: loose strands found, thinned out, kept or cleared one by one; the outline that they leave. */
import { useState, type RefObject } from "react";
import { Button } from "react-bootstrap";
import type { Area, Pass } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { Slider } from "../../ui/Slider";
import type { Painter } from "../canvas/Painter";
import { useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";
import { useStrands } from "../state/strands";

const USUAL = 80;

type Whose = readonly [number, number] | null;
/** Passes on hair and where they begin. */
const ON_HAIR: { title: string; meaning: string; areas?: (face: Whose) => Area[] }[] = [
  { title: "Shine, colour", meaning: "Shine along the strands, colour evened, greys toned, another colour: a pass on the hair" },
  {
    title: "Roots",
    meaning: "A pass that brings roots to the colour of the lengths: paint along the parting",
    areas: () => [{ kind: "outline", points: NOWHERE, feather_px: 0, way: "add", invert: false }],
  },
  {
    title: "Beard",
    meaning: "The beard's colour evened, its greys toned: a pass on the beard",
    areas: (face) => [{ kind: "zone", zone: "beard", face: face && [...face], way: "add", invert: false, side: "both", share: 100 }],
  },
];
/** An area that covers nothing, so that the mask is what is painted. */
const NOWHERE: [number, number][] = [[0, 0], [0.1, 0], [0, 0.1]];

/** How softly strands that are found beyond the outline fade: the outline's own, and theirs with it. */
function Feather({ outline, painterRef }: { outline: Pass; painterRef: RefObject<Painter | null> }) {
  const { passes, gesture } = useBenchParts("passes", "gesture");
  const [moving, setMoving] = useState<number | null>(null);
  const ids = passes.filter((p) => p === outline || (p.kind === "strands" && p.enabled)).flatMap((p) => p.touches.map((t) => t.id));
  const change = (px: number) => ({ op: "change_touches", ids, values: { feather_px: px } }) as const;
  return (
    <Slider
      label="Feather"
      title="Over so many pixels strands fade where they leave the outline"
      unit="px"
      min={0.5}
      max={10}
      step={0.5}
      initial={1}
      value={moving ?? Number(outline.touches[0]!.values["feather_px"])}
      onInput={(px) => {
        setMoving(px);
        painterRef.current?.showDraft([change(px)], null);
      }}
      onCommit={(px) =>
        gesture(change(px), (outcome) => {
          setMoving(null);
          if (!outcome) painterRef.current?.endDraft();
        })
      }
    />
  );
}

export function HairCard({ painterRef }: { painterRef: RefObject<Painter | null> }) {
  const { passes, gesture } = useBenchParts("passes", "gesture");
  const { analysis, face } = useFaces();
  const { mode, set } = useHand();
  const { shown, setShown } = useStrands();
  const [looking, setLooking] = useState(false);
  const [moving, setMoving] = useState<number | null>(null);
  const count = analysis?.faces.length ?? 0;
  const whose = count > 1 ? (analysis?.faces[face]?.anchor ?? null) : null;
  const home = passes.find((p) => p.kind === "strands" && p.enabled);
  const outline = passes.find((p) => p.kind === "hair_outline" && p.touches.length > 0);
  const all = home?.touches.length ?? 0;
  const cleared = home?.touches.filter((t) => t.enabled).length ?? 0;
  const amount = moving ?? (all ? Math.round((100 * cleared) / all) : USUAL);
  const thin = (amount: number) => ({ op: "thin_strands", pass_id: home!.id, amount }) as const;
  return (
    <section className="mg-card" aria-label="Hair">
      <div className="mg-card-head">
        <span className="mg-card-name">Hair</span>
        <Button
          variant="quiet"
          active={mode === "strands"}
          aria-pressed={mode === "strands"}
          title="Click a strand to keep or clear it; draw along one that wasn't found"
          onClick={() => set({ mode: mode === "strands" ? "heal" : "strands" })}
        >
          <Icon name="bezier2" /> Strands
        </Button>
      </div>
      <div className="mg-card-body">
        {count > 0 && (
          <div className="mg-row">
            <Button
              variant="tray"
              title="Single hairs that leave the hair's outline, lie across it or hang into the face; some are kept"
              disabled={looking}
              onClick={() => {
                setLooking(true);
                gesture({ op: "clear_loose", face: whose, amount }, () => setLooking(false));
              }}
            >
              {looking ? "Looking …" : all ? "Look again" : "Clear loose strands"}
            </Button>
            <Button
              variant="tray"
              title="The smooth outline that strands leave, to be corrected by drawing"
              onClick={() => gesture({ op: "outline_hair", face: whose })}
            >
              {outline ? "Propose outline anew" : "Outline"}
            </Button>
            <Button
              variant="tray"
              title="Fuller, or closer to the head: above it and on either side, by millimetres"
              onClick={() => gesture({ op: "move_by_outline", kind: "volume", face: whose })}
            >
              Volume
            </Button>
            <Button
              variant="tray"
              title="Partings and thin places covered with the hair beside them; the patches stand in the stage Clear"
              onClick={() => gesture({ op: "fill_gaps", face: whose })}
            >
              Gaps
            </Button>
            {ON_HAIR.map(({ title, meaning, areas }) => (
              <Button
                key={title}
                variant="tray"
                title={meaning}
                onClick={() =>
                  gesture({ op: "add_pass", kind: "hair", face: whose, ...(areas && { name: title, areas: areas(whose) }) })
                }
              >
                {title}
              </Button>
            ))}
            {outline && (
              <>
                <Button
                  variant="tray"
                  active={mode === "hairline"}
                  aria-pressed={mode === "hairline"}
                  title="Draw where the outline belongs; that piece of it goes there"
                  onClick={() => set({ mode: mode === "hairline" ? "heal" : "hairline" })}
                >
                  <Icon name="vector-pen" /> Draw outline
                </Button>
                <Button
                  variant="tray"
                  title="The outline is found anew each time"
                  onClick={() => gesture({ op: "remove_pass", id: outline.id })}
                >
                  Drop outline
                </Button>
              </>
            )}
          </div>
        )}
        {outline && <Feather outline={outline} painterRef={painterRef} />}
        {home && all > 0 && (
          <>
            <Slider
              label="Thin out"
              title="How many of the strands go, the longest and most crossing first; hair without any looks cut out"
              unit="%"
              min={0}
              max={100}
              initial={USUAL}
              value={amount}
              onInput={(amount) => {
                setMoving(amount);
                painterRef.current?.showDraft([thin(amount)], null);
              }}
              onCommit={(amount) => {
                gesture(thin(amount), (outcome) => {
                  setMoving(null);
                  if (!outcome) painterRef.current?.endDraft();
                });
              }}
            />
            <div className="mg-row">
              <span className="mg-note">
                {cleared} of {all} strands cleared
              </span>
              <Button variant="quiet" active={shown} aria-pressed={shown} title="Strands drawn over the picture" onClick={() => setShown(!shown)}>
                Show
              </Button>
            </div>
          </>
        )}
      </div>
    </section>
  );
}
