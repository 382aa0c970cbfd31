/** One click: a routine's passes, fitted to the face; each can be changed afterwards. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { client, unwrap } from "../../api/client";
import { useBench } from "../state/bench";
import { useFaces } from "../state/faces";

export function RoutinesCard() {
  const gesture = useBench((s) => s.gesture);
  const known = useFaces((s) => (s.analysis?.faces.length ?? 0) > 0);
  const [working, setWorking] = useState(false);
  const routines = useQuery({
    queryKey: ["routines"],
    queryFn: () => unwrap(client.GET("/api/routines")),
    staleTime: Infinity,
  });
  if (!known) return null;
  const apply = (name: string) => {
    setWorking(true);
    gesture({ op: "apply_routine", name }, () => {
      setWorking(false);
      void useFaces.getState().refresh();
    });
  };
  return (
    <section className="mg-card" aria-label="Routines">
      <div className="mg-card-head">
        <span className="mg-card-name">Routine</span>
      </div>
      <div className="mg-card-body mg-row">
        {routines.data?.map((r) => (
          <Button key={r.name} variant="tray" disabled={working} title={r.meaning} onClick={() => apply(r.name)}>
            {r.title}
          </Button>
        ))}
      </div>
    </section>
  );
}
