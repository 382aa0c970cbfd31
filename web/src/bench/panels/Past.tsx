/** What was done, step by step, and the takes that were kept. */
import { memo, useState } from "react";
import { Steps } from "./Steps";
import { Takes } from "./Takes";

export const Past = memo(function Past() {
  const [tab, setTab] = useState<"history" | "takes">("history");
  const entry = (name: typeof tab, title: string) => (
    <button type="button" role="tab" aria-selected={tab === name} aria-controls="past" onClick={() => setTab(name)}>
      {title}
    </button>
  );
  return (
    <section className="mg-past">
      <div role="tablist" aria-label="Past" className="mg-tabs">
        {entry("history", "History")}
        {entry("takes", "Takes")}
      </div>
      <div id="past" role="tabpanel" aria-label={tab === "history" ? "History" : "Takes"}>
        {tab === "history" ? <Steps /> : <Takes />}
      </div>
    </section>
  );
});
