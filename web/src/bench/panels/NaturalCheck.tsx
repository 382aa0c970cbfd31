/** The natural check: what of the result lies beyond what looks natural, where, and since when. */
import { useState } from "react";
import { Button, Form, Spinner } from "react-bootstrap";
import type { Finding } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { useBench, useBenchParts } from "../state/bench";
import { askNow, numbers, useCheck, useCheckState } from "../state/check";
import { useView } from "../state/view";
import { ReadingHistory } from "./ReadingHistory";
import { SpotTest } from "./SpotTest";

export function NaturalCheck({ label = "Natural check" }: { label?: string }) {
  const { gesture } = useBenchParts("gesture");
  const { id, revision, check, old } = useCheck();
  const { shown, set } = useCheckState();
  const [easing, setEasing] = useState(false);
  const [all, setAll] = useState(false);
  const [testing, setTesting] = useState(false);
  const ease = (f: Finding) => {
    setEasing(true);
    gesture({ op: "ease_reading", reading: f.name, face: f.face, zone: f.zone }, () => {
      setEasing(false);
      // Read again, of what it is now.
      askNow(id, useBench.getState().revision);
    });
  };
  const beyond = check.data?.filter((f) => f.amber) ?? [];
  const within = check.data?.filter((f) => !f.amber) ?? [];
  const limited = check.data?.filter((f) => f.side !== "told").length ?? 0;
  return (
    <section className="mg-natural" aria-label={label}>
      <span className="mg-natural-head">
        <Button variant="quiet" disabled={check.isFetching} onClick={() => askNow(id, revision)} title="Reads texture, colour, light, edges, moves and marks against the original">
          {check.isFetching ? <Spinner size="sm" role="img" aria-label="Checking" /> : <Icon name="activity" />} Natural?
        </Button>
        <Button variant="quiet" title="Guess which of two places is retouched" onClick={() => setTesting(true)}>
          Spot it
        </Button>
      </span>
      <SpotTest show={testing} onClose={() => setTesting(false)} />
      {check.error && <p className="mg-hint mg-warn">{check.error.message}</p>}
      {check.data && (
        <>
          <p className="mg-hint">
            {beyond.length === 0 ? `All ${limited} readings within limits` : `${beyond.length} of ${limited} beyond`}
            {old && !easing && ", before the last steps"}
          </p>
          {easing && (
            <p className="mg-hint" aria-live="polite">
              <Spinner size="sm" role="img" aria-label="Easing" /> Looking for the pass that causes it…
            </p>
          )}
          <ul aria-label="Beyond the limits">
            {beyond.map((f, n) => (
              <li key={n}>
                <Reading f={f} number={n + 1} />
                {f.eases && (
                  <Button
                    variant="quiet"
                    size="sm"
                    disabled={easing || old}
                    onClick={() => ease(f)}
                    aria-label={`Ease ${f.title}${f.words ? `, ${f.words}` : ""}`}
                    title="Takes the pass that causes it back, by as much as is needed"
                  >
                    Ease
                  </Button>
                )}
                {f.eases && !old && <ReadingHistory key={revision} f={f} />}
              </li>
            ))}
          </ul>
          {beyond.length > 0 && (
            <Form.Check id={`${label} places`.replaceAll(" ", "-")} className="mg-hint" label="Outline the places" checked={shown} onChange={(e) => set({ shown: e.target.checked })} />
          )}
          <Button variant="link" size="sm" aria-expanded={all} onClick={() => setAll(!all)}>
            {all ? "Hide what is within" : `Show the ${within.length} others`}
          </Button>
          {all && (
            <ul aria-label="Within the limits">
              {within.map((f, n) => (
                <li key={n}>
                  <Reading f={f} />
                </li>
              ))}
            </ul>
          )}
          {!old && (
            <p className="mg-hint">
              As a file: <a href={`/api/portraits/${id}/natural.pdf`} download>PDF</a>, <a href={`/api/portraits/${id}/natural.json`} download="natural check.json">JSON</a>
            </p>
          )}
        </>
      )}
    </section>
  );
}

function Reading({ f, number }: { f: Finding; number?: number }) {
  const show = useView((v) => v.show);
  return (
    <button type="button" className={`mg-card-name ${f.amber ? "mg-warn" : ""}`} title={f.meaning} disabled={!f.place} onClick={() => f.place && show(f.place)}>
      {number !== undefined && `${number} `}
      {f.title}
      <small>
        {f.words} {numbers(f)}
      </small>
    </button>
  );
}
