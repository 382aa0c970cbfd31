import { useId } from "react";
import { Form } from "react-bootstrap";

interface Props {
  label: string;
  value: string;
  title?: string;
  /** Values with the words for them. */
  choices: readonly (readonly [value: string, text: string])[];
  onChange: (value: string) => void;
}

/** One of several, with its label beside it. */
export function Choice({ label, value, title, choices, onChange }: Props) {
  const id = useId();
  return (
    <div className="mg-choice" title={title}>
      <label htmlFor={id}>{label}</label>
      <Form.Select id={id} size="sm" value={value} onChange={(e) => onChange(e.target.value)}>
        {choices.map(([v, text]) => (
          <option key={v} value={v}>
            {text}
          </option>
        ))}
      </Form.Select>
    </div>
  );
}
