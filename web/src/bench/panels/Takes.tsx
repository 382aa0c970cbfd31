/** Takes: the present state kept, one looked at against another, returned to. */
import { useState, type FormEvent } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import type { Take } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { NameField } from "../../ui/NameField";
import { useBenchParts } from "../state/bench";
import { RESULT, useCompare } from "../state/compare";
import { useTakeActions } from "../state/takes";

/** Keep the present state as a take. */
export function KeepTake({ id, count }: { id: string; count: number }) {
  const actions = useTakeActions(id);
  const [name, setName] = useState("");
  const keep = (event: FormEvent) => {
    event.preventDefault();
    void actions.keep(name.trim() || `Take ${count + 1}`).then(() => setName(""));
  };
  return (
    <Form onSubmit={keep} className="mg-row">
      <Form.Control size="sm" aria-label="Name of the take" placeholder="Name of a take" maxLength={200} value={name} onChange={(e) => setName(e.target.value)} />
      <Button type="submit" size="sm" title="Keep the present state under this name">
        Keep
      </Button>
    </Form>
  );
}

/** One take: compared by a click, with what else can be done with it. */
export function TakeItem({ take: t, id }: { take: Take; id: string }) {
  const { gesture } = useBenchParts("gesture");
  const actions = useTakeActions(id);
  const [naming, setNaming] = useState(false);
  const rename = (name: string | null) => {
    if (name) void actions.rename(t.id, name);
    setNaming(false);
  };
  const goOn = async () => {
    await actions.keep(`Before ${t.name}`);
    gesture({ op: "return_to_take", take_id: t.id, name: t.name });
  };
  return (
    <>
      {naming ? (
        <NameField label="Name" initial={t.name} onDone={rename} />
      ) : (
        <CompareButton take={t} id={id} />
      )}
      <Dropdown align="end">
        <Dropdown.Toggle variant="quiet" className="mg-more" aria-label={`More for ${t.name}`}>
          <Icon name="three-dots" />
        </Dropdown.Toggle>
        <Dropdown.Menu popperConfig={{ strategy: "fixed" }}>
          <Dropdown.Item as="button" title="Undo brings the present back" onClick={() => gesture({ op: "return_to_take", take_id: t.id, name: t.name })}>
            Return to it
          </Dropdown.Item>
          <Dropdown.Item as="button" title="The present is kept as a take first" onClick={() => void goOn()}>
            Begin another variant from it
          </Dropdown.Item>
          <ShowItem take={t} />
          <Dropdown.Item as="button" onClick={() => window.setTimeout(() => setNaming(true))}>
            Rename
          </Dropdown.Item>
          <Dropdown.Divider />
          <Dropdown.Item as="button" onClick={() => void actions.remove(t.id)}>
            Delete
          </Dropdown.Item>
        </Dropdown.Menu>
      </Dropdown>
    </>
  );
}

function CompareButton({ take, id }: { take: Take; id: string }) {
  const { mode, against, set } = useCompare();
  const on = mode !== "off" && against.of === take.id;
  return (
    <button
      type="button"
      className="mg-take"
      aria-pressed={on}
      title={`Compare with ${take.name}`}
      onClick={() => set(on ? { mode: "off" } : { against: { show: "take", of: take.id }, mode: mode === "off" ? "wipe" : mode })}
    >
      <img loading="lazy" alt="" src={`/api/portraits/${id}/takes/${take.id}/thumbnail`} />
      <span>
        {take.name}
        <time dateTime={take.created_at}>{new Date(take.created_at).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" })}</time>
      </span>
    </button>
  );
}

function ShowItem({ take }: { take: Take }) {
  const { instead, set } = useCompare();
  const on = instead.of === take.id;
  return (
    <Dropdown.Item as="button" title="To compare two takes with each other" onClick={() => set({ instead: on ? RESULT : { show: "take", of: take.id } })}>
      {on ? "Show the result again" : "Show it in the picture's place"}
    </Dropdown.Item>
  );
}
