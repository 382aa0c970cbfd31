/** Says where the sweep is while it goes on. */
import { Button } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { hint } from "../keys";
import { useSweep } from "../state/sweep";
import { useZones } from "../state/zones";

export function SweepFlag() {
  const { active, at, stops, step, end } = useSweep();
  const zones = useZones();
  const stop = stops[at];
  if (!active || !stop) return null;
  const title = zones.data?.find((z) => z.name === stop.zone)?.title ?? stop.zone;
  return (
    <div className="mg-flag mg-sweep-flag" role="region" aria-label="Sweep">
      <Button variant="quiet" aria-label="Back" title={hint("sweepBack")} onClick={() => step(-1)} disabled={at === 0}>
        <Icon name="chevron-left" />
      </Button>
      <span>
        {title} <small>{at + 1} of {stops.length}</small>
      </span>
      <Button variant="quiet" aria-label="Next" title={hint("sweepOn")} onClick={() => step(1)}>
        <Icon name={at + 1 === stops.length ? "check-lg" : "chevron-right"} />
      </Button>
      <Button variant="quiet" aria-label="Leave the sweep" title="Leave; it goes on here next time" onClick={end}>
        <Icon name="x" />
      </Button>
    </div>
  );
}
