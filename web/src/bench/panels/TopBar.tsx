import { memo } from "react";
import { Button } from "react-bootstrap";
import { Link } from "react-router";
import { Icon } from "../../ui/Icon";
import { hint } from "../keys";
import { useBenchParts } from "../state/bench";
import { STAGES, useKinds } from "../state/kinds";

interface Props {
  stage: string;
  onStage: (stage: string) => void;
  onDeliver: () => void;
  thread: boolean;
  onThread: () => void;
  onFind: () => void;
}

function Saving() {
  const { saving, waiting } = useBenchParts("saving", "waiting");
  if (saving === "offline")
    return (
      <span className="mg-saving mg-warn" role="status">
        <Icon name="cloud-slash" /> Not saved yet: {waiting} waiting, trying again
      </span>
    );
  return (
    <span className="mg-saving" role="status">
      {saving === "saved" ? "Saved" : "Saving…"}
    </span>
  );
}

export const TopBar = memo(function TopBar({ stage, onStage, onDeliver, thread, onThread, onFind }: Props) {
  const { portrait, passes, history, undo, redo } = useBenchParts("portrait", "passes", "history", "undo", "redo");
  const kinds = useKinds();
  const real = kinds.data?.filter((k) => !k.guide);
  const stageOf = new Map(real?.map((k) => [k.name, k.stage]));
  const alive = new Set(stageOf.values());
  return (
    <header className="mg-top">
      <Link to="/" className="btn btn-quiet" title="All portraits" aria-label="All portraits">
        <Icon name="grid" />
      </Link>
      <h1 className="mg-portrait-name" title={portrait?.name}>
        {portrait?.name}
      </h1>
      <Saving />
      <nav className="mg-stages" aria-label="Stages">
        <ol>
          {STAGES.filter((s) => alive.has(s.name)).map((s) => {
            const count = passes.filter((p) => stageOf.get(p.kind) === s.name).length;
            return (
              <li key={s.name}>
                <button
                  type="button"
                  aria-current={stage === s.name ? "step" : undefined}
                  onClick={() => onStage(s.name)}
                >
                  {s.title}
                  <span className="mg-count" aria-label={`${count} passes`}>
                    {count}
                  </span>
                </button>
              </li>
            );
          })}
        </ol>
      </nav>
      <Button variant="quiet" aria-label="Find by saying" title={hint("find", "Say what you need")} onClick={onFind}>
        <Icon name="chat-square-text" />
      </Button>
      <Button
        variant="quiet"
        disabled={!history.undo}
        onClick={undo}
        aria-label="Undo"
        title={history.undo ? hint("undo", `Undo: ${history.undo}`) : "Nothing to undo"}
      >
        <Icon name="arrow-counterclockwise" />
      </Button>
      <Button variant="quiet" className="mg-thread-open" active={thread} aria-expanded={thread} aria-label="Thread" title={hint("thread", "The thread: all steps, and takes")} onClick={onThread}>
        {history.at}
        <Icon name="chevron-down" />
      </Button>
      <Button
        variant="quiet"
        disabled={!history.redo}
        onClick={redo}
        aria-label="Redo"
        title={history.redo ? hint("redo", `Redo: ${history.redo}`) : "Nothing to redo"}
      >
        <Icon name="arrow-clockwise" />
      </Button>
      <Link to="/help" className="btn btn-quiet" aria-label="Help" title={hint("help", "Help")}>
        <Icon name="question-circle" />
      </Link>
      <Button onClick={onDeliver}>Deliver</Button>
    </header>
  );
});
