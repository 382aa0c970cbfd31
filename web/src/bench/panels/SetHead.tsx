/** The head of a set of passes: its name, switch and one strength for all of them. */
import { useState, type RefObject } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import type { Operation, Pass } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { Slider } from "../../ui/Slider";
import type { Painter } from "../canvas/Painter";
import { usePreferences } from "../../session/preferences";
import { useBenchParts } from "../state/bench";

interface Props {
  bound: NonNullable<Pass["bound"]>;
  members: Pass[];
  open: boolean;
  onOpen: () => void;
  painterRef: RefObject<Painter | null>;
}

export function SetHead({ bound, members, open, onOpen, painterRef }: Props) {
  const { gesture } = useBenchParts("gesture");
  const [moving, setMoving] = useState<number | null>(null);
  const [name, setName] = useState<string | null>(null);
  const change = (more: Omit<Extract<Operation, { op: "change_set" }>, "op" | "id">): Operation => ({ op: "change_set", id: bound.id, ...more });
  const { looks, save } = usePreferences();
  // What is done by hand stays with its portrait.
  const steps = members
    .filter((p) => p.touches.length === 0 && p.enabled)
    .map((p) => ({ kind: p.kind, settings: p.settings as Record<string, number | boolean | string>, strength: p.strength }));
  const rename = () => {
    const wanted = name?.trim();
    if (wanted && wanted !== bound.name) gesture(change({ name: wanted }));
    setName(null);
  };
  return (
    <li className={`mg-card mg-set ${bound.on ? "" : "mg-card-off"}`} aria-label={`Set ${bound.name}`}>
      <div className="mg-card-head">
        <Form.Check
          type="switch"
          role="switch"
          aria-label={`Set ${bound.name} on or off`}
          title="The whole set on or off"
          checked={bound.on}
          onChange={(e) => gesture(change({ on: e.target.checked }))}
        />
        {name === null ? (
          <button
            type="button"
            className="mg-card-name"
            aria-expanded={open}
            title="Shows the passes of the set; double-click to rename"
            onClick={onOpen}
            onDoubleClick={() => setName(bound.name)}
          >
            {bound.name}
            <small>{members.length} passes</small>
          </button>
        ) : (
          <Form
            className="flex-grow-1"
            onSubmit={(e) => {
              e.preventDefault();
              rename();
            }}
          >
            <Form.Control
              size="sm"
              autoFocus
              aria-label="Name of the set"
              maxLength={200}
              value={name}
              onChange={(e) => setName(e.target.value)}
              onBlur={rename}
              onKeyDown={(e) => e.key === "Escape" && setName(null)}
            />
          </Form>
        )}
        <Dropdown align="end">
          <Dropdown.Toggle variant="quiet" className="mg-more" aria-label={`More for the set ${bound.name}`} title="More">
            <Icon name="three-dots" />
          </Dropdown.Toggle>
          <Dropdown.Menu>
            <Dropdown.Item as="button" onClick={() => window.setTimeout(() => setName(bound.name))}>
              Rename
            </Dropdown.Item>
            {steps.length > 0 && (
              <Dropdown.Item
                as="button"
                title="For other portraits: it stands among the looks then"
                onClick={() => void save({ looks: [...looks.filter((l) => l.name !== bound.name), { name: bound.name.slice(0, 60), steps }] })}
              >
                Keep as a look
              </Dropdown.Item>
            )}
            <Dropdown.Item
              as="button"
              title="The passes stay, each with the strength that it has now"
              onClick={() => gesture(change({ loose: true }))}
            >
              Let its passes go
            </Dropdown.Item>
          </Dropdown.Menu>
        </Dropdown>
      </div>
      <div className="mg-card-body">
        <Slider
          label="Strength"
          title="How much of the whole set shows"
          unit="%"
          min={0}
          max={100}
          initial={100}
          value={moving ?? bound.strength}
          onInput={(strength) => {
            setMoving(strength);
            painterRef.current?.showDraft([change({ strength })], null);
          }}
          onCommit={(strength, goesOn) =>
            gesture(
              change({ strength }),
              (outcome) => {
                setMoving(null);
                if (!outcome) painterRef.current?.endDraft();
              },
              goesOn,
            )
          }
        />
        <Button variant="quiet" size="sm" aria-expanded={open} onClick={onOpen}>
          <Icon name={open ? "chevron-down" : "chevron-right"} /> {open ? "Hide its passes" : "Show its passes"}
        </Button>
      </div>
    </li>
  );
}
