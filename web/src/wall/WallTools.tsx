/** Which part of the wall is shown: a session, flags, stars, names; and in which order. */
import { capital } from "../ui/format";
import { useState } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import { Choice } from "../ui/Choice";
import { Icon } from "../ui/Icon";
import { NameField } from "../ui/NameField";
import { FLAGS, useSessions, useSessionsChange, type Wanted } from "./library";

const SORTS = [
  ["worked", "Worked on last"],
  ["added", "Added last"],
  ["name", "By name"],
] as const;

interface Props {
  wanted: Wanted;
  onChange: (part: Partial<Wanted>) => void;
}

export function WallTools({ wanted, onChange }: Props) {
  const sessions = useSessions().data ?? [];
  const { make, change, remove } = useSessionsChange();
  const [naming, setNaming] = useState(false);
  const [renaming, setRenaming] = useState(false);
  const open = sessions.find((s) => s.id === wanted.session);
  const failure = make.error ?? change.error ?? remove.error;
  const begin = (name: string | null) => {
    if (name) make.mutate(name, { onSuccess: (made) => onChange({ session: made.id }) });
    setNaming(false);
  };
  const rename = (name: string | null) => {
    if (open && name) change.mutate({ id: open.id, name });
    setRenaming(false);
  };
  return (
    <div className="mg-wall-tools">
      <nav aria-label="Sessions" className="mg-sessions">
        {[
          ["", "All"],
          ["none", "In no session"],
          ...sessions.map((s) => [s.id, `${s.name} (${s.count})`] as const),
        ].map(([id, text]) => (
          <Button key={id} variant="tray" size="sm" active={wanted.session === id} aria-pressed={wanted.session === id} onClick={() => onChange({ session: id })}>
            {text}
          </Button>
        ))}
        {!naming ? (
          <Button variant="quiet" size="sm" onClick={() => setNaming(true)}>
            <Icon name="plus-lg" /> New session
          </Button>
        ) : (
          <NameField label="Name of the new session" most={120} onDone={begin} />
        )}
        {open && (
          <Dropdown>
            <Dropdown.Toggle variant="quiet" size="sm" className="mg-more" aria-label={`More for the session ${open.name}`}>
              <Icon name="three-dots" />
            </Dropdown.Toggle>
            <Dropdown.Menu>
              <Dropdown.Item as="button" onClick={() => window.setTimeout(() => setRenaming(true))}>
                Rename
              </Dropdown.Item>
              <Dropdown.Item
                as="button"
                title="Marks of a person are looked for on the session's other pictures; nothing of it is kept beyond the session"
                onClick={() => change.mutate({ id: open.id, travel: !open.travel })}
              >
                {open.travel ? "Let marks stay on their picture" : "Let marks travel"}
              </Dropdown.Item>
              <Dropdown.Item
                as="button"
                title="Its portraits stay, in no session"
                onClick={() => {
                  remove.mutate(open.id);
                  onChange({ session: "" });
                }}
              >
                Take the session away
              </Dropdown.Item>
            </Dropdown.Menu>
          </Dropdown>
        )}
        {open && renaming && (
          <NameField label="Name of the session" initial={open.name} most={120} onDone={rename} />
        )}
      </nav>
      {failure && <p className="mg-warn">{failure.message}</p>}
      <div className="mg-wall-filters">
        <Form.Control
          size="sm"
          type="search"
          aria-label="Find by name"
          placeholder="Find by name"
          value={wanted.search}
          onChange={(e) => onChange({ search: e.target.value })}
        />
        <Choice label="Show" value={wanted.flag} choices={[["any", "All"], ...FLAGS.map(([flag, text]) => [flag, capital(text)] as const)]} onChange={(flag) => onChange({ flag: flag as Wanted["flag"] })} />
        <Form.Check id="wall-starred" label="Starred only" checked={wanted.starred} onChange={(e) => onChange({ starred: e.target.checked })} />
        <Choice label="Order" value={wanted.sort} choices={SORTS} onChange={(sort) => onChange({ sort: sort as Wanted["sort"] })} />
      </div>
    </div>
  );
}
