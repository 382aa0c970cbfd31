/** The head of a set of passes: its name, switch and one strength for all of them. */
import { useState, type RefObject } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import type { Operation, Pass } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { Icon } from "../../ui/Icon";
import { NameField } from "../../ui/NameField";
import { Slider } from "../../ui/Slider";
import type { Painter } from "../canvas/Painter";
import { usePreferences, withNamed } from "../../session/preferences";
import { useBenchParts } from "../state/bench";

type Change = Extract<Operation, { op: "change_set" }>;

const PLACES: [string, string][] = [
  ["", "Everything"],
  ["not background", "The person"],
  ["background", "The background"],
  ["skin", "All skin"],
  ["face_skin", "The face"],
  ["hair", "Hair"],
  ["clothing", "Clothing"],
];

function placeOf(area: NonNullable<Pass["bound"]>["area"]): string {
  return area?.kind === "zone" ? `${area.invert ? "not " : ""}${area.zone}` : "";
}

function areaOf(place: string): Pick<Change, "area" | "everywhere"> {
  if (!place) return { everywhere: true };
  const invert = place.startsWith("not ");
  const zone = (invert ? place.slice(4) : place) as Extract<NonNullable<Change["area"]>, { kind?: "zone" }>["zone"];
  return { area: { kind: "zone", zone, face: null, way: "add", invert, side: "both", share: 100 } };
}

interface Props {
  bound: NonNullable<Pass["bound"]>;
  members: Pass[];
  open: boolean;
  onOpen: () => void;
  painterRef: RefObject<Painter | null>;
}

export function SetHead({ bound, members, open, onOpen, painterRef }: Props) {
  const { gesture, say } = useBenchParts("gesture", "say");
  const [moving, setMoving] = useState<number | null>(null);
  const [naming, setNaming] = useState(false);
  const change = (more: Omit<Change, "op" | "id">): Operation => ({ op: "change_set", id: bound.id, ...more });
  const save = usePreferences((s) => s.save);
  // What is done by hand stays with its portrait.
  const steps = members
    .filter((p) => p.touches.length === 0 && p.enabled)
    .map((p) => ({ kind: p.kind, settings: p.settings as Record<string, number | boolean | string>, strength: p.strength }));
  const rename = (name: string | null) => {
    if (name && name !== bound.name) gesture(change({ name }));
    setNaming(false);
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
        {!naming ? (
          <button
            type="button"
            className="mg-card-name"
            aria-expanded={open}
            title="Shows the passes of the set; double-click to rename"
            onClick={onOpen}
            onDoubleClick={() => setNaming(true)}
          >
            {bound.name}
            <small>{members.length} passes</small>
          </button>
        ) : (
          <NameField className="flex-grow-1" label="Name of the set" initial={bound.name} onDone={rename} />
        )}
        <Dropdown align="end">
          <Dropdown.Toggle variant="quiet" className="mg-more" aria-label={`More for the set ${bound.name}`} title="More">
            <Icon name="three-dots" />
          </Dropdown.Toggle>
          <Dropdown.Menu>
            <Dropdown.Item as="button" onClick={() => window.setTimeout(() => setNaming(true))}>
              Rename
            </Dropdown.Item>
            {steps.length > 0 && (
              <Dropdown.Item
                as="button"
                title="For other portraits: it stands among the looks then"
                onClick={() =>
                  void save(({ looks }) => ({ looks: withNamed(looks, { name: bound.name.slice(0, 60), steps }) })).then((done) => done && say(`Kept as a look: ${bound.name}`))
                }
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
        <Choice
          label="Acts on"
          title="Where the whole set acts; each pass can still have a mask of its own"
          value={placeOf(bound.area)}
          choices={PLACES}
          onChange={(place) => gesture(change(areaOf(place)))}
        />
        <Button variant="quiet" size="sm" aria-expanded={open} onClick={onOpen}>
          <Icon name={open ? "chevron-down" : "chevron-right"} /> {open ? "Hide its passes" : "Show its passes"}
        </Button>
      </div>
    </li>
  );
}
