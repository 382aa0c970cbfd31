import { useQuery } from "@tanstack/react-query";
import { client, unwrap } from "../../api/client";

/** Every zone's name and words. */
export function useZones() {
  return useQuery({
    queryKey: ["zones"],
    queryFn: () => unwrap(client.GET("/api/zones")),
    staleTime: Infinity,
  });
}
