/** All runs, the newest first. */
import { Alert, Spinner } from "react-bootstrap";
import { Progress } from "../ui/Progress";
import { Link } from "react-router";
import { PageHead } from "../ui/PageHead";
import { ago } from "../ui/format";
import { left, total, useRuns } from "./runs";

const STATES = { going: "going on", paused: "paused", done: "done", cancelled: "cancelled" };

export function RunsPage() {
  const runs = useRuns();
  return (
    <div className="mg-wall">
      <PageHead title="Runs" />
      <main className="mg-wall-main">
        <div className="mg-wall-head">
          <div>
            <h1>Runs</h1>
            <p>A routine over many portraits. Pick portraits on the wall to begin one.</p>
          </div>
        </div>
        {runs.isPending && <Spinner role="status" aria-label="Loading runs" />}
        {runs.isError && <Alert variant="warning">{runs.error.message}</Alert>}
        {runs.data?.length === 0 && <div className="mg-empty">No runs yet.</div>}
        <ul className="mg-runs" aria-label="Runs">
          {runs.data?.map((run) => (
            <li key={run.id}>
              <Link to={`/runs/${run.id}`}>{run.title}</Link>
              <Progress now={(100 * (run.done + run.failed + run.cancelled)) / Math.max(total(run), 1)} label={`Progress of ${run.title}`} />
              <span>
                {run.done} of {total(run)} done{run.failed > 0 && `, ${run.failed} failed`}
              </span>
              <small>
                {STATES[run.state]} {left(run.seconds_left)} · {ago(run.created_at)}
              </small>
            </li>
          ))}
        </ul>
      </main>
    </div>
  );
}
