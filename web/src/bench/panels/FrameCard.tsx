/** The frame: straighten, crop, turn; opens the stage on which it is dragged. */
import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { Button, Form } from "react-bootstrap";
import { client, unwrap, unwrapAs, type Schemas } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { Icon } from "../../ui/Icon";
import { Slider } from "../../ui/Slider";
import { ofRatio, settingsOf } from "../canvas/cropping";
import { useBench, useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { boxOf, LINES, RATIOS, ratioOf, savedSettings, useFraming, type FrameSettings, type Lines, type Ratio } from "../state/framing";
import { useKinds } from "../state/kinds";

const RATIO_WORDS: Record<Ratio, string> = {
  free: "Free", own: "As photographed", "1:1": "1:1", "5:4": "5:4", "4:3": "4:3", "3:2": "3:2", "16:9": "16:9", typed: "Another…",
};
const LINE_WORDS: Record<Lines, string> = { thirds: "Thirds", centre: "Middle", eyes: "Eye line", none: "None" };
type CutOut = Schemas["CutOut"];
const CM_PER_INCH = 2.54;

function settled(settings: FrameSettings): string {
  const angle = Number(settings["angle_deg"] ?? 0);
  const parts = [];
  if (angle) parts.push(`${angle > 0 ? "+" : ""}${angle}°`);
  if (settings["upright"] || settings["level"]) parts.push("upright");
  if (settings["turn"] !== "0") parts.push(`turned ${String(settings["turn"])}°`);
  if (settings["mirror"]) parts.push("mirrored");
  if (Number(settings["width_px"]) > 0) parts.push("cropped");
  return parts.join(", ") || "as photographed";
}

/** Levels the picture by the eyes, by lines behind, or by a line drawn. */
function Levels() {
  const { commit, levelling, set } = useFraming();
  const { portrait } = useBenchParts("portrait");
  const face = useFaces((s) => s.face);
  const level = async (by: "eyes" | "lines") => {
    try {
      const found = await unwrap(
        client.POST("/api/portraits/{portrait_id}/framing/level", {
          params: { path: { portrait_id: portrait!.id } },
          body: { by, face },
        }),
      );
      commit({ angle_deg: found.angle });
      useBench.getState().say(found.angle === 0 ? "It is level already." : null);
    } catch (error) {
      useBench.setState({ notice: (error as Error).message });
    }
  };
  return (
    <div className="mg-row" role="group" aria-label="Level by">
      <span>Level by</span>
      <Button size="sm" variant="quiet" title="The line through both pupils" onClick={() => void level("eyes")}>
        Eyes
      </Button>
      <Button size="sm" variant="quiet" title="Long straight lines around the person" onClick={() => void level("lines")}>
        Lines behind
      </Button>
      <Button
        size="sm"
        variant="quiet"
        aria-pressed={levelling}
        title="Draw along something that is level or upright"
        onClick={() => set({ levelling: !levelling })}
      >
        A line drawn
      </Button>
    </div>
  );
}

function Cuts() {
  const { settings, commit } = useFraming();
  const { portrait } = useBenchParts("portrait");
  const face = useFaces((s) => s.face);
  const known = useFaces((s) => s.analysis?.key ?? "");
  const { angle_deg, upright, level, turn, beyond } = settings;
  const cuts = useQuery({
    queryKey: ["cuts", portrait?.id, face, known, angle_deg, upright, level, turn, beyond],
    queryFn: () =>
      unwrapAs<CutOut[]>(
        client.POST("/api/portraits/{portrait_id}/framing/cuts", {
          params: { path: { portrait_id: portrait!.id } },
          body: { settings, face },
        }),
      ),
    enabled: portrait !== null && known !== "",
    placeholderData: (before) => before,
  });
  const whole = () => commit({ width_px: 0, height_px: 0, centre_x_px: 0, centre_y_px: 0 });
  return (
    <div className="mg-row" role="group" aria-label="Frame for the face">
      <Button size="sm" variant="quiet" title="All of the picture" onClick={whole}>
        Whole picture
      </Button>
      {(cuts.data ?? []).map((c) => (
        <Button
          key={c.name}
          size="sm"
          variant="quiet"
          title={c.fits ? c.meaning : `${c.meaning} There isn't enough picture around the head for all of it.`}
          onClick={() => {
            const names = ["centre_x_px", "centre_y_px", "width_px", "height_px"];
            commit(Object.fromEntries(names.map((name) => [name, Number(c.settings[name])])));
            if (!c.fits) useBench.getState().say(`${c.title}: there isn't enough picture around the head for all of it.`);
          }}
        >
          {c.title}
          {!c.fits && <Icon name="exclamation-triangle" />}
        </Button>
      ))}
    </div>
  );
}

function Ratios() {
  const framing = useFraming();
  const { ratio, tall, typed, made, set, commit, settings } = framing;
  const { portrait } = useBenchParts("portrait");
  const use = (part: Partial<Pick<typeof framing, "ratio" | "tall" | "typed">>) => {
    set(part);
    const wanted = ratioOf({ ...useFraming.getState(), ...part });
    if (!made || !portrait || !(wanted > 0)) return;
    const picture = { width: portrait.width, height: portrait.height };
    const box = ofRatio(boxOf(made), wanted, made.plane, picture, settings["beyond"] !== "nothing");
    commit(settingsOf(box, made.plane, picture));
  };
  const wrong = ratio === "typed" && Number.isNaN(ratioOf(framing));
  return (
    <>
      <div className="mg-row">
        <Choice label="Ratio" value={ratio} choices={RATIOS.map((r) => [r, RATIO_WORDS[r]] as const)} onChange={(v) => use({ ratio: v as Ratio })} />
        {ratio !== "free" && ratio !== "1:1" && ratio !== "typed" && (
          <Button size="sm" variant="quiet" title="The other way round" onClick={() => use({ tall: !tall })}>
            <Icon name="arrow-repeat" /> {tall ? "Upright" : "Lying"}
          </Button>
        )}
      </div>
      {ratio === "typed" && (
        <Form.Control
          size="sm"
          aria-label="Width to height"
          placeholder="7:5"
          isInvalid={wrong}
          value={typed}
          onChange={(e) => set({ typed: e.target.value })}
          onBlur={() => !wrong && use({})}
          onKeyDown={(e) => e.key === "Enter" && !wrong && use({})}
        />
      )}
    </>
  );
}

/** All that is set while the stage is open. */
function Controls() {
  const { settings, made, lines, ppi, set, live, commit, leave, follow } = useFraming();
  const { passes } = useBenchParts("passes");
  const saved = passes.find((p) => p.kind === "frame")?.settings;
  useEffect(() => follow(), [saved, follow]);
  const turn = (by: number) => commit({ turn: String((Number(settings["turn"]) + by + 360) % 360) });
  const amount = (name: string, label: string, title: string) => (
    <Slider
      label={label}
      title={title}
      min={-100}
      max={100}
      initial={0}
      value={Number(settings[name] ?? 0)}
      onInput={(v) => live({ [name]: v })}
      onCommit={(v, goesOn) => commit({ [name]: v }, goesOn)}
    />
  );
  const { width = 0, height = 0 } = made?.frame ?? {};
  const cm = (px: number) => ((px / ppi) * CM_PER_INCH).toFixed(1);
  return (
    <>
      <Slider
        label="Angle"
        title="Turns the picture clockwise"
        unit="°"
        min={-45}
        max={45}
        step={0.01}
        initial={0}
        value={Number(settings["angle_deg"] ?? 0)}
        onInput={(v) => live({ angle_deg: v })}
        onCommit={(v, goesOn) => commit({ angle_deg: v }, goesOn)}
      />
      <Levels />
      {amount("upright", "Upright", "Lines that converge upwards, or downwards, set parallel")}
      {amount("level", "Level", "Lines that converge to the right, or left, set parallel")}
      <div className="mg-row" role="group" aria-label="Turns">
        <Button size="sm" variant="quiet" title="A quarter turn to the left" onClick={() => turn(-90)}>
          <Icon name="arrow-counterclockwise" /> Left
        </Button>
        <Button size="sm" variant="quiet" title="A quarter turn to the right" onClick={() => turn(90)}>
          <Icon name="arrow-clockwise" /> Right
        </Button>
        <Button size="sm" variant="quiet" aria-pressed={Boolean(settings["mirror"])} title="Left and right exchanged" onClick={() => commit({ mirror: !settings["mirror"] })}>
          <Icon name="symmetry-vertical" /> Mirror
        </Button>
      </div>
      <Ratios />
      <Cuts />
      <p className="mg-frame-size" aria-label="Size of the frame">
        {width} × {height} px
        <span>
          {cm(width)} × {cm(height)} cm at{" "}
          <input
            type="number"
            aria-label="Pixels per inch"
            min={30}
            max={1200}
            value={ppi}
            onChange={(e) => set({ ppi: Math.min(Math.max(Number(e.target.value) || 300, 30), 1200) })}
          />{" "}
          ppi
        </span>
      </p>
      <Choice label="Helping lines" value={lines} choices={LINES.map((l) => [l, LINE_WORDS[l]] as const)} onChange={(v) => set({ lines: v as Lines })} />
      <Choice
        label="Beyond the picture"
        title="What shows where the frame reaches beyond the picture"
        value={String(settings["beyond"] ?? "nothing")}
        choices={[["nothing", "Keep within"], ["border", "Border continued"], ["white", "White"], ["grey", "Grey"], ["black", "Black"]]}
        onChange={(v) => commit({ beyond: v })}
      />
      <div className="mg-row">
        <Button size="sm" variant="primary" onClick={leave}>
          Done
        </Button>
        <Button
          size="sm"
          variant="quiet"
          title="The picture as it was photographed; can be undone"
          onClick={() =>
            commit({
              angle_deg: 0, upright: 0, level: 0, turn: "0", mirror: false, width_px: 0, height_px: 0,
              centre_x_px: 0, centre_y_px: 0, beyond: "nothing",
            })
          }
        >
          As photographed
        </Button>
      </div>
    </>
  );
}

export function FrameCard() {
  const { passes, gesture } = useBenchParts("passes", "gesture");
  const open = useFraming((s) => s.open);
  const enter = useFraming((s) => s.enter);
  const leave = useFraming((s) => s.leave);
  const kind = useKinds().data?.find((k) => k.way === "frame");
  useEffect(() => leave, [leave]);
  if (!kind) return null;
  const pass = passes.find((p) => p.kind === kind.name);
  return (
    <section className={`mg-card ${open ? "mg-card-open" : ""} ${pass && !(pass.enabled && pass.stage_on) ? "mg-card-off" : ""}`} aria-label="Frame settings">
      <div className="mg-card-head">
        {pass && (
          <Form.Check
            type="switch"
            role="switch"
            aria-label={`${pass.name} on or off`}
            checked={pass.enabled && pass.stage_on}
            onChange={(e) => gesture({ op: "change_pass", id: pass.id, enabled: e.target.checked })}
          />
        )}
        <button type="button" className="mg-card-name" aria-expanded={open} title={kind.meaning} onClick={() => (open ? leave() : enter())}>
          Frame
          <small>{pass || open ? settled(savedSettings()) : "straighten, crop, turn"}</small>
        </button>
        {!open && (
          <Button variant="quiet" title={kind.meaning} aria-label="Straighten, crop" onClick={enter}>
            <Icon name="crop" />
          </Button>
        )}
      </div>
      {open && (
        <div className="mg-card-body">
          <Controls />
        </div>
      )}
    </section>
  );
}
