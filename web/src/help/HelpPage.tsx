import { useEffect } from "react";
import { useNavigate } from "react-router";
import { Alert, Button } from "react-bootstrap";
import { useFirst } from "../bench/state/firstRetouch";
import { KEYS, POINTER } from "../bench/keys";
import { usePreferences } from "../session/preferences";
import { Brand } from "../ui/Brand";
import { KeyRow } from "./KeyRow";

const GROUPS = ["Look", "Brush", "Touches", "History"] as const;

export function HelpPage() {
  const navigate = useNavigate();
  // The table of keys is read anew whenever the user's own change.
  const { keys, problem, save } = usePreferences();
  const { away, done } = useFirst();
  useEffect(() => {
    document.title = "Help · Mellow Glass";
  }, []);
  return (
    <div className="mg-help">
      <header className="mg-top">
        <Brand />
        <span className="flex-grow-1" />
        <Button variant="quiet" onClick={() => (history.length > 1 ? navigate(-1) : navigate("/"))}>
          Back
        </Button>
      </header>
      <main>
        <h1>Keys and pointer</h1>
        <p>
          One hand on the keys, one on the pen or mouse. To change a key, press its button and then the new key; Esc
          leaves it as it is.
        </p>
        <p>
          <Button variant="secondary" size="sm" onClick={() => useFirst.getState().set({ done: [], away: false })} disabled={!away && done.length === 0}>
            Show the first retouch again
          </Button>{" "}
          {!away && <span className="mg-hint">It stands in the left column of every portrait.</span>}
        </p>
        {problem && (
          <Alert variant="warning" role="alert">
            {problem}
          </Alert>
        )}
        {Object.keys(keys).length > 0 && (
          <Button variant="quiet" onClick={() => void save(() => ({ keys: {} }))}>
            Back to the usual keys
          </Button>
        )}
        <div className="mg-help-columns">
          {GROUPS.map((group) => (
            <section key={group}>
              <h2>{group}</h2>
              <dl>
                {KEYS.filter((k) => k.group === group).map((k) => (
                  <KeyRow key={k.action} entry={k} />
                ))}
              </dl>
            </section>
          ))}
          <section>
            <h2>Pointer</h2>
            <dl>
              {POINTER.map((p) => (
                <div key={p.how}>
                  <dt>{p.how}</dt>
                  <dd>{p.text}</dd>
                </div>
              ))}
            </dl>
          </section>
        </div>
      </main>
    </div>
  );
}
