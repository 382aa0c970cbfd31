/** A run: how far it is, and the results to look through. */
import { useRef, useState } from "react";
import { Alert, Button, ButtonGroup, Spinner } from "react-bootstrap";
import { useNavigate, useParams } from "react-router";
import type { ApiError } from "../api/client";
import { Choice } from "../ui/Choice";
import { Icon } from "../ui/Icon";
import { Progress } from "../ui/Progress";
import { NotHere } from "../ui/NotHere";
import { PageHead } from "../ui/PageHead";
import { Pages } from "../ui/Pages";
import { Slider } from "../ui/Slider";
import { DeliverAccepted } from "./DeliverAccepted";
import { ResultTile } from "./ResultTile";
import { left, PAGE, total, useItems, useRun, useRunChanges, type Which } from "./runs";

const SHOWN: readonly (readonly [Which, string])[] = [
  ["all", "All"],
  ["open", "To look at"],
  ["accepted", "Accepted"],
  ["failed", "Failed"],
  ["going", "Not done yet"],
];

export function RunPage() {
  const { id = "" } = useParams();
  const run = useRun(id);
  const changes = useRunChanges(id);
  const [which, setWhich] = useState<Which>("all");
  const [order, setOrder] = useState<"worry" | "number">("worry");
  const [start, setStart] = useState(0);
  const [strength, setStrength] = useState(60);
  const [said, setSaid] = useState("");
  const list = useRef<HTMLUListElement>(null);
  const navigate = useNavigate();
  const items = useItems(run.data, which, order, start);
  const failure = [changes.steer, changes.accept, changes.ease, changes.undo].find((c) => c.error)?.error as ApiError | undefined;
  const ease = (numbers: number[] | null) =>
    changes.ease.mutate(
      { numbers, strength },
      { onSuccess: ({ eased, left: others }) => setSaid(`${eased} eased to ${strength} %${others ? `, ${others} had nothing to ease` : ""}.`) },
    );
  const step = (from: number, by: number) => (list.current?.children[from + by] as HTMLElement | undefined)?.focus();
  if (run.isError) return <NotHere text={run.error.message} />;
  if (!run.data) return <Spinner role="status" aria-label="Loading the run" />;
  const one = run.data;
  const all = total(one);
  const ended = one.done + one.failed + one.cancelled;
  const steer = (action: Parameters<typeof changes.steer.mutate>[0]["action"]) => changes.steer.mutate({ action });
  return (
    <div className="mg-wall">
      <PageHead title={one.title} />
      <main className="mg-wall-main">
        <div className="mg-wall-head mg-run-head">
          <div>
            <h1>{one.title}</h1>
            <p aria-label="Progress" aria-live="polite">
              {one.done} of {all} done{one.failed > 0 && `, ${one.failed} failed`}
              {one.cancelled > 0 && `, ${one.cancelled} cancelled`}
              {one.accepted > 0 && `, ${one.accepted} accepted`}
              {one.state === "paused" && ", paused"} <small>{left(one.seconds_left)}</small>
            </p>
          </div>
          <span className="mg-run-steer">
            {one.state === "going" && (
              <>
                <Button variant="secondary" onClick={() => steer("pause")}>
                  <Icon name="pause" /> Pause
                </Button>
                <Button variant="secondary" title="Before all other runs that wait" onClick={() => steer("first")}>
                  <Icon name="arrow-up" /> First
                </Button>
              </>
            )}
            {one.state === "paused" && (
              <Button onClick={() => steer("go-on")}>
                <Icon name="play" /> Go on
              </Button>
            )}
            {(one.state === "going" || one.state === "paused") && (
              <Button variant="secondary" title="What is done stays" onClick={() => steer("cancel")}>
                Cancel
              </Button>
            )}
            {one.failed + one.cancelled > 0 && (
              <Button variant="secondary" onClick={() => steer("retry")}>
                <Icon name="arrow-repeat" /> Try {one.failed + one.cancelled} again
              </Button>
            )}
          </span>
        </div>
        <Progress now={(100 * ended) / Math.max(all, 1)} label="Progress of the run" className="mb-3" />
        {failure && <Alert variant="warning">{failure.message}</Alert>}
        <div className="mg-run-tools">
          <Choice
            label="Show"
            value={which}
            choices={SHOWN}
            onChange={(v) => {
              setWhich(v as Which);
              setStart(0);
            }}
          />
          <Choice
            label="First"
            value={order}
            choices={[["worry", "What needs eyes"], ["number", "As on the wall"]]}
            onChange={(v) => setOrder(v as "worry" | "number")}
          />
          <Slider label="Ease to" title="Strength of what the run did" unit="%" min={0} max={100} initial={60} value={strength} onInput={setStrength} />
          <ButtonGroup>
            <Button variant="secondary" disabled={one.done === 0 || changes.ease.isPending} onClick={() => ease(null)}>
              Ease all to look at
            </Button>
            <Button variant="secondary" disabled={one.done === one.accepted} onClick={() => changes.accept.mutate({ numbers: null, accepted: true })}>
              <Icon name="check-lg" /> Accept all
            </Button>
          </ButtonGroup>
          <DeliverAccepted run={one} />
        </div>
        <p className="mg-hint" aria-live="polite">
          {said || "Move over a picture to wipe to the original. Keys on a picture: A accepts, E eases, U undoes, O opens, B shows before."}
        </p>
        <ul className="mg-tiles" aria-label="Results" ref={list}>
          {items.data?.items.map((item, n) => (
            <ResultTile
              key={item.number}
              item={item}
              onAccept={(accepted) => changes.accept.mutate({ numbers: [item.number], accepted })}
              onEase={() => ease([item.number])}
              onUndo={() => changes.undo.mutate(item.number)}
              onRetry={() => changes.steer.mutate({ action: "retry", numbers: [item.number] })}
              onOpen={() => void navigate(`/portraits/${item.portrait.id}`)}
              onStep={(by) => step(n, by)}
            />
          ))}
        </ul>
        {items.data?.count === 0 && <div className="mg-empty">Nothing of this kind.</div>}
        <Pages start={start} count={items.data?.count ?? 0} page={PAGE} onStart={setStart} />
      </main>
    </div>
  );
}
