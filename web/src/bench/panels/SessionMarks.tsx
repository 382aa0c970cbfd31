/** What was decided about this person's marks on the session's other pictures. */
import { Button } from "react-bootstrap";
import { useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { useSeen } from "../state/seen";
import { WhoIsWho } from "./WhoIsWho";

export function SessionMarks() {
  const { analysis, decide } = useFaces();
  const seen = useSeen();
  const marks = analysis?.marks ?? [];
  const those = (decision: "keep" | "clear") => marks.filter((m) => seen.get(m.id)?.decision === decision);
  const [keep, clear] = [those("keep"), those("clear")];
  const { portrait } = useBenchParts("portrait");
  if (portrait?.session == null) return null;
  const known = Math.max(0, ...[...seen.values()].map((s) => s.of));
  return (
    <div className="mg-session-marks" aria-label="From the session">
      {known > 0 && <p className="mg-hint">
        Seen on {known} more picture{known === 1 ? "" : "s"} of this person in the session
        {keep.length + clear.length > 0 && `; decided there: ${keep.length} to keep, ${clear.length} to clear`}.
      </p>}
      {keep.length > 0 && (
        <Button variant="tray" onClick={() => decide(keep, "keep")}>
          Keep those {keep.length}
        </Button>
      )}
      {clear.length > 0 && (
        <Button variant="tray" title="They are decided to be cleared; Clear heals them" onClick={() => decide(clear, "clear")}>
          Decide to clear those {clear.length}
        </Button>
      )}
      <WhoIsWho />
    </div>
  );
}
