/** What passes tell of themselves in numbers. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, unwrap, type Pass } from "../../api/client";
import { useBenchParts } from "./bench";

/** Lengths are told to a tenth. */
export const digits = (unit: string) => (unit === "mm" || unit === "px" ? 1 : 0);

export function usePassReadings(pass: Pass) {
  const { portrait, revision } = useBenchParts("portrait", "revision");
  const id = portrait?.id ?? "";
  const readings = useQuery({
    queryKey: ["pass-readings", id, pass.id, revision],
    queryFn: () =>
      unwrap(client.GET("/api/portraits/{portrait_id}/passes/{pass_id}/readings", { params: { path: { portrait_id: id, pass_id: pass.id } } })),
    placeholderData: keepPreviousData,
    enabled: id !== "",
  });
  return readings.data ?? null;
}
