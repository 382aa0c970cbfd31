/** Routines and runs: what the studio has, and what can be done with them. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, unwrap, type Schemas } from "../api/client";

export type Routine = Schemas["RoutineOut"];
export type Run = Schemas["RunOut"];
export type Item = Schemas["ItemOut"];
export type Which = "all" | "open" | "accepted" | "failed" | "going";
export type Action = "pause" | "go-on" | "cancel" | "first" | "retry";

export const ROUTINES = ["routines"];
/** Results on one page of the review. */
export const PAGE = 40;
/** While something goes on it is asked for so often. */
const LOOK_MS = 1000;

export function useRoutines() {
  return useQuery({ queryKey: ROUTINES, queryFn: () => unwrap(client.GET("/api/routines")) });
}

export function useRuns() {
  return useQuery({
    queryKey: ["runs"],
    queryFn: () => unwrap(client.GET("/api/runs")),
    refetchInterval: (query) => (query.state.data?.some((r) => r.state === "going") ? LOOK_MS : false),
  });
}

export function useRun(id: string) {
  return useQuery({
    queryKey: ["runs", id],
    queryFn: () => unwrap(client.GET("/api/runs/{run_id}", { params: { path: { run_id: id } } })),
    // One that is paused may still have some under way.
    refetchInterval: (query) => (query.state.data && (query.state.data.state === "going" || query.state.data.working > 0) ? LOOK_MS : false),
  });
}

export function useItems(run: Run | undefined, state: Which, order: "worry" | "number", start: number) {
  const id = run?.id ?? "";
  return useQuery({
    // Asked for again whenever something is done.
    queryKey: ["runs", id, "items", state, order, start, run?.done, run?.failed, run?.working],
    queryFn: () =>
      unwrap(client.GET("/api/runs/{run_id}/items", { params: { path: { run_id: id }, query: { state, order, start, count: PAGE } } })),
    enabled: run !== undefined,
    placeholderData: (before) => before,
    // How far those under way are.
    refetchInterval: (query) => (query.state.data?.items.some((i) => i.state === "working") ? LOOK_MS : false),
  });
}

export function useRunChanges(id: string) {
  const queries = useQueryClient();
  const refresh = () => queries.invalidateQueries({ queryKey: ["runs"] });
  const at = { path: { run_id: id } };
  return {
    steer: useMutation({
      mutationFn: ({ action, numbers }: { action: Action; numbers?: number[] }) =>
        unwrap(
          client.POST("/api/runs/{run_id}/{action}", { params: { path: { run_id: id, action } }, body: numbers ? { numbers } : null }),
        ),
      onSettled: refresh,
    }),
    accept: useMutation({
      mutationFn: ({ numbers, accepted }: { numbers: number[] | null; accepted: boolean }) =>
        unwrap(client.POST("/api/runs/{run_id}/review/accept", { params: at, body: { numbers, accepted } })),
      onSettled: refresh,
    }),
    ease: useMutation({
      mutationFn: ({ numbers, strength }: { numbers: number[] | null; strength: number }) =>
        unwrap(client.POST("/api/runs/{run_id}/review/ease", { params: at, body: { numbers, strength } })),
      onSettled: refresh,
    }),
    undo: useMutation({
      mutationFn: (number: number) =>
        unwrap(client.POST("/api/runs/{run_id}/items/{number}/undo", { params: { path: { run_id: id, number } } })),
      onSettled: refresh,
    }),
  };
}

export function total(run: Run): number {
  return run.waiting + run.working + run.done + run.failed + run.cancelled;
}

/** "about 3 minutes left". */
export function left(seconds: number | null): string {
  if (seconds === null) return "";
  if (seconds < 60) return "less than a minute left";
  const minutes = Math.round(seconds / 60);
  if (minutes < 90) return `about ${minutes} minute${minutes === 1 ? "" : "s"} left`;
  return `about ${Math.round(minutes / 60)} hours left`;
}

/** What the readings of a result say, in words. */
export function readings(item: Item): string[] {
  const out: string[] = [];
  if (item.healed) out.push(`${item.healed} spot${item.healed === 1 ? "" : "s"} healed`);
  if (item.asked) out.push(`${item.asked} mark${item.asked === 1 ? "" : "s"} to ask about`);
  if (item.texture !== null) out.push(`texture ${Math.round(item.texture)} %`);
  if (item.colour !== null) out.push(`colour moved ${item.colour.toFixed(1)}`);
  return out;
}
