/** Clients' pins on the portrait: shown, heeded, done. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { client, unwrap, type Schemas } from "../../api/client";
import { useBench, useBenchParts } from "./bench";
import { useFaces } from "./faces";

export type BenchPin = Schemas["BenchPinOut"];

const LOOK_MS = 60_000;

const keyOf = (id: string) => ["pins", id];

export function usePins(): BenchPin[] {
  const { portrait } = useBenchParts("portrait");
  const id = portrait?.id ?? "";
  const found = useQuery({
    queryKey: keyOf(id),
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/pins", { params: { path: { portrait_id: id } } })),
    enabled: id !== "",
    refetchInterval: LOOK_MS,
  });
  return found.data ?? NONE;
}
const NONE: BenchPin[] = [];

export function usePinDone() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ id, done }: { id: string; done: boolean }) =>
      unwrap(client.PUT("/api/pins/{pin_id}/done", { params: { path: { pin_id: id } }, body: { done } })),
    onSettled: () => Promise.all([queries.invalidateQueries({ queryKey: ["pins"] }), queries.invalidateQueries({ queryKey: ["wishes"] })]),
  });
}

/** What a client wants kept is kept, as a gesture that can be undone; new pins aren't new once they were shown. */
export function useHeeding(pins: readonly BenchPin[]) {
  const queries = useQueryClient();
  const { portrait, waiting } = useBenchParts("portrait", "waiting");
  const known = useFaces((s) => s.analysis?.state === "done");
  const id = portrait?.id ?? "";
  const toKeep = pins.some((p) => p.kind === "keep" && !p.heeded && !p.done);
  const fresh = pins.some((p) => p.fresh);
  useEffect(() => {
    if (!toKeep || !known || waiting > 0) return;
    const { revision, catchUp } = useBench.getState();
    void client
      .POST("/api/portraits/{portrait_id}/pins/heed", { params: { path: { portrait_id: id } }, body: { revision } })
      .then(async () => {
        await catchUp();
        await useFaces.getState().refresh();
        await queries.invalidateQueries({ queryKey: keyOf(id) });
      });
  }, [toKeep, known, waiting, id, queries]);
  useEffect(() => {
    if (fresh) void client.POST("/api/portraits/{portrait_id}/pins/seen", { params: { path: { portrait_id: id } } }).then(() => queries.invalidateQueries({ queryKey: ["wishes"] }));
  }, [fresh, id, queries]);
}
