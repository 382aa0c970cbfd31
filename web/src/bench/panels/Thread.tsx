/** The thread: what was done along a line, with small pictures; takes hang where they were made. A click goes there. */
import { useQuery } from "@tanstack/react-query";
import { memo, useEffect, useRef, useState } from "react";
import { Button } from "react-bootstrap";
import { client, unwrap } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { useSettled } from "../../ui/useSettled";
import { useBenchParts } from "../state/bench";
import { useTakes } from "../state/takes";
import { bundled, hangsAt, placed, type Bundle } from "../state/thread";
import { LayerTakes } from "./LayerTakes";
import { KeepTake, TakeItem } from "./Takes";

const REST_MS = 900;

export const Thread = memo(function Thread({ onClose }: { onClose: () => void }) {
  const { portrait, history, revision, goTo } = useBenchParts("portrait", "history", "revision", "goTo");
  const id = portrait?.id ?? "";
  const settled = useSettled(revision, REST_MS);
  const steps = useQuery({
    queryKey: ["history", id, settled],
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/history", { params: { path: { portrait_id: id } } })),
    enabled: id !== "",
    placeholderData: (before) => before,
  });
  const takes = useTakes(portrait?.id).data ?? [];
  const [open, setOpen] = useState<ReadonlySet<number>>(new Set());
  const line = useRef<HTMLDivElement>(null);
  const bundles = bundled(steps.data ?? [], open);
  const at = history.at;
  // Where the portrait stands is in sight.
  useEffect(() => {
    line.current?.querySelector("[aria-current]")?.scrollIntoView({ inline: "center", block: "nearest" });
  }, [at, steps.data]);
  const places = placed(takes.map((take) => hangsAt(take, bundles)), bundles.length);
  return (
    <section className="mg-thread" aria-label="Thread" onKeyDown={(e) => e.key === "Escape" && onClose()}>
      <div className="mg-thread-head">
        <h2>Thread</h2>
        <span className="mg-hint">A click goes to a step; what comes after it can be done again. Takes are kept beside it.</span>
        <span className="flex-grow-1" />
        {portrait && <LayerTakes portrait={portrait} />}
        <KeepTake id={id} count={takes.length} />
        <Button variant="quiet" aria-label="Close the thread" onClick={onClose}>
          <Icon name="x-lg" />
        </Button>
      </div>
      <div className="mg-thread-line" ref={line}>
        <ol aria-label="History">
          <li style={{ gridColumn: 1 }}>
            <button type="button" aria-current={at === 0 ? "step" : undefined} onClick={() => goTo(0)}>
              <img loading="lazy" alt="" src={`/api/portraits/${id}/thumbnail?side=before`} />
              <span>As photographed</span>
            </button>
          </li>
          {bundles.map((b, n) => (
            <StepItem key={b.last.number} id={id} bundle={b} column={n + 2} at={at} onGo={goTo} onOpen={() => setOpen(new Set([...open, b.steps[0]!.number]))} />
          ))}
        </ol>
        <ul aria-label="Takes">
          {takes.map((take, n) => (
            <li key={take.id} className="mg-thread-take" style={{ gridColumn: places[n]![0], gridRow: places[n]![1] }}>
              <TakeItem take={take} id={id} />
            </li>
          ))}
        </ul>
      </div>
      {takes.length === 0 && <p className="mg-hint">A take keeps the portrait as it is now, to compare with or return to.</p>}
    </section>
  );
});

interface ItemProps {
  id: string;
  bundle: Bundle;
  column: number;
  at: number;
  onGo: (step: number) => void;
  onOpen: () => void;
}

function StepItem({ id, bundle, column, at, onGo, onOpen }: ItemProps) {
  const { last, steps } = bundle;
  const when = new Date(last.created_at);
  const here = steps.some((s) => s.number === at);
  const undone = steps[0]!.number > at;
  return (
    <li style={{ gridColumn: column }}>
      <button type="button" className={undone ? "mg-step-undone" : ""} aria-current={here ? "step" : undefined} title={`${last.label}, ${when.toLocaleString("en-GB")}`} onClick={() => onGo(last.number)}>
        <img loading="lazy" alt="" src={`/api/portraits/${id}/history/${last.number}/thumbnail?made=${when.getTime()}`} />
        <span>
          {last.label}
          <time dateTime={last.created_at}>{when.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}</time>
        </span>
      </button>
      {steps.length > 1 && (
        <button type="button" className="mg-thread-many" aria-label={`${last.label}: show its ${steps.length} steps`} title="Show them one by one" onClick={onOpen}>
          × {steps.length}
        </button>
      )}
    </li>
  );
}
