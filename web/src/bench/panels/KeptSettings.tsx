/** Kept settings in the menu of passes: on what is found, or empty and painted on by hand. */
import { Button, Dropdown } from "react-bootstrap";
import type { Kind, Kept, Operation } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { usePreferences, withoutNamed } from "../../session/preferences";
import { useBench } from "../state/bench";
import { useHand } from "../state/hand";

type Add = Extract<Operation, { op: "add_pass" }>;

export function KeptSettings({ kinds, add }: { kinds: Kind[]; add: (one: Partial<Add> & { kind: string }) => void }) {
  const { kept, save } = usePreferences();
  const here = kept.filter((k) => kinds.some((kind) => kind.name === k.kind));
  if (here.length === 0) return null;
  const { gesture } = useBench.getState();
  const paint = ({ kind, name, settings }: Kept) =>
    gesture({ op: "add_pass", kind, name, settings, areas: [] }, (outcome) => {
      if (!outcome?.pass_id) return;
      // Nothing shows until it is painted.
      gesture({ op: "set_mask", pass_id: outcome.pass_id, areas: [], invert: true, clear_strokes: false, label: "To paint on:" }, () =>
        useHand.getState().set({ mode: "ease", reveal: true }),
      );
    });
  return (
    <>
      <Dropdown.Divider />
      <Dropdown.Header>Kept settings</Dropdown.Header>
      {here.map((k) => (
        <div key={k.name} className="mg-row flex-nowrap">
          <Dropdown.Item as="button" className="flex-grow-1" title="On what is found" onClick={() => add({ kind: k.kind, name: k.name, settings: k.settings })}>
            {k.name}
          </Dropdown.Item>
          <Dropdown.Item as="button" className="w-auto" aria-label={`Paint ${k.name}`} title="Painted on by hand: it shows where the brush goes" onClick={() => paint(k)}>
            <Icon name="brush" />
          </Dropdown.Item>
          <Button variant="quiet" aria-label={`Delete ${k.name}`} title="Delete" onClick={() => void save((now) => ({ kept: withoutNamed(now.kept, k.name) }))}>
            <Icon name="x" />
          </Button>
        </div>
      ))}
    </>
  );
}
