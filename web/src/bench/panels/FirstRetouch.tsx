/** The first retouch, step by step: what is done ticks itself. */
import { useEffect } from "react";
import { Button } from "react-bootstrap";
import { useBenchParts } from "../state/bench";
import { useCompare } from "../state/compare";
import { STEPS, useFirst } from "../state/firstRetouch";
import { kindsNow } from "../state/kinds";
import { useView } from "../state/view";

export function FirstRetouch({ delivering }: { delivering: boolean }) {
  const { passes } = useBenchParts("passes");
  const { done, away, tick, set } = useFirst();
  const close = useView((s) => !s.fitted && s.view.scale * window.devicePixelRatio >= 0.99);
  const original = useCompare((s) => s.held?.show === "original");
  const healed = passes.some((p) => p.kind === "heal" && p.touches.length > 0);
  const evened = passes.some((p) => p.kind !== "heal" && kindsNow().find((k) => k.name === p.kind)?.stage === "even");
  const dimmed = passes.some((p) => p.strength < 100);
  useEffect(() => {
    if (close) tick("look");
    if (healed) tick("heal");
    if (original) tick("compare");
    if (evened) tick("even");
    if (dimmed && evened) tick("dim");
    if (delivering) tick("deliver");
  }, [close, healed, original, evened, dimmed, delivering, tick]);
  if (away) return null;
  const next = STEPS.find(([name]) => !done.includes(name));
  return (
    <section className="mg-first" aria-label="First retouch">
      <h2>{next ? "Your first retouch" : "That was a whole retouch"}</h2>
      <ol>
        {STEPS.map(([name, words]) => (
          <li key={name} aria-current={next?.[0] === name ? "step" : undefined} className={done.includes(name) ? "mg-first-done" : ""}>
            {words}
            {done.includes(name) && <span className="visually-hidden"> Done.</span>}
          </li>
        ))}
      </ol>
      <Button variant="quiet" size="sm" onClick={() => set({ away: true })}>
        {next ? "Not now" : "Close"}
      </Button>
    </section>
  );
}
