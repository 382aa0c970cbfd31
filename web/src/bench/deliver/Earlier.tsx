/** Deliveries of before: fetched again, or begun again where one was cut short. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { client, unwrap, type Delivery } from "../../api/client";
import { megabytes } from "../../ui/format";
import { save } from "./saving";

interface Props {
  portrait: string;
  /** Those on the screen already. */
  shown: readonly string[];
  onAgain: (delivery: Delivery) => void;
}

export function Earlier({ portrait, shown, onAgain }: Props) {
  const [open, setOpen] = useState(false);
  const found = useQuery({
    queryKey: ["deliveries", portrait, shown.length],
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/deliveries", { params: { path: { portrait_id: portrait } } })),
  });
  const list = (found.data ?? []).filter((d) => !shown.includes(d.id));
  const cut = list.filter((d) => d.state === "failed" || d.state === "cancelled").length;
  if (list.length === 0) return null;
  const again = async (id: string) => {
    onAgain(await unwrap(client.POST("/api/deliveries/{job_id}/again", { params: { path: { job_id: id } } })));
    await found.refetch();
  };
  return (
    <details className="mg-told-group" open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>
        Delivered before <small>{cut > 0 ? `${list.length}, ${cut} unfinished` : list.length}</small>
      </summary>
      <ul aria-label="Delivered before" className="mg-earlier">
        {list.map((one) => (
          <li key={one.id}>
            <span>
              {one.file_name} <small>{one.state === "done" ? megabytes(one.size_bytes) : one.message || one.state}</small>
            </span>
            {one.state === "done" && (
              <Button variant="link" size="sm" onClick={() => save(one)}>
                Download
              </Button>
            )}
            {(one.state === "failed" || one.state === "cancelled") && (
              <Button variant="link" size="sm" onClick={() => void again(one.id)}>
                Begin again
              </Button>
            )}
          </li>
        ))}
      </ul>
    </details>
  );
}
