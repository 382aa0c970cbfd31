/** What some kinds of pass offer besides their settings: picking in the picture, proposals, readings. */
import { Button } from "react-bootstrap";
import type { Pass } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { takeHand } from "../hands";
import { useBenchParts } from "../state/bench";
import { useHand, type Mode } from "../state/hand";
import { useReadTones } from "../state/tones";

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

export function PassTools({ pass }: { pass: Pass }) {
  const { gesture } = useBenchParts("gesture");
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
