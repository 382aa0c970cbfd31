/** What clients wish at places of the portrait. */
import { useState } from "react";
import { Form } from "react-bootstrap";
import { ago } from "../../ui/format";
import { useHeeding, usePinDone, usePins } from "../state/pins";
import { useView } from "../state/view";

export function PinsCard() {
  const pins = usePins();
  const done = usePinDone();
  // What was ticked shows at once, until it is known of the server.
  const [ticked, setTicked] = useState<Record<string, boolean>>({});
  const tick = (id: string, now: boolean) => {
    setTicked((all) => ({ ...all, [id]: now }));
    void done
      .mutateAsync({ id, done: now })
      .catch(() => undefined)
      .finally(() => setTicked(({ [id]: _, ...rest }) => rest));
  };
  const centre = useView((v) => v.centre);
  const zoomTo = useView((v) => v.zoomTo);
  useHeeding(pins);
  if (pins.length === 0) return null;
  const open = pins.filter((p) => !p.done).length;
  return (
    <section className="mg-pins" aria-label="Clients' pins">
      <h2>
        Pins <small>{open === 0 ? "all done" : `${open} open`}</small>
      </h2>
      {done.error && <p className="mg-hint mg-warn">{done.error.message}</p>}
      <ol aria-label="Pins">
        {pins.map((pin, n) => (
          <li key={pin.id} className={pin.done ? "mg-pin-done" : ""}>
            <button
              type="button"
              className="mg-card-name"
              title={`${pin.link}, ${ago(pin.created_at)}`}
              onClick={() => {
                zoomTo(1 / (window.devicePixelRatio || 1));
                centre(pin.x, pin.y);
              }}
            >
              <b>{n + 1}</b> {pin.words || "Keep this"}
              <small>{pin.kind === "keep" ? (pin.heeded ? "kept" : "to keep") : "to change"}</small>
            </button>
            <Form.Check aria-label={`Pin ${n + 1} is done`} title="Done" checked={ticked[pin.id] ?? pin.done} onChange={(e) => tick(pin.id, e.target.checked)} />
          </li>
        ))}
      </ol>
    </section>
  );
}
