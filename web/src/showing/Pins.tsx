/** Pins in words: setting one, and the list of those that are there. */
import { useState, type FormEvent } from "react";
import { MOST_WORDS, type ClientPin, type Kind } from "./visit";

const KINDS: readonly (readonly [Kind, string, string])[] = [
  ["keep", "Keep this as it is", "keep"],
  ["change", "Please change this", "change"],
];

export function PinForm({ onSave, onCancel }: { onSave: (kind: Kind, words: string) => Promise<unknown>; onCancel: () => void }) {
  const [kind, setKind] = useState<Kind>("change");
  const [words, setWords] = useState("");
  const [problem, setProblem] = useState("");
  const [working, setWorking] = useState(false);
  const save = (event: FormEvent) => {
    event.preventDefault();
    setWorking(true);
    onSave(kind, words).catch((error: Error) => {
      setProblem(error.message);
      setWorking(false);
    });
  };
  return (
    <form className="show-form" aria-label="New pin" onSubmit={save}>
      {problem && (
        <p className="show-problem" role="alert">
          {problem}
        </p>
      )}
      <fieldset>
        <legend>Your wish for this place</legend>
        {KINDS.map(([name, text]) => (
          <label key={name}>
            <input type="radio" name="pin-kind" checked={kind === name} onChange={() => setKind(name)} /> {text}
          </label>
        ))}
      </fieldset>
      <label>
        In your words{kind === "keep" && " (if you like)"}
        <textarea rows={2} maxLength={MOST_WORDS} required={kind === "change"} value={words} autoFocus onChange={(e) => setWords(e.target.value)} />
      </label>
      <div className="show-tools">
        <button type="submit" className="show-main-button" disabled={working}>
          Set the pin
        </button>
        <button type="button" onClick={onCancel}>
          Cancel
        </button>
      </div>
    </form>
  );
}

interface ListProps {
  pins: ClientPin[];
  chosen: string;
  closed: boolean;
  onChoose: (id: string) => void;
  onTake: (pin: ClientPin) => void;
}

export function PinList({ pins, chosen, closed, onChoose, onTake }: ListProps) {
  if (pins.length === 0) return null;
  return (
    <ol className="show-pins" aria-label="Pins">
      {pins.map((pin, n) => (
        <li key={pin.id} className={chosen === pin.id ? "show-chosen" : ""}>
          <button type="button" className="show-pin-words" aria-label={`Show pin ${n + 1}`} onClick={() => onChoose(pin.id)}>
            <b>{n + 1}</b>
            <span>
              <i>{pin.done ? "done" : KINDS.find(([name]) => name === pin.kind)![2]}</i> {pin.words}
            </span>
          </button>
          {!closed && !pin.done && (
            <button type="button" aria-label={`Take pin ${n + 1} away`} onClick={() => onTake(pin)}>
              ×
            </button>
          )}
        </li>
      ))}
    </ol>
  );
}
