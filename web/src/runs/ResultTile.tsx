/** A result of a run: before and after by wiping over it, its readings, what can be said about it. */
import { useState, type KeyboardEvent } from "react";
import { Button } from "react-bootstrap";
import { Link } from "react-router";
import { Icon } from "../ui/Icon";
import { Progress } from "../ui/Progress";
import { readings, type Item } from "./runs";

interface Props {
  item: Item;
  onAccept: (accepted: boolean) => void;
  onEase: () => void;
  onUndo: () => void;
  onRetry: () => void;
  onOpen: () => void;
  /** To the next or the one before. */
  onStep: (by: number) => void;
}

export function ResultTile({ item, onAccept, onEase, onUndo, onRetry, onOpen, onStep }: Props) {
  const [at, setAt] = useState<number | null>(null);
  const { portrait } = item;
  const base = `/api/portraits/${portrait.id}/thumbnail`;
  const done = item.state === "done";
  const key = (e: KeyboardEvent) => {
    const act = {
      a: () => done && onAccept(item.review !== "accepted"),
      e: () => item.can_ease && onEase(),
      u: () => done && item.review !== "undone" && onUndo(),
      o: onOpen,
      ArrowRight: () => onStep(1),
      ArrowLeft: () => onStep(-1),
      b: () => setAt(at === 1 ? null : 1),
    }[e.key];
    if (!act || e.ctrlKey || e.metaKey || e.altKey) return;
    e.preventDefault();
    act();
  };
  const wipe = (e: React.PointerEvent) => {
    const box = e.currentTarget.getBoundingClientRect();
    setAt(Math.min(Math.max((e.clientX - box.left) / box.width, 0), 1));
  };
  return (
    <li className={`mg-tile mg-result mg-result-${done ? item.review : item.state}`} tabIndex={0} aria-label={portrait.name} onKeyDown={key}>
      <div className="mg-tile-picture" onPointerMove={done ? wipe : undefined} onPointerLeave={() => setAt(null)}>
        <img src={`${base}?side=after&revision=${portrait.revision}`} alt={portrait.name} loading="lazy" />
        {done && (
          <img src={`${base}?side=before`} alt="" loading="lazy" style={{ clipPath: `inset(0 ${100 - 100 * (at ?? 0)}% 0 0)` }} />
        )}
        {at !== null && done && <span className="mg-result-line" style={{ left: `${100 * at}%` }} />}
        {item.state === "working" && <span className="mg-tile-flag">{item.doing ? `${item.doing} …` : "working…"}</span>}
        {item.state === "working" && item.share !== null && (
          <Progress className="mg-tile-progress" label={`How far ${portrait.name} is`} now={100 * item.share} />
        )}
        {item.state === "waiting" && <span className="mg-tile-flag">waiting</span>}
        {item.review === "accepted" && (
          <span className="mg-tile-flag">
            <Icon name="check-lg" /> accepted
          </span>
        )}
        {item.review === "undone" && <span className="mg-tile-flag">taken back</span>}
      </div>
      <div className="mg-tile-line">
        <Link to={`/portraits/${portrait.id}`} className="text-truncate" title={`Open ${portrait.name}`}>
          {portrait.name}
        </Link>
        <span className="mg-tile-actions">
          {done && item.review !== "undone" && (
            <>
              <Button
                variant="quiet"
                active={item.review === "accepted"}
                aria-pressed={item.review === "accepted"}
                aria-label={`Accept ${portrait.name}`}
                title="Accept (A)"
                onClick={() => onAccept(item.review !== "accepted")}
              >
                <Icon name="check-lg" />
              </Button>
              {item.can_ease && (
                <Button variant="quiet" aria-label={`Ease ${portrait.name}`} title="Ease by the amount above (E)" onClick={onEase}>
                  <Icon name="arrow-down" />
                </Button>
              )}
              <Button variant="quiet" aria-label={`Undo the run on ${portrait.name}`} title="Take back what the run did here (U)" onClick={onUndo}>
                <Icon name="arrow-counterclockwise" />
              </Button>
            </>
          )}
          {(item.state === "failed" || item.state === "cancelled") && (
            <Button variant="quiet" aria-label={`Try ${portrait.name} again`} title="Try again" onClick={onRetry}>
              <Icon name="arrow-repeat" />
            </Button>
          )}
        </span>
      </div>
      <div className="mg-tile-small">
        {done && item.beyond.length > 0 && <p className="mg-warn">Beyond a limit: {item.beyond.join(", ").toLowerCase()}</p>}
        {item.note && <p className="mg-warn">{item.note}</p>}
        {item.state === "failed" && <p className="mg-warn">{item.message}</p>}
        {done && readings(item).join(" · ")}
      </div>
    </li>
  );
}
