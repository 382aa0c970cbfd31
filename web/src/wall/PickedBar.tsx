/** What can be done with the portraits that are picked. */
import { useState } from "react";
import { Button, Dropdown } from "react-bootstrap";
import { ShowDialog } from "../clients/ShowDialog";
import { RunDialog } from "../runs/RunDialog";
import { Icon } from "../ui/Icon";
import { ContactSheet } from "./ContactSheet";
import { MatchLight } from "./MatchLight";
import { FLAGS, useArrange, useSessions } from "./library";

interface Props {
  ids: string[];
  /** What they are called together. */
  name: string;
  onPickAll: () => void;
  onLetGo: () => void;
}

export function PickedBar({ ids, name, onPickAll, onLetGo }: Props) {
  const sessions = useSessions().data ?? [];
  const arrange = useArrange();
  const [showing, setShowing] = useState(false);
  const [running, setRunning] = useState(false);
  return (
    <section className="mg-picked" aria-label="Picked portraits">
      <span>{ids.length} picked</span>
      <Button variant="quiet" onClick={onPickAll}>
        Pick all
      </Button>
      <Button variant="quiet" onClick={onLetGo}>
        Let go
      </Button>
      <Dropdown drop="up">
        <Dropdown.Toggle variant="quiet">Move to</Dropdown.Toggle>
        <Dropdown.Menu>
          {sessions.map((s) => (
            <Dropdown.Item as="button" key={s.id} onClick={() => arrange.mutate({ ids, session: s.id })}>
              {s.name}
            </Dropdown.Item>
          ))}
          <Dropdown.Item as="button" onClick={() => arrange.mutate({ ids, session: "none" })}>
            No session
          </Dropdown.Item>
        </Dropdown.Menu>
      </Dropdown>
      <Dropdown drop="up">
        <Dropdown.Toggle variant="quiet">Flag</Dropdown.Toggle>
        <Dropdown.Menu>
          {FLAGS.map(([flag, text]) => (
            <Dropdown.Item as="button" key={flag} onClick={() => arrange.mutate({ ids, flag })}>
              {text}
            </Dropdown.Item>
          ))}
        </Dropdown.Menu>
      </Dropdown>
      <MatchLight ids={ids} />
      {arrange.error && <span className="mg-warn">{arrange.error.message}</span>}
      <span className="flex-grow-1" />
      <ContactSheet ids={ids} />
      <Button variant="secondary" onClick={() => setShowing(true)}>
        <Icon name="people" /> Show to a client…
      </Button>
      <ShowDialog ids={ids} name={name} show={showing} onClose={() => setShowing(false)} />
      <Button onClick={() => setRunning(true)}>
        <Icon name="collection" /> Run a routine…
      </Button>
      <RunDialog ids={ids} show={running} onClose={() => setRunning(false)} />
    </section>
  );
}
