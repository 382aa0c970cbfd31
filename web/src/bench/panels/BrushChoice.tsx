/** Brush settings saved by name: sizes in millimetres, so that they fit every face. */
import { useState, type FormEvent } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import type { Brush } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { pxPerMm } from "../state/bands";
import { isInTray } from "../hands";
import { LARGEST, SMALLEST, useHand } from "../state/hand";
import { usePreferences, withNamed, withoutNamed } from "../../session/preferences";

export function BrushChoice() {
  const { brushes, save } = usePreferences();
  const hand = useHand();
  const [name, setName] = useState("");
  const use = (brush: Brush) => {
    const wanted = Math.round(2 * brush.radius_mm * pxPerMm()) / 2;
    hand.set({
      mode: isInTray(brush.mode) ? brush.mode : hand.mode,
      radius: Math.min(Math.max(wanted, SMALLEST), LARGEST),
      softness: brush.softness,
      opacity: brush.opacity,
      flow: brush.flow,
      maskEdges: brush.edges ?? 0,
    });
  };
  const keep = (event: FormEvent) => {
    event.preventDefault();
    const { mode, radius, softness, opacity, flow, maskEdges: edges } = hand;
    const brush = { name: name.trim(), mode, radius_mm: Math.max(radius / pxPerMm(), 0.01), softness, opacity, flow, edges };
    if (brush.name) void save((now) => ({ brushes: withNamed(now.brushes, brush) })).then((done) => done && setName(""));
  };
  return (
    <Dropdown drop="up" autoClose="outside">
      <Dropdown.Toggle variant="tray" className="mg-more" aria-label="Saved brushes" title="Saved brushes">
        <Icon name="bookmark" />
      </Dropdown.Toggle>
      <Dropdown.Menu className="mg-brushes">
        {brushes.length === 0 && <Dropdown.ItemText>No brush saved yet.</Dropdown.ItemText>}
        {brushes.map((b) => (
          <div key={b.name} className="mg-row">
            <Dropdown.Item as="button" onClick={() => use(b)}>
              {b.name} <small>⌀ {(2 * b.radius_mm).toFixed(1)} mm</small>
            </Dropdown.Item>
            <Button variant="quiet" aria-label={`Delete ${b.name}`} title="Delete" onClick={() => void save((now) => ({ brushes: withoutNamed(now.brushes, b.name) }))}>
              <Icon name="x" />
            </Button>
          </div>
        ))}
        <Form onSubmit={keep} className="mg-row">
          <Form.Control size="sm" aria-label="Name of the brush" placeholder="Name of this brush" maxLength={60} value={name} onChange={(e) => setName(e.target.value)} />
          <Button type="submit" size="sm" disabled={!name.trim()}>
            Save
          </Button>
        </Form>
      </Dropdown.Menu>
    </Dropdown>
  );
}
