/** Which of the session's other pictures show the same person: as found, or as the user says. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { useBenchParts } from "../state/bench";

export function WhoIsWho() {
  const { portrait } = useBenchParts("portrait");
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const path = { portrait_id: portrait?.id ?? "" };
  const people = useQuery({
    queryKey: ["session-people", path.portrait_id],
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/session-people", { params: { path } })),
    enabled: open,
  });
  const say = useMutation({
    mutationFn: (body: { portrait: string; same: boolean | null }) =>
      unwrap(client.POST("/api/portraits/{portrait_id}/session-people", { params: { path }, body })),
    onSettled: () =>
      Promise.all([queries.invalidateQueries({ queryKey: ["session-people"] }), queries.invalidateQueries({ queryKey: ["session-marks"] })]),
  });
  return (
    <details className="mg-told-group" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Who is who</summary>
      {people.data?.map((p) => (
        <Choice
          key={p.id}
          label={p.name}
          title={p.said === null ? `Found: ${p.same ? "the same person" : "somebody else"}` : "As you said"}
          value={p.said === null ? "" : String(p.said)}
          choices={[
            ["", p.said !== null ? "As found" : p.same ? "As found: same" : "As found: other"],
            ["true", "The same person"],
            ["false", "Somebody else"],
          ]}
          onChange={(v) => say.mutate({ portrait: p.id, same: v === "" ? null : v === "true" })}
        />
      ))}
      {people.data?.length === 0 && <p className="mg-hint">No other picture's faces are known yet.</p>}
      {say.error && <p className="mg-warn">{say.error.message}</p>}
    </details>
  );
}
