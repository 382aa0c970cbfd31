/** Settings of a pass kept by name, to be used again on any portrait. */
import { useState, type FormEvent } from "react";
import { Button, Form } from "react-bootstrap";
import type { Pass } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { usePreferences, withNamed } from "../../session/preferences";

export function KeepSettings({ pass }: { pass: Pass }) {
  const save = usePreferences((s) => s.save);
  const [name, setName] = useState<string | null>(null);
  const keep = (event: FormEvent) => {
    event.preventDefault();
    const wanted = (name ?? "").trim();
    if (!wanted) return;
    const settings = Object.fromEntries(Object.entries(pass.settings).filter(([, v]) => !Array.isArray(v))) as Record<string, number | boolean | string>;
    void save(({ kept }) => ({ kept: withNamed(kept, { name: wanted, kind: pass.kind, settings }) })).then((done) => done && setName(null));
  };
  if (name === null)
    return (
      <Button variant="quiet" title="Kept under a name, to be used on any portrait: they stand in the menu of passes" onClick={() => setName("")}>
        <Icon name="bookmark" /> Keep settings
      </Button>
    );
  return (
    <Form onSubmit={keep} className="mg-row">
      <Form.Control
        size="sm"
        autoFocus
        aria-label="Name of the settings"
        placeholder="Name of these settings"
        maxLength={60}
        value={name}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={(e) => e.key === "Escape" && setName(null)}
      />
      <Button type="submit" size="sm" disabled={!name.trim()}>
        Keep
      </Button>
    </Form>
  );
}
