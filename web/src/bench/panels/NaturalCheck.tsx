/** The natural check: what of the result lies beyond what looks natural, and where. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Spinner } from "react-bootstrap";
import { client, unwrap, type Finding } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { useBench, useBenchParts } from "../state/bench";
import { useView } from "../state/view";

const said = (f: Finding) => {
  const digits = Math.abs(f.value) < 10 ? 1 : 0;
  const limit = f.limit < 0 ? "" : `, ${f.side === "most" ? "at most" : "at least"} ${f.limit}`;
  return `${f.value.toFixed(digits)} ${f.unit}${limit}`;
};

export function NaturalCheck() {
  const { portrait, revision, gesture } = useBenchParts("portrait", "revision", "gesture");
  const [asked, setAsked] = useState<number | null>(null);
  const id = portrait?.id ?? "";
  const show = useView((v) => v.show);
  const check = useQuery({
    queryKey: ["natural", id, asked],
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/natural", { params: { path: { portrait_id: id } } })),
    enabled: id !== "" && asked !== null,
    staleTime: Infinity,
    retry: false,
  });
  const [easing, setEasing] = useState(false);
  const ease = (f: Finding) => {
    setEasing(true);
    gesture({ op: "ease_reading", reading: f.name, face: f.face, zone: f.zone }, () => {
      setEasing(false);
      // Read again, of what it is now.
      setAsked(useBench.getState().revision);
    });
  };
  const beyond = check.data?.filter((f) => f.amber) ?? [];
  const old = check.data && asked !== revision;
  return (
    <section className="mg-natural" aria-label="Natural check">
      <Button variant="quiet" disabled={check.isFetching} onClick={() => setAsked(revision)} title="Reads texture, colour, light and edges against the original">
        {check.isFetching ? <Spinner size="sm" role="img" aria-label="Checking" /> : <Icon name="activity" />} Natural?
      </Button>
      {check.error && <p className="mg-hint mg-warn">{check.error.message}</p>}
      {check.data && (
        <>
          <p className="mg-hint">
            {beyond.length === 0 ? `All ${check.data.length} readings within limits` : `${beyond.length} of ${check.data.length} beyond`}
            {old && !easing && ", before the last steps"}
          </p>
          {easing && (
            <p className="mg-hint" aria-live="polite">
              <Spinner size="sm" role="img" aria-label="Easing" /> Looking for the pass that causes it…
            </p>
          )}
          {!old && (
            <a className="mg-hint" href={`/api/portraits/${id}/natural.pdf`} download>
              As a sheet (PDF)
            </a>
          )}
          <ul aria-label="Beyond the limits">
            {beyond.map((f, n) => (
              <li key={n}>
                <button type="button" className="mg-card-name mg-warn" title={f.meaning} disabled={!f.place} onClick={() => f.place && show(f.place)}>
                  {f.title}
                  <small>
                    {f.words} {said(f)}
                  </small>
                </button>
                <Button variant="quiet" size="sm" disabled={easing || old === true} onClick={() => ease(f)} aria-label={`Ease ${f.title}${f.words ? `, ${f.words}` : ""}`} title="Takes the pass that causes it back, by as much as is needed">
                  Ease
                </Button>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
