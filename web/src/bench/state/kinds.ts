import { useQuery } from "@tanstack/react-query";
import { client, unwrap } from "../../api/client";

export function useKinds() {
  return useQuery({
    queryKey: ["kinds"],
    queryFn: () => unwrap(client.GET("/api/kinds")),
    staleTime: Infinity,
  });
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
