/** Marks as the same person's other pictures of the session have them. */
import { useQuery } from "@tanstack/react-query";
import { client, unwrap, type Schemas } from "../../api/client";
import { useBenchParts } from "./bench";
import { useFaces } from "./faces";

export type SeenMark = Schemas["SeenMarkOut"];

/** Marks by their ids as the person's other pictures have them. */
export function useSeen(): Map<string, SeenMark> {
  const { portrait, revision } = useBenchParts("portrait", "revision");
  const key = useFaces((s) => s.analysis?.key);
  const id = portrait?.id ?? "";
  const seen = useQuery({
    queryKey: ["session-marks", id, key, revision],
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/session-marks", { params: { path: { portrait_id: id } } })),
    enabled: id !== "" && portrait?.session != null,
    placeholderData: (before) => before,
  });
  return new Map((seen.data ?? []).map((s) => [s.id, s]));
}
