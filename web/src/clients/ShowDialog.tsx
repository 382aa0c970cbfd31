/** Showing portraits to a client: what the page may show, for how long; then its address, told this once. */
import { useState } from "react";
import { Alert, Button, Form, Modal } from "react-bootstrap";
import { Link } from "react-router";
import { Address } from "./Address";
import { addressOf, useLinkChanges } from "./links";

const SIDES = [1200, 1600, 2048, 2560, 4000];
const ENDS = [7, 14, 30, 90, 365];
const USUAL = { title: "", days: 30, phrase: "", compare: true, watermark: "", long_side: 2048 };

export function ShowDialog({ ids, name, show, onClose }: { ids: string[]; name: string; show: boolean; onClose: () => void }) {
  const [wish, setWish] = useState(USUAL);
  const { make } = useLinkChanges();
  const change = (part: Partial<typeof USUAL>) => setWish((w) => ({ ...w, ...part }));
  const close = () => {
    make.reset();
    setWish(USUAL);
    onClose();
  };
  return (
    <Modal show={show} onHide={close} centered aria-labelledby="show-title">
      <Modal.Header closeButton>
        <Modal.Title id="show-title">{ids.length === 1 ? `Show ${name} to a client` : `Show ${ids.length} portraits to a client`}</Modal.Title>
      </Modal.Header>
      {make.data ? (
        <Modal.Body className="mg-deliver">
          <p>Whoever has this address sees the pictures as they stand now, and can set pins. It is told only this once.</p>
          <Address address={addressOf(make.data.token)} />
          <p className="mg-hint">
            Pictures are being made ready. How often it was opened and what was said stands under <Link to="/links">Clients</Link>.
          </p>
        </Modal.Body>
      ) : (
        <Modal.Body className="mg-deliver">
          {make.error && <Alert variant="warning">{make.error.message}</Alert>}
          <Form.Group controlId="show-name">
            <Form.Label>Title that the client reads</Form.Label>
            <Form.Control maxLength={120} placeholder={name} value={wish.title} onChange={(e) => change({ title: e.target.value })} />
          </Form.Group>
          <Form.Group controlId="show-days">
            <Form.Label>Can be opened for</Form.Label>
            <Form.Select value={wish.days} onChange={(e) => change({ days: Number(e.target.value) })}>
              {ENDS.map((d) => (
                <option key={d} value={d}>
                  {d} days
                </option>
              ))}
            </Form.Select>
          </Form.Group>
          <Form.Group controlId="show-side">
            <Form.Label>Pictures have at most</Form.Label>
            <Form.Select value={wish.long_side} onChange={(e) => change({ long_side: Number(e.target.value) })}>
              {SIDES.map((s) => (
                <option key={s} value={s}>
                  {s} pixels on their longer side
                </option>
              ))}
            </Form.Select>
          </Form.Group>
          <Form.Check id="show-compare" label="With the original, to compare" checked={wish.compare} onChange={(e) => change({ compare: e.target.checked })} />
          <Form.Group controlId="show-watermark">
            <Form.Label>Written over the pictures</Form.Label>
            <Form.Control maxLength={80} placeholder="nothing" value={wish.watermark} onChange={(e) => change({ watermark: e.target.value })} />
          </Form.Group>
          <Form.Group controlId="show-phrase">
            <Form.Label>Pass phrase</Form.Label>
            <Form.Control
              maxLength={200}
              autoComplete="off"
              placeholder="none; tell it to the client by another way"
              value={wish.phrase}
              onChange={(e) => change({ phrase: e.target.value })}
            />
          </Form.Group>
        </Modal.Body>
      )}
      <Modal.Footer>
        <Button variant="secondary" onClick={close}>
          Close
        </Button>
        {!make.data && (
          <Button disabled={make.isPending} onClick={() => make.mutate({ ...wish, title: wish.title || name, portraits: ids })}>
            Make the link
          </Button>
        )}
      </Modal.Footer>
    </Modal>
  );
}
