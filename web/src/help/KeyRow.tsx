/** An action with its keys, which can be changed. */
import { useEffect, useState } from "react";
import { keyLabel, pressed, takenBy, usualKeys, type Key } from "../bench/keys";
import { usePreferences } from "../session/preferences";

const ALONE = ["control", "shift", "alt", "meta", "altgraph", "tab"];

export function KeyRow({ entry }: { entry: Key }) {
  const { keys, save } = usePreferences();
  const [waiting, setWaiting] = useState(false);
  const own = keys[entry.action] !== undefined;

  useEffect(() => {
    if (!waiting) return;
    const take = (event: KeyboardEvent) => {
      if (ALONE.includes(event.key.toLowerCase())) return;
      event.preventDefault();
      event.stopPropagation();
      setWaiting(false);
      const key = pressed(event);
      if (event.key === "Escape" || entry.keys.includes(key)) return;
      const other = takenBy(key, entry.action);
      if (other)
        return usePreferences.setState({ problem: `${keyLabel(key)} is taken: ${other.text}. Nothing was changed.` });
      void save(({ keys }) => ({ keys: { ...keys, [entry.action]: [key] } }));
    };
    window.addEventListener("keydown", take, true);
    return () => window.removeEventListener("keydown", take, true);
  }, [waiting, entry, save]);

  const back = () => {
    const taken = usualKeys(entry.action).map((k) => takenBy(k, entry.action)).find(Boolean);
    if (taken)
      return usePreferences.setState({ problem: `Its usual key is taken: ${taken.text}. Change that first.` });
    void save(({ keys }) => ({ keys: Object.fromEntries(Object.entries(keys).filter(([action]) => action !== entry.action)) }));
  };
  const shown = entry.keys.filter((key) => !key.startsWith("shift+")).slice(0, 2);
  return (
    <div>
      <dt>
        <button
          type="button"
          className="mg-key"
          aria-label={`Change the key of: ${entry.text}`}
          aria-pressed={waiting}
          title="Press, then the new key"
          onClick={() => setWaiting(!waiting)}
          onBlur={() => setWaiting(false)}
        >
          {waiting ? <kbd>press a key…</kbd> : shown.map((key) => <kbd key={key}>{keyLabel(key)}</kbd>)}
        </button>
        {own && (
          <button type="button" className="mg-key" aria-label={`The usual key for: ${entry.text}`} title="Back to the usual key" onClick={back}>
            ↺
          </button>
        )}
      </dt>
      <dd>{entry.text}</dd>
    </div>
  );
}
