/** Layers of the portrait's file, kept as a take each on request. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { client, unwrap, type Portrait } from "../../api/client";
import { useTakeActions } from "../state/takes";

export function LayerTakes({ portrait }: { portrait: Portrait }) {
  const actions = useTakeActions(portrait.id);
  const [under, setUnder] = useState<number | null>(null);
  const layers = useQuery({
    queryKey: ["layers", portrait.id],
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/layers", { params: { path: { portrait_id: portrait.id } } })),
    staleTime: Infinity,
  });
  const names = layers.data ?? [];
  if (names.length === 0) return null;
  const keep = async () => {
    // One after the other: each is the whole picture laid anew.
    for (let n = 0; n < names.length; n++) {
      setUnder(n);
      if (!(await actions.keepLayer(n))) break;
    }
    setUnder(null);
  };
  return (
    <Button size="sm" variant="secondary" disabled={under !== null} title="Keep the picture as it stood with each layer of its file, to compare with" onClick={() => void keep()}>
      {under === null ? (names.length === 1 ? "Its layer as a take" : `Its ${names.length} layers as takes`) : `Layer ${under + 1} of ${names.length} …`}
    </Button>
  );
}
