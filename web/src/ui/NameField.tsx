/** A name being typed: Enter and leaving the field take it, Escape drops it. */
import { useState, type FormEvent } from "react";
import { Form } from "react-bootstrap";

interface Props {
  label: string;
  initial?: string;
  /** Letters it may have. */
  most?: number;
  className?: string;
  /** The name without spaces around it; null where none was typed, or it was dropped. */
  onDone: (name: string | null) => void;
}

export function NameField({ label, initial = "", most = 200, className, onDone }: Props) {
  const [name, setName] = useState(initial);
  const take = (event: FormEvent) => {
    event.preventDefault();
    onDone(name.trim() || null);
  };
  return (
    <Form onSubmit={take} className={className}>
      <Form.Control
        size="sm"
        autoFocus
        aria-label={label}
        maxLength={most}
        value={name}
        onChange={(e) => setName(e.target.value)}
        onBlur={take}
        onKeyDown={(e) => e.key === "Escape" && onDone(null)}
      />
    </Form>
  );
}
