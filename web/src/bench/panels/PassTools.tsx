/** What some kinds of pass offer besides their settings: picking in the picture, proposals, readings. */
import { Button } from "react-bootstrap";
import type { Pass } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { forthOf } from "../canvas/frame";
import { takeHand } from "../hands";
import { useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand, type Mode } from "../state/hand";
import { useReadTones } from "../state/tones";
import { useView } from "../state/view";

function HandButton({ mode, children, title }: { mode: Mode; children: React.ReactNode; title: string }) {
  const now = useHand((s) => s.mode);
  return (
    <Button
      size="sm"
      variant="quiet"
      active={now === mode}
      aria-pressed={now === mode}
      title={title}
      onClick={() => takeHand(now === mode ? "heal" : mode)}
    >
      <Icon name="eyedropper" /> {children}
    </Button>
  );
}

/** The hue of everybody's skin, before and after: a reading, never a goal. */
function SkinReading() {
  const read = useReadTones();
  if (!read.data?.skins.length) return null;
  return (
    <dl className="mg-skin-reading" aria-label="Hue of the skin">
      {read.data.skins.map((s) => {
        const was = read.data.before.find((b) => b.face === s.face);
        const changed = was && was.kind !== s.kind;
        return (
          <div key={s.face}>
            <dt>{read.data.skins.length > 1 ? `Skin hue, face ${s.face + 1}` : "Skin hue"}</dt>
            <dd title="CIELAB hue angle of this person's skin, as photographed and now">
              {was && Math.round(was.hue) !== Math.round(s.hue) ? `${Math.round(was.hue)}° → ` : ""}
              {Math.round(s.hue)}°
            </dd>
            {changed && (
              <dd className="mg-amber" title="Individual typology angle">
                its class changed: {was.kind} to {s.kind}
              </dd>
            )}
          </div>
        );
      })}
    </dl>
  );
}

/** Puts the middle of a vignette on the faces, or back into that of the frame. */
function MiddleOn({ pass }: { pass: Pass }) {
  const { gesture } = useBenchParts("gesture");
  const frame = useView((s) => s.view.frame);
  const picture = useView((s) => s.picture);
  const faces = useFaces((s) => s.analysis?.faces ?? []);
  const put = (x: number, y: number) => {
    const held = (v: number) => Math.round(2 * Math.min(Math.max(v, 0), 100)) / 2;
    gesture({ op: "change_pass", id: pass.id, settings: { x: held(x), y: held(y) } });
  };
  const onFaces = () => {
    const at = faces.map((f) => forthOf(frame, f.box[0]! + f.box[2]! / 2, f.box[1]! + f.box[3]! / 2));
    const mean = (k: 0 | 1) => at.reduce((sum, p) => sum + p[k], 0) / at.length;
    put((100 * mean(0)) / picture!.width, (100 * mean(1)) / picture!.height);
  };
  return (
    <div className="mg-row" role="group" aria-label="Middle">
      {faces.length > 0 && picture && (
        <Button size="sm" variant="quiet" title="The vignette's middle lies between all faces" onClick={onFaces}>
          Middle on {faces.length > 1 ? "the faces" : "the face"}
        </Button>
      )}
      <Button size="sm" variant="quiet" title="The vignette's middle is the frame's" onClick={() => put(50, 50)}>
        Middle of the frame
      </Button>
    </div>
  );
}

export function PassTools({ pass }: { pass: Pass }) {
  const { gesture } = useBenchParts("gesture");
  if (pass.kind === "vignette") return <MiddleOn pass={pass} />;
  if (pass.kind === "white_balance")
    return (
      <>
        <div className="mg-row" role="group" aria-label="Neutral by">
          <HandButton mode="neutral" title="Press on something that is grey or white in truth">
            Neutral place
          </HandButton>
          <Button size="sm" variant="quiet" title="By the whites of the eyes, or the teeth" onClick={() => gesture({ op: "propose_white", by: "eyes", pass_id: pass.id })}>
            By the eyes
          </Button>
          <Button size="sm" variant="quiet" title="By what is nearly grey in the picture" onClick={() => gesture({ op: "propose_white", by: "greys", pass_id: pass.id })}>
            By the greys
          </Button>
        </div>
        <SkinReading />
      </>
    );
  if (pass.kind === "picked_colour")
    return (
      <div className="mg-row">
        <span className="mg-swatch" style={{ background: `oklch(68% 0.13 ${Number(pass.settings["hue"])})` }} title="The colour that changes" />
        <HandButton mode="hue" title="Press on a colour to choose it; drag: right richer, up lighter">
          Pick the colour
        </HandButton>
      </div>
    );
  return null;
}
