/** A routine over the chosen portraits: which, how strong. */
import { useState } from "react";
import { Alert, Button, Form, Modal } from "react-bootstrap";
import { useNavigate } from "react-router";
import { client, unwrap, type ApiError } from "../api/client";
import { Slider } from "../ui/Slider";
import { useRoutines } from "./runs";

export function RunDialog({ ids, show, onClose }: { ids: string[]; show: boolean; onClose: () => void }) {
  const routines = (useRoutines().data ?? []).filter((r) => !r.glasses);
  const [name, setName] = useState("everyday");
  const [strength, setStrength] = useState(100);
  const [title, setTitle] = useState("");
  const [problem, setProblem] = useState("");
  const [working, setWorking] = useState(false);
  const navigate = useNavigate();
  const chosen = routines.find((r) => r.name === name);
  const start = async () => {
    setWorking(true);
    setProblem("");
    try {
      const run = await unwrap(client.POST("/api/runs", { body: { portraits: ids, routine: name, strength, title, spots_from: null } }));
      await navigate(`/runs/${run.id}`);
    } catch (error) {
      setProblem((error as ApiError).message);
      setWorking(false);
    }
  };
  return (
    <Modal show={show} onHide={onClose} centered aria-labelledby="run-title">
      <Modal.Header closeButton>
        <Modal.Title id="run-title">
          Run a routine on {ids.length} portrait{ids.length === 1 ? "" : "s"}
        </Modal.Title>
      </Modal.Header>
      <Modal.Body className="mg-deliver">
        {problem && <Alert variant="warning">{problem}</Alert>}
        <Form.Group controlId="run-routine">
          <Form.Label>Routine</Form.Label>
          <Form.Select value={name} onChange={(e) => setName(e.target.value)}>
            {routines.map((r) => (
              <option key={r.name} value={r.name}>
                {r.title}
                {r.own ? " (own)" : ""}
              </option>
            ))}
          </Form.Select>
          {chosen && (
            <Form.Text>
              {chosen.meaning} {chosen.spots_from !== null && `Spots are healed from ${chosen.spots_from} % sure on. `}
              {chosen.steps.join(", ")}.
            </Form.Text>
          )}
        </Form.Group>
        <Slider label="Strength" title="Of all its passes; each can be changed afterwards" unit="%" min={0} max={100} initial={100} value={strength} onInput={setStrength} />
        <Form.Group controlId="run-name">
          <Form.Label>Name</Form.Label>
          <Form.Control maxLength={120} placeholder={chosen?.title} value={title} onChange={(e) => setTitle(e.target.value)} />
        </Form.Group>
        <p className="mg-hint">
          Each portrait gets ordinary passes fitted to its faces. You look through the results before anything is delivered.
        </p>
      </Modal.Body>
      <Modal.Footer>
        <Button variant="secondary" onClick={onClose}>
          Close
        </Button>
        <Button disabled={working || !chosen} onClick={() => void start()}>
          Start
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
