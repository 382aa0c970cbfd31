import { useEffect } from "react";
import { useNavigate } from "react-router";
import { Button } from "react-bootstrap";
import { keyLabel, KEYS, POINTER } from "../bench/keys";
import { Brand } from "../ui/Brand";

const GROUPS = ["Look", "Brush", "Touches", "History"] as const;

export function HelpPage() {
  const navigate = useNavigate();
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
        <p>One hand on the keys, one on the pen or mouse.</p>
        <div className="mg-help-columns">
          {GROUPS.map((group) => (
            <section key={group}>
              <h2>{group}</h2>
              <dl>
                {KEYS.filter((k) => k.group === group).map((k) => (
                  <div key={k.action}>
                    <dt>
                      {k.keys
                        .filter((key) => !key.startsWith("shift+"))
                        .slice(0, 2)
                        .map((key) => (
                          <kbd key={key}>{keyLabel(key)}</kbd>
                        ))}
                    </dt>
                    <dd>{k.text}</dd>
                  </div>
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
