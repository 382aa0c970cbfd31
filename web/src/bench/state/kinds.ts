import { useQuery, type QueryClient } from "@tanstack/react-query";
import { client, unwrap, type Kind } from "../../api/client";

export function useKinds() {
  return useQuery({
    queryKey: ["kinds"],
    queryFn: () => unwrap(client.GET("/api/kinds")),
    staleTime: Infinity,
  });
}

/** The kinds as far as they have been fetched, for what happens outside of components. */
export function kindsNow(queries: QueryClient): Kind[] {
  return queries.getQueryData<Kind[]>(["kinds"]) ?? [];
}

/** Stages in the order of the work, with the names people read. */
export const STAGES: { name: string; title: string }[] = [
  { name: "look", title: "Look" },
  { name: "clear", title: "Clear" },
  { name: "even", title: "Even" },
  { name: "features", title: "Features" },
  { name: "shape", title: "Shape" },
  { name: "finish", title: "Finish" },
];
