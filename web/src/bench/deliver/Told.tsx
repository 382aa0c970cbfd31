/** What was done to the people in the picture, and sheets to hand on. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { Form } from "react-bootstrap";
import { capital } from "../../ui/format";
import { Icon } from "../../ui/Icon";
import { useBenchParts } from "../state/bench";
import { useView } from "../state/view";
import { detailOf } from "./wish";

export function Told() {
  const { portrait, revision } = useBenchParts("portrait", "revision");
  const [open, setOpen] = useState(false);
  const id = portrait?.id ?? "";
  const told = useQuery({
    queryKey: ["disclosure", id, revision],
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/disclosure", { params: { path: { portrait_id: id } } })),
    enabled: open && id !== "",
  });
  const at = `/api/portraits/${id}`;
  const [detailed, setDetailed] = useState(false);
  const { view, screen, picture, fitted } = useView();
  const details = detailed ? `&details=${detailOf(view, screen, picture).join(",")}` : "";
  return (
    <details className="mg-told-group" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>What was done, and sheets</summary>
      {told.isLoading && <p className="mg-hint">Measuring…</p>}
      {told.error && <p className="mg-warn">{told.error.message}</p>}
      {told.data && (
        <>
          <ul aria-label="What was done">
            {told.data.lines.map((line) => (
              <li key={line.said}>
                {capital(line.said)} <small>{line.group}</small>
              </li>
            ))}
            {told.data.lines.length === 0 && <li>Nothing was changed</li>}
          </ul>
          <ul aria-label="Rules">
            {told.data.rules.map((rule) => (
              <li key={rule.rule} className={rule.asks ? "mg-warn" : undefined}>
                {rule.asks && <Icon name="exclamation-triangle" />} {rule.rule}: {rule.about} — {rule.because}
              </li>
            ))}
          </ul>
          {told.data.caption && <p className="mg-hint">A caption that says it: “{told.data.caption}”</p>}
          <p className="mg-hint">Rules are as remembered and may have changed. {told.data.limits}</p>
        </>
      )}
      <Form.Check
        id="sheet-detail"
        label="Sheets with the place that is on the screen, at 1:1"
        title="Zoom in on what is to be shown, then deliver"
        disabled={fitted}
        checked={detailed && !fitted}
        onChange={(e) => setDetailed(e.target.checked)}
      />
      <p className="mg-sheets">
        <a href={`${at}/disclosure.pdf`} download>
          <Icon name="file-earmark-text" /> What was done, PDF
        </a>
        <a href={`${at}/disclosure`} download={`${portrait?.name ?? "portrait"}, what was done.json`}>
          JSON
        </a>
        <a href={`${at}/compared?form=beside&file=pdf${details}`} download>
          <Icon name="layout-split" /> Before and after, PDF
        </a>
        <a href={`${at}/compared?form=beside&file=jpeg${details}`} download>
          JPEG
        </a>
        <a href={`${at}/compared?form=halves&file=jpeg${details}`} download>
          In halves
        </a>
      </p>
    </details>
  );
}
