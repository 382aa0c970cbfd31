/** What a pass tells of itself in numbers: before, with it, and where its ceiling lies. */
import type { Pass } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { digits, usePassReadings } from "../state/readings";

export function PassReadings({ pass }: { pass: Pass }) {
  const readings = usePassReadings(pass);
  if (!readings) return null;
  // Those of single settings stand beside these, unless the pass changes them.
  const numbers = readings.readings.filter((r) => r.of.length === 0 || r.before !== r.after);
  const { notes } = readings;
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
