import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, unwrap, type Portrait } from "../api/client";

export function useLimits() {
  return useQuery({
    queryKey: ["limits"],
    queryFn: () => unwrap(client.GET("/api/limits")),
    staleTime: Infinity,
  });
}

export function usePortraits(deleted: boolean) {
  return useQuery({
    queryKey: ["portraits", deleted],
    queryFn: () => unwrap(client.GET("/api/portraits", { params: { query: { deleted } } })),
  });
}

export type Flag = Portrait["flag"];
/** What is to be done, in words; without colours. */
export const FLAGS: readonly (readonly [Flag, string])[] = [
  ["todo", "to do"],
  ["again", "look again"],
  ["done", "done"],
  ["", "no flag"],
];

/** Which part of the wall is wanted, in which order. */
export interface Wanted {
  session: string;
  flag: "any" | Flag;
  starred: boolean;
  search: string;
  sort: "worked" | "added" | "name";
}
export const EVERYTHING: Wanted = { session: "", flag: "any", starred: false, search: "", sort: "worked" };
/** Portraits on one page of the wall. */
export const PAGE = 60;

export function useWall(wanted: Wanted, start: number) {
  return useQuery({
    queryKey: ["portraits", "wall", wanted, start],
    queryFn: () => unwrap(client.GET("/api/wall", { params: { query: { ...wanted, start, count: PAGE } } })),
    placeholderData: (before) => before,
  });
}

/** The ids of all portraits of a part of the wall. */
export async function allOf(wanted: Wanted): Promise<string[]> {
  const ids: string[] = [];
  for (let start = 0; ; start += 200) {
    const page = await unwrap(client.GET("/api/wall", { params: { query: { ...wanted, start, count: 200 } } }));
    ids.push(...page.portraits.map((p) => p.id));
    if (ids.length >= page.count || page.portraits.length === 0) return ids;
  }
}

export function useSessions() {
  return useQuery({ queryKey: ["portrait-sessions"], queryFn: () => unwrap(client.GET("/api/portrait-sessions")) });
}

function useRefresh() {
  const queries = useQueryClient();
  return () =>
    Promise.all([queries.invalidateQueries({ queryKey: ["portraits"] }), queries.invalidateQueries({ queryKey: ["portrait-sessions"] })]);
}

export function useSessionsChange() {
  const onSettled = useRefresh();
  const at = (session_id: string) => ({ path: { session_id } });
  return {
    make: useMutation({ mutationFn: (name: string) => unwrap(client.POST("/api/portrait-sessions", { body: { name } })), onSettled }),
    change: useMutation({
      mutationFn: ({ id, ...body }: { id: string; name?: string; travel?: boolean }) =>
        unwrap(client.PATCH("/api/portrait-sessions/{session_id}", { params: at(id), body })),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (id: string) => unwrap(client.DELETE("/api/portrait-sessions/{session_id}", { params: at(id) })),
      onSettled,
    }),
  };
}

export function useArrange() {
  const onSettled = useRefresh();
  return useMutation({
    mutationFn: (body: { ids: string[]; session?: string; star?: boolean; flag?: Flag }) => unwrap(client.POST("/api/wall/arrange", { body })),
    onSettled,
  });
}

export function useLibrary() {
  const refresh = useRefresh();
  const at = (portrait_id: string) => ({ path: { portrait_id } });
  return {
    refresh,
    rename: useMutation({
      mutationFn: ({ id, name }: { id: string; name: string }) =>
        unwrap(
          client.PATCH("/api/portraits/{portrait_id}", { params: at(id), body: { name } }),
        ),
      onSuccess: refresh,
    }),
    remove: useMutation({
      mutationFn: ({ id, anyway = false }: { id: string; anyway?: boolean }) =>
        unwrap(client.DELETE("/api/portraits/{portrait_id}", { params: { ...at(id), query: { anyway } } })),
      onSuccess: refresh,
    }),
    restore: useMutation({
      mutationFn: (id: string) =>
        unwrap(client.POST("/api/portraits/{portrait_id}/restore", { params: at(id) })),
      onSuccess: refresh,
    }),
  };
}
