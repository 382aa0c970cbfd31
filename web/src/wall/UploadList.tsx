/** What is being uploaded, how far it is, and what went wrong. */
import { Button } from "react-bootstrap";
import { Icon } from "../ui/Icon";
import { Progress } from "../ui/Progress";
import { useUploads, type Upload } from "./uploads";

function wordsOf({ state, progress }: Upload): string {
  if (state === "reading") return "reading";
  return state === "waiting" ? "" : `${Math.round(progress * 100)} %`;
}

export function UploadList() {
  const { list, dismiss } = useUploads();
  if (list.length === 0) return null;
  return (
    <ul className="mg-uploads" aria-label="Uploads">
      {list.map((u) => (
        <li key={u.id}>
          <span className="text-truncate">{u.name}</span>
          {u.state === "failed" ? (
            <span className="mg-warn">{u.message}</span>
          ) : (
            <Progress now={u.progress * 100} label={`Upload of ${u.name}`} words={wordsOf(u)} />
          )}
          <Button variant="quiet" aria-label={`Dismiss ${u.name}`} disabled={u.state !== "failed"} onClick={() => dismiss(u.id)}>
            <Icon name="x-lg" />
          </Button>
        </li>
      ))}
    </ul>
  );
}
