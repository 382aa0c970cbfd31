import { useQuery } from "@tanstack/react-query";
import { client, unwrap } from "../../api/client";
import { useSettled } from "../../ui/useSettled";
import { useBenchParts } from "../state/bench";

/** The history as a list: a click goes back or forward to any step. */
export function Steps() {
  const { portrait, history, revision, goTo } = useBenchParts("portrait", "history", "revision", "goTo");
  const id = portrait?.id ?? "";
  const settled = useSettled(revision, 1200);
  const steps = useQuery({
    queryKey: ["history", id, settled],
    queryFn: () =>
      unwrap(
        client.GET("/api/portraits/{portrait_id}/history", {
          params: { path: { portrait_id: id } },
        }),
      ),
    enabled: id !== "",
    placeholderData: (before) => before,
  });
  return (
    <ol reversed className="mg-steps" aria-label="History">
      {[...(steps.data ?? [])].reverse().map((s) => {
        const when = new Date(s.created_at);
        return (
          <li key={s.number}>
            <button
              type="button"
              className={s.number > history.at ? "mg-step-undone" : ""}
              aria-current={s.number === history.at ? "step" : undefined}
              onClick={() => goTo(s.number)}
              title={`${s.label}, ${when.toLocaleString("en-GB")}`}
            >
              <img
                loading="lazy"
                alt=""
                src={`/api/portraits/${id}/history/${s.number}/thumbnail?made=${when.getTime()}`}
              />
              <span>
                {s.label}
                <time dateTime={s.created_at}>{when.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}</time>
              </span>
            </button>
          </li>
        );
      })}
      <li>
        <button type="button" aria-current={history.at === 0 ? "step" : undefined} onClick={() => goTo(0)}>
          As photographed
        </button>
      </li>
    </ol>
  );
}
