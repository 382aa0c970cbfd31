import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, unwrap } from "../api/client";

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

export function useLibrary() {
  const queries = useQueryClient();
  const refresh = () => queries.invalidateQueries({ queryKey: ["portraits"] });
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
