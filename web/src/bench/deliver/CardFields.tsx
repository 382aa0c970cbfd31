/** Who makes the pictures: written into every file, kept for the next time. */
import { Form } from "react-bootstrap";
import { usePreferences } from "../../session/preferences";

const FIELDS = [
  ["creator", "Made by"],
  ["rights", "Rights"],
  ["email", "Mail"],
  ["website", "Website"],
  ["title", "Title"],
] as const;

const HINTS: Partial<Record<(typeof FIELDS)[number][0], string>> = {
  title: "{portrait}, or what its file says; {portrait} and {date} stand for themselves",
};

export function CardFields() {
  const { card, save } = usePreferences();
  return (
    <details className="mg-told-group">
      <summary>Who made it {card.creator && <small>{card.creator}</small>}</summary>
      {FIELDS.map(([name, label]) => (
        <Form.Group key={name} controlId={`card-${name}`} className="mg-card-field">
          <Form.Label>{label}</Form.Label>
          <Form.Control
            size="sm"
            maxLength={200}
            title={HINTS[name]}
            placeholder={name === "title" ? "{portrait}" : undefined}
            defaultValue={card[name]}
            onBlur={(e) => e.target.value !== card[name] && void save((now) => ({ card: { ...now.card, [name]: e.target.value.trim() } }))}
          />
        </Form.Group>
      ))}
    </details>
  );
}
