/** The takes of a portrait. */
import { useQuery, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { client, unwrap, type ApiError } from "../../api/client";
import { useBench } from "./bench";
import { RESULT, useCompare } from "./compare";

const keyOf = (id: string | undefined) => ["takes", id];

export function useTakes(id: string | undefined) {
  return useQuery({
    queryKey: keyOf(id),
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/takes", { params: { path: { portrait_id: id! } } })),
    enabled: id !== undefined,
  });
}

/** Keep the present under the time of day. */
export async function keepTake(id: string, queries: QueryClient) {
  const name = `Take at ${new Date().toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit", second: "2-digit" })}`;
  const { say } = useBench.getState();
  try {
    await unwrap(client.POST("/api/portraits/{portrait_id}/takes", { params: { path: { portrait_id: id } }, body: { name } }));
    say(`Kept: ${name}`);
  } catch (error) {
    useBench.setState({ problem: (error as ApiError).message });
  }
  await queries.invalidateQueries({ queryKey: keyOf(id) });
}

/** What can be done with takes; the list follows. */
export function useTakeActions(id: string) {
  const queries = useQueryClient();
  const follow = async (call: Promise<unknown>) => {
    let done = true;
    try {
      await call;
    } catch (error) {
      useBench.setState({ problem: (error as ApiError).message });
      done = false;
    }
    await queries.invalidateQueries({ queryKey: keyOf(id) });
    return done;
  };
  const path = (take_id: string) => ({ params: { path: { portrait_id: id, take_id } } });
  return {
    keep: (name: string) =>
      follow(
        unwrap(client.POST("/api/portraits/{portrait_id}/takes", { params: { path: { portrait_id: id } }, body: { name } })),
      ),
    /** Of a layer of the file, counted from the lowest; whether it went well. */
    keepLayer: (number: number) =>
      follow(unwrap(client.POST("/api/portraits/{portrait_id}/layers/{number}", { params: { path: { portrait_id: id, number } } }))),
    rename: (take: string, name: string) =>
      follow(unwrap(client.PATCH("/api/portraits/{portrait_id}/takes/{take_id}", { ...path(take), body: { name } }))),
    remove: (take: string) => {
      const { against, inGlass, instead, set } = useCompare.getState();
      // Nothing may go on showing a take that is gone.
      if (against.of === take) set({ mode: "off", against: { show: "original", of: "" } });
      if (inGlass.of === take) set({ inGlass: { show: "original", of: "" } });
      if (instead.of === take) set({ instead: RESULT });
      return follow(unwrap(client.DELETE("/api/portraits/{portrait_id}/takes/{take_id}", path(take))));
    },
  };
}
