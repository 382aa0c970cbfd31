/** How a reading came to where it is: its way through the history, and the gesture that crossed the limit. */
import { useEffect, useRef, useState } from "react";
import { Button, Spinner } from "react-bootstrap";
import type { ApiError, Finding } from "../../api/client";
import { useBenchParts } from "../state/bench";
import { crossing, follow, type AtStep } from "../state/check";

const [WIDE, HIGH] = [120, 34];

export function ReadingHistory({ f }: { f: Finding }) {
  const { portrait, history } = useBenchParts("portrait", "history");
  const [found, setFound] = useState<AtStep[] | null>(null);
  const [working, setWorking] = useState(false);
  const [problem, setProblem] = useState("");
  const gone = useRef(false);
  useEffect(() => {
    gone.current = false;
    return () => {
      gone.current = true;
    };
  }, []);
  const ask = async () => {
    setWorking(true);
    setProblem("");
    try {
      await follow(portrait!.id, f, history.at, setFound, () => gone.current);
    } catch (error) {
      if (!gone.current) setProblem((error as ApiError).message);
    }
    if (!gone.current) setWorking(false);
  };
  const crossed = found && !working ? crossing(found) : null;
  return (
    <>
      <Button variant="quiet" size="sm" disabled={working} aria-label={`Since when: ${f.title}${f.words ? `, ${f.words}` : ""}`} title="Follows this reading through the history" onClick={() => void ask()}>
        {working ? <Spinner size="sm" role="img" aria-label="Following" /> : "Since?"}
      </Button>
      {problem && <p className="mg-hint mg-warn">{problem}</p>}
      {found && found.length > 1 && <Way found={found} limit={f.limit} />}
      {crossed && (
        <p className="mg-hint">
          Since step {crossed[1].step}: {crossed[1].label}
        </p>
      )}
      {found && !working && !problem && !crossed && <p className="mg-hint">Beyond from the first step on.</p>}
    </>
  );
}

/** A line through the values, with the limit across. */
function Way({ found, limit }: { found: readonly AtStep[]; limit: number }) {
  const told = found.filter((s) => s.value !== null);
  const values = [...told.map((s) => s.value!), Math.max(limit, 0)];
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const last = Math.max(found.at(-1)!.step, 1);
  const at = (step: number, value: number) => [3 + ((WIDE - 6) * step) / last, HIGH - 3 - ((HIGH - 6) * (value - low)) / Math.max(high - low, 1e-9)] as const;
  return (
    <svg className="mg-way" viewBox={`0 0 ${WIDE} ${HIGH}`} role="img" aria-label={told.map((s) => `step ${s.step}: ${s.value!.toFixed(1)}`).join(", ")}>
      <line x1={0} x2={WIDE} y1={at(0, Math.max(limit, 0))[1]} y2={at(0, Math.max(limit, 0))[1]} className="mg-way-limit" />
      <polyline points={told.map((s) => at(s.step, s.value!).join(",")).join(" ")} />
      {told.map((s) => {
        const [x, y] = at(s.step, s.value!);
        return (
          <circle key={s.step} cx={x} cy={y} r={2} className={s.amber ? "mg-way-beyond" : ""}>
            <title>{`${s.label}: ${s.value!.toFixed(1)}`}</title>
          </circle>
        );
      })}
    </svg>
  );
}
