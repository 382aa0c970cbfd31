/** What is compared, and what the picture and the Glass show. */
import { Button, ButtonGroup, Dropdown, Form } from "react-bootstrap";
import { Choice } from "../../ui/Choice";
import { Icon } from "../../ui/Icon";
import { Slider } from "../../ui/Slider";
import { hint } from "../keys";
import { useBenchParts } from "../state/bench";
import { choices, fromKey, keyOf, MODES, PRINTED, RESULT, useCompare, type Show } from "../state/compare";
import { useHand } from "../state/hand";
import { useTakes } from "../state/takes";
import { ProofChoice } from "./ProofChoice";

function ShowChoice({ label, value, withResult, onChange }: { label: string; value: Show; withResult?: boolean; onChange: (show: Show) => void }) {
  const { portrait, passes, openPass } = useBenchParts("portrait", "passes", "openPass");
  const takes = useTakes(portrait?.id);
  const list = choices(passes, openPass, takes.data ?? []);
  const key = keyOf(value);
  const known: [string, string][] = list.map((c) => [c.key, c.title]);
  if (withResult) known.unshift(["result", "Result"]);
  if (value.show === "proof" || value.show === "gamut") known.push([key, PRINTED[value.show]]);
  else if (!known.some(([k]) => k === key)) known.push([key, "Another pass"]);
  return <Choice label={label} value={key} choices={known} onChange={(k) => onChange(fromKey(k))} />;
}

export function ComparePopover() {
  const { mode, against, instead, inGlass, upright, flickerMs, set } = useCompare();
  const { glass, set: setHand } = useHand();
  const busy = mode !== "off" || instead.show !== "result";
  return (
    <Dropdown drop="up" align="end" autoClose="outside">
      <Dropdown.Toggle variant="tray" active={busy} title={hint("compare", "Compare, and what is shown")}>
        <Icon name="layout-split" /> <span className="mg-word">Compare</span>
      </Dropdown.Toggle>
      <Dropdown.Menu className="mg-compare" role="group" aria-label="Compare">
        <ButtonGroup aria-label="How to compare">
          {MODES.map((m) => (
            <Button key={m.mode} variant="tray" active={mode === m.mode} aria-pressed={mode === m.mode} aria-label={m.title} title={`${m.title}: ${m.how}`} onClick={() => set({ mode: m.mode })}>
              <Icon name={m.icon} />
            </Button>
          ))}
        </ButtonGroup>
        {mode === "wipe" && (
          <Form.Check type="switch" role="switch" id="wipe-upright" label="Upright line" checked={upright} onChange={(e) => set({ upright: e.target.checked })} />
        )}
        {mode === "flicker" && (
          <Slider label="Every" title="How long each of the two is seen" unit="ms" min={200} max={2000} step={50} initial={700} value={flickerMs} onInput={(v) => set({ flickerMs: v })} />
        )}
        <ShowChoice label="With" value={against} onChange={(s) => set({ against: s, mode: mode === "off" ? "wipe" : mode })} />
        <ShowChoice label="Picture" value={instead} withResult onChange={(s) => set({ instead: s })} />
        <ShowChoice
          label="Glass"
          value={inGlass}
          onChange={(s) => {
            set({ inGlass: s });
            if (!glass) setHand({ glass: true });
          }}
        />
        <ProofChoice />
        <Button variant="quiet" disabled={!busy} onClick={() => set({ mode: "off", instead: RESULT })}>
          Only the result
        </Button>
      </Dropdown.Menu>
    </Dropdown>
  );
}
