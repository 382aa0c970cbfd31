/** What was done on this portrait, kept as a routine for others. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Alert, Button, Form, Modal } from "react-bootstrap";
import { client, unwrap, type ApiError } from "../../api/client";
import { ROUTINES } from "../../runs/runs";
import { usePreferences } from "../../session/preferences";
import { Slider } from "../../ui/Slider";
import { useBenchParts } from "../state/bench";

export function LearnDialog({ show, onClose }: { show: boolean; onClose: () => void }) {
  const { portrait, passes, revision, say } = useBenchParts("portrait", "passes", "revision", "say");
  const queries = useQueryClient();
  const [title, setTitle] = useState("");
  const [note, setNote] = useState("");
  const [spots, setSpots] = useState(true);
  const [sure, setSure] = useState(60);
  const [without, setWithout] = useState<ReadonlySet<string>>(new Set());
  const [alone, setAlone] = useState<ReadonlySet<string>>(new Set());
  const { presets, load } = usePreferences();
  const [deliveries, setDeliveries] = useState<ReadonlySet<string>>(new Set());
  useEffect(() => {
    if (show) void load();
  }, [show, load]);
  const [problem, setProblem] = useState("");
  const id = portrait?.id ?? "";
  const acting = passes.filter((p) => p.enabled);
  const ids = acting.map((p) => p.id).filter((p) => !without.has(p));
  const body = {
    title: title.trim() || "Routine",
    note,
    ids,
    alone: [...alone].filter((p) => ids.includes(p)),
    spots_from: spots ? sure : null,
    deliveries: presets.map((p) => p.name).filter((name) => deliveries.has(name)),
  };
  const tried = useQuery({
    queryKey: ["learn", id, revision, ids.join(), spots],
    queryFn: () => unwrap(client.POST("/api/portraits/{portrait_id}/learn", { params: { path: { portrait_id: id } }, body: { ...body, keep: false } })),
    enabled: show && id !== "",
    retry: false,
  });
  const keep = async () => {
    setProblem("");
    try {
      const made = await unwrap(client.POST("/api/portraits/{portrait_id}/learn", { params: { path: { portrait_id: id } }, body: { ...body, keep: true } }));
      await queries.invalidateQueries({ queryKey: ROUTINES });
      say(`Kept: ${made.title}`);
      onClose();
    } catch (error) {
      setProblem((error as ApiError).message);
    }
  };
  const set = (all: ReadonlySet<string>, one: string, on: boolean) => new Set(on ? [...all, one] : [...all].filter((p) => p !== one));
  return (
    <Modal show={show} onHide={onClose} centered scrollable aria-labelledby="learn-title">
      <Modal.Header closeButton>
        <Modal.Title id="learn-title">Keep as a routine</Modal.Title>
      </Modal.Header>
      <Modal.Body className="mg-deliver">
        {problem && <Alert variant="warning">{problem}</Alert>}
        <Form.Group controlId="learn-name">
          <Form.Label>Name</Form.Label>
          <Form.Control autoFocus maxLength={80} value={title} onChange={(e) => setTitle(e.target.value)} />
        </Form.Group>
        <Form.Group controlId="learn-note">
          <Form.Label>Note</Form.Label>
          <Form.Control as="textarea" rows={2} maxLength={1000} value={note} onChange={(e) => setNote(e.target.value)} />
        </Form.Group>
        <Form.Check
          type="switch"
          role="switch"
          id="learn-spots"
          label="Heals proposed spots first"
          checked={spots}
          onChange={(e) => setSpots(e.target.checked)}
        />
        {spots && <Slider label="Sure from" title="How sure it has to be that a spot is a blemish" unit="%" min={0} max={100} initial={60} value={sure} onInput={setSure} />}
        <fieldset>
          <legend>Passes</legend>
          {acting.map((p) => (
            <div key={p.id} className="mg-learn-pass">
              <Form.Check id={`learn-${p.id}`} label={p.name} checked={!without.has(p.id)} onChange={(e) => setWithout(set(without, p.id, !e.target.checked))} />
              <Form.Check
                id={`learn-alone-${p.id}`}
                label="largest face only"
                aria-label={`${p.name} for the largest face only`}
                checked={alone.has(p.id)}
                disabled={without.has(p.id)}
                onChange={(e) => setAlone(set(alone, p.id, e.target.checked))}
              />
            </div>
          ))}
        </fieldset>
        {presets.length > 0 && (
          <fieldset>
            <legend>Delivered by</legend>
            {presets.map((p) => (
              <Form.Check
                key={p.name}
                id={`learn-preset-${p.name}`}
                label={p.name}
                checked={deliveries.has(p.name)}
                onChange={(e) => setDeliveries(set(deliveries, p.name, e.target.checked))}
              />
            ))}
          </fieldset>
        )}
        {tried.error && <p className="mg-warn">{tried.error.message}</p>}
        {tried.data && (
          <>
            {tried.data.fitted.length > 0 && <p className="mg-hint">Fitted to each face: {tried.data.fitted.join(", ")}. All else stays as it is set.</p>}
            {tried.data.left_out.length > 0 && (
              <ul className="mg-hint" aria-label="Not in the routine">
                {tried.data.left_out.map((one) => (
                  <li key={one}>{one}</li>
                ))}
              </ul>
            )}
          </>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="secondary" onClick={onClose}>
          Close
        </Button>
        <Button disabled={!title.trim() || tried.isError} onClick={() => void keep()}>
          Keep
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
