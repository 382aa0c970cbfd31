/** What a pass tells of itself in numbers: before, with it, and where its ceiling lies. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, unwrap, type Pass } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { useBenchParts } from "../state/bench";

/** Lengths are told to a tenth. */
const digits = (unit: string) => (unit === "mm" || unit === "px" ? 1 : 0);

export function PassReadings({ pass }: { pass: Pass }) {
  const { portrait, revision } = useBenchParts("portrait", "revision");
  const id = portrait?.id ?? "";
  const readings = useQuery({
    queryKey: ["pass-readings", id, pass.id, revision],
    queryFn: () =>
      unwrap(client.GET("/api/portraits/{portrait_id}/passes/{pass_id}/readings", { params: { path: { portrait_id: id, pass_id: pass.id } } })),
    placeholderData: keepPreviousData,
    enabled: id !== "",
  });
  if (!readings.data) return null;
  const { readings: numbers, notes } = readings.data;
  return (
    <>
    {notes.map((text) => (
      <p key={text} className="mg-hint mg-warn">
        <Icon name="exclamation-triangle" /> {text}
      </p>
    ))}
    {numbers.length > 0 && (
    <dl className="mg-pass-readings" aria-label="Readings">
      {numbers.map((r) => (
        <div key={r.name} className={r.beyond ? "mg-warn" : undefined} title={r.meaning}>
          <dt>{r.title}</dt>
          <dd>
            {r.before.toFixed(digits(r.unit))} → <strong>{r.after.toFixed(digits(r.unit))}</strong> {r.unit}
            {r.limit !== null && (
              <small>
                {r.beyond && <Icon name="exclamation-triangle" />} {r.least ? "least" : "ceiling"} {r.limit.toFixed(digits(r.unit))}
              </small>
            )}
          </dd>
        </div>
      ))}
    </dl>
    )}
    </>
  );
}
