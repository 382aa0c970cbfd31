/** Many portraits matched to one of them: exposure, white balance, the person's skin. */
import { useState } from "react";
import { Dropdown } from "react-bootstrap";
import { client, unwrap, type ApiError } from "../api/client";
import { useLibrary, usePortraits } from "./library";

export function MatchLight({ ids }: { ids: string[] }) {
  const portraits = (usePortraits(false).data ?? []).filter((p) => ids.includes(p.id));
  const library = useLibrary();
  const [said, setSaid] = useState<string[]>([]);
  const [left, setLeft] = useState(0);
  const match = async (to: string) => {
    setSaid([]);
    const others = portraits.filter((p) => p.id !== to);
    for (const [n, one] of others.entries()) {
      setLeft(others.length - n);
      const path = { portrait_id: one.id };
      try {
        const desk = await unwrap(client.GET("/api/portraits/{portrait_id}/desk", { params: { path } }));
        const done = await unwrap(
          client.POST("/api/portraits/{portrait_id}/gestures", {
            params: { path },
            body: { revision: desk.portrait.revision, operation: { op: "match_series", portrait: to }, goes_on: false },
          }),
        );
        setSaid((all) => [...all, `${one.name}: ${done.history.undo ?? "matched"}`]);
      } catch (error) {
        setSaid((all) => [...all, `${one.name}: ${(error as ApiError).message}`]);
      }
    }
    setLeft(0);
    await library.refresh();
  };
  return (
    <>
      <Dropdown drop="up">
        <Dropdown.Toggle variant="quiet" disabled={ids.length < 2 || left > 0} title="Exposure and white balance, so that the same person's skin has one colour">
          {left > 0 ? `Matching, ${left} left` : "Match light to"}
        </Dropdown.Toggle>
        <Dropdown.Menu>
          {portraits.map((p) => (
            <Dropdown.Item as="button" key={p.id} onClick={() => void match(p.id)}>
              {p.name}
            </Dropdown.Item>
          ))}
        </Dropdown.Menu>
      </Dropdown>
      {said.length > 0 && (
        <ul className="mg-said" aria-label="Matched">
          {said.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      )}
    </>
  );
}
