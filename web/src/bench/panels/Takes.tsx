/** Takes: keep the present state, look at one against another, return to one. */
import { useState, type FormEvent } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import type { Take } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { useBenchParts } from "../state/bench";
import { RESULT, useCompare } from "../state/compare";
import { useTakeActions, useTakes } from "../state/takes";

export function Takes() {
  const { portrait, gesture } = useBenchParts("portrait", "gesture");
  const id = portrait?.id ?? "";
  const takes = useTakes(portrait?.id);
  const actions = useTakeActions(id);
  const [name, setName] = useState("");
  const [renamed, setRenamed] = useState<{ id: string; name: string } | null>(null);
  const keep = (event: FormEvent) => {
    event.preventDefault();
    void actions.keep(name.trim() || `Take ${(takes.data?.length ?? 0) + 1}`).then(() => setName(""));
  };
  const rename = (event: FormEvent) => {
    event.preventDefault();
    if (renamed?.name.trim()) void actions.rename(renamed.id, renamed.name);
    setRenamed(null);
  };
  const goOn = async (take: Take) => {
    await actions.keep(`Before ${take.name}`);
    gesture({ op: "return_to_take", take_id: take.id, name: take.name });
  };
  return (
    <div className="mg-takes">
      <Form onSubmit={keep} className="mg-row">
        <Form.Control size="sm" aria-label="Name of the take" placeholder="Name" maxLength={200} value={name} onChange={(e) => setName(e.target.value)} />
        <Button type="submit" size="sm" title="Keep the present state under this name">
          Keep
        </Button>
      </Form>
      {takes.data?.length === 0 && <p className="mg-hint">A take keeps the portrait as it is now, to compare with or return to.</p>}
      <ul aria-label="Takes">
        {takes.data?.map((t) => (
          <li key={t.id}>
            {renamed?.id === t.id ? (
              <Form onSubmit={rename}>
                <Form.Control size="sm" autoFocus aria-label="Name" maxLength={200} value={renamed.name} onChange={(e) => setRenamed({ ...renamed, name: e.target.value })} onBlur={rename} onKeyDown={(e) => e.key === "Escape" && setRenamed(null)} />
              </Form>
            ) : (
              <CompareButton take={t} id={id} />
            )}
            <Dropdown align="end">
              <Dropdown.Toggle variant="quiet" className="mg-more" aria-label={`More for ${t.name}`}>
                <Icon name="three-dots" />
              </Dropdown.Toggle>
              <Dropdown.Menu>
                <Dropdown.Item as="button" title="Undo brings the present back" onClick={() => gesture({ op: "return_to_take", take_id: t.id, name: t.name })}>
                  Return to it
                </Dropdown.Item>
                <Dropdown.Item as="button" title="The present is kept as a take first" onClick={() => void goOn(t)}>
                  Begin another variant from it
                </Dropdown.Item>
                <ShowItem take={t} />
                <Dropdown.Item as="button" onClick={() => window.setTimeout(() => setRenamed({ id: t.id, name: t.name }))}>
                  Rename
                </Dropdown.Item>
                <Dropdown.Divider />
                <Dropdown.Item as="button" onClick={() => void actions.remove(t.id)}>
                  Delete
                </Dropdown.Item>
              </Dropdown.Menu>
            </Dropdown>
          </li>
        ))}
      </ul>
    </div>
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
