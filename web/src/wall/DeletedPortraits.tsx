/** Portraits that were deleted and can be taken back. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import { usePortraits } from "./library";

export function DeletedPortraits({ onTakeBack }: { onTakeBack: (id: string) => void }) {
  const [shown, setShown] = useState(false);
  const deleted = usePortraits(true).data ?? [];
  if (deleted.length === 0) return null;
  return (
    <section className="mg-deleted">
      <Button variant="link" onClick={() => setShown(!shown)}>
        {shown ? "Hide" : "Show"} deleted portraits ({deleted.length})
      </Button>
      {shown && (
        <ul aria-label="Deleted portraits">
          {deleted.map((p) => (
            <li key={p.id}>
              {p.name}
              <Button variant="link" aria-label={`Take ${p.name} back`} onClick={() => onTakeBack(p.id)}>
                Take it back
              </Button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
