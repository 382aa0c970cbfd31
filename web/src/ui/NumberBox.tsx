/** A field for a number that may be written with a comma; what is no number yet is kept as typed. */
import { useState } from "react";
import { Form } from "react-bootstrap";

interface Props {
  label: string;
  value: number;
  invalid: boolean;
  onChange: (value: number) => void;
}

export function NumberBox({ label, value, invalid, onChange }: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  return (
    <Form.Control
      size="sm"
      aria-label={label}
      inputMode="decimal"
      value={typed ?? String(value)}
      isInvalid={invalid}
      onChange={(e) => {
        setTyped(e.target.value);
        const number = Number(e.target.value.replace(",", "."));
        if (e.target.value.trim() !== "" && Number.isFinite(number)) onChange(number);
      }}
      onBlur={() => setTyped(null)}
    />
  );
}
