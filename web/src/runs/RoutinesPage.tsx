/** All routines: the ready ones, and one's own to change, carry and delete. */
import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Alert, Button, Form, Spinner } from "react-bootstrap";
import { client, csrfToken, problemOf, unwrap, type ApiError, type Schemas } from "../api/client";
import { Icon } from "../ui/Icon";
import { PageHead } from "../ui/PageHead";
import { ROUTINES, useRoutines, type Routine } from "./runs";

export function RoutinesPage() {
  const routines = useRoutines();
  const queries = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const [said, setSaid] = useState("");
  const [problem, setProblem] = useState("");
  const [gone, setGone] = useState<Routine | null>(null);
  const [renamed, setRenamed] = useState<{ name: string; title: string; note: string } | null>(null);
  const act = async (what: () => Promise<unknown>) => {
    setProblem("");
    setSaid("");
    try {
      await what();
    } catch (error) {
      setProblem((error as ApiError).message);
    }
    await queries.invalidateQueries({ queryKey: ROUTINES });
  };
  const at = (name: string) => ({ params: { path: { name } } });
  const take = (file: File | undefined) =>
    file &&
    act(async () => {
      const body = new FormData();
      body.append("file", file);
      const answer = await fetch("/api/routines", { method: "POST", body, headers: { "X-CSRFToken": csrfToken() } });
      const made: unknown = await answer.json().catch(() => null);
      if (!answer.ok) throw problemOf(answer.status, made);
      const { routine, left_out } = made as Schemas["TakenRoutineOut"];
      setSaid(left_out.length > 0 ? `${routine.title} was taken in without: ${left_out.join(" ")}` : `${routine.title} was taken in.`);
    });
  return (
    <div className="mg-wall">
      <PageHead title="Routines" />
      <main className="mg-wall-main">
        <div className="mg-wall-head">
          <div>
            <h1>Routines</h1>
            <p>What was worked out on one portrait, for others. Keep one from a portrait's stage Even, or take in a file.</p>
          </div>
          <input
            ref={input}
            type="file"
            hidden
            accept=".json"
            aria-label="Routine file"
            onChange={(e) => {
              void take(e.target.files?.[0]);
              e.target.value = "";
            }}
          />
          <Button onClick={() => input.current?.click()}>
            <Icon name="upload" /> Take in a file…
          </Button>
        </div>
        {problem && <Alert variant="warning">{problem}</Alert>}
        {said && <Alert variant="light">{said}</Alert>}
        {gone && (
          <Alert variant="light" className="mg-notice" dismissible onClose={() => setGone(null)}>
            {gone.title} was deleted.
            <Button
              variant="link"
              onClick={() => {
                void act(async () => {
                  await unwrap(client.POST("/api/routines/{name}/restore", at(gone.name)));
                  setGone(null);
                });
              }}
            >
              Take it back
            </Button>
          </Alert>
        )}
        {routines.isPending && <Spinner role="status" aria-label="Loading routines" />}
        <ul className="mg-routines" aria-label="Routines">
          {routines.data?.map((one) => (
            <li key={one.name} aria-label={one.title}>
              {renamed?.name === one.name ? (
                <Form
                  className="mg-routine-form"
                  onSubmit={(e) => {
                    e.preventDefault();
                    void act(() => unwrap(client.PATCH("/api/routines/{name}", { ...at(one.name), body: { title: renamed.title, note: renamed.note, no_spots: false } })));
                    setRenamed(null);
                  }}
                >
                  <Form.Control size="sm" autoFocus aria-label="Name of the routine" maxLength={80} value={renamed.title} onChange={(e) => setRenamed({ ...renamed, title: e.target.value })} />
                  <Form.Control size="sm" aria-label="Note of the routine" maxLength={1000} value={renamed.note} onChange={(e) => setRenamed({ ...renamed, note: e.target.value })} />
                  <Button type="submit" size="sm">
                    Save
                  </Button>
                </Form>
              ) : (
                <div>
                  <strong>{one.title}</strong> <small>{one.own ? `own, version ${one.revision}` : "ready"}</small>
                  <p>
                    {one.meaning} <small>{[one.spots_from !== null ? `spots from ${one.spots_from} %` : "", ...one.steps, one.deliveries.length > 0 ? `delivered by ${one.deliveries.join(", ")}` : ""].filter(Boolean).join(", ")}</small>
                  </p>
                </div>
              )}
              <span className="mg-tile-actions">
                {one.own && (
                  <Button variant="quiet" aria-label={`Change ${one.title}`} title="Name and note" onClick={() => setRenamed({ name: one.name, title: one.title, note: one.meaning })}>
                    <Icon name="pencil" />
                  </Button>
                )}
                {!one.glasses && (
                  <Button variant="quiet" aria-label={`Copy ${one.title}`} title="Copy" onClick={() => void act(() => unwrap(client.POST("/api/routines/{name}/copy", at(one.name))))}>
                    <Icon name="copy" />
                  </Button>
                )}
                <a className="btn btn-quiet" href={`/api/routines/${one.name}/file`} download={`${one.title}.json`} aria-label={`Fetch ${one.title} as a file`} title="As a file">
                  <Icon name="download" />
                </a>
                {one.own && (
                  <Button
                    variant="quiet"
                    aria-label={`Delete ${one.title}`}
                    title="Delete"
                    onClick={() => {
                      void act(async () => {
                        await unwrap(client.DELETE("/api/routines/{name}", at(one.name)));
                        setGone(one);
                      });
                    }}
                  >
                    <Icon name="trash3" />
                  </Button>
                )}
              </span>
            </li>
          ))}
        </ul>
      </main>
    </div>
  );
}
