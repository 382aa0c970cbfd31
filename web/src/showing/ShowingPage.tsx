/** The page that a client sees: the pictures, what they say of each, and signing off. */
import { useCallback, useEffect, useRef, useState } from "react";
import { Answer } from "./Answer";
import { Locked } from "./Locked";
import { OnePicture } from "./OnePicture";
import { addressOf, ask, type Showing } from "./visit";

const WAIT_MS = 2000;

export function ShowingPage({ token }: { token: string }) {
  const [showing, setShowing] = useState<Showing | null>(null);
  const [problem, setProblem] = useState("");
  const [at, setAt] = useState(0);
  const begun = useRef(false);

  const take = useCallback((found: Showing) => {
    setShowing(found);
    setProblem("");
  }, []);
  const again = useCallback(() => ask<Showing>(token, "/state").then(take, (error: Error) => setProblem(error.message)), [token, take]);
  useEffect(() => {
    // Asked for once, as it counts as an opening.
    if (begun.current) return;
    begun.current = true;
    ask<Showing>(token, "").then(take, (error: Error) => setProblem(error.message));
  }, [token, take]);

  const making = showing?.pictures?.some((p) => p.state === "waiting") ?? false;
  useEffect(() => {
    if (!making) return;
    const timer = window.setInterval(() => void again(), WAIT_MS);
    return () => window.clearInterval(timer);
  }, [making, again]);
  useEffect(() => {
    if (showing?.title) document.title = showing.title;
  }, [showing?.title]);

  if (!showing)
    return (
      <main className="show-centre">
        {problem ? (
          <>
            <h1>Not here</h1>
            <p role="alert">{problem}</p>
          </>
        ) : (
          <p role="status">One moment…</p>
        )}
      </main>
    );
  if (showing.locked) return <Locked token={token} onOpen={take} />;
  const pictures = showing.pictures ?? [];
  const shown = pictures[Math.min(at, pictures.length - 1)];
  if (!shown)
    return (
      <main className="show-centre">
        <h1>{showing.title}</h1>
        <p>There are no pictures here any more.</p>
      </main>
    );
  return (
    <>
      <header className="show-head">
        <h1>{showing.title}</h1>
        <p>
          {showing.by && `From ${showing.by}. `}
          {showing.expires_at && `Open until ${new Date(showing.expires_at).toLocaleDateString(undefined, { dateStyle: "long" })}.`}
        </p>
      </header>
      <main className="show-main">
        {problem && (
          <p className="show-problem" role="alert">
            {problem}
          </p>
        )}
        {pictures.length > 1 && (
          <nav aria-label="Pictures">
            <ul className="show-strip">
              {pictures.map((p, n) => (
                <li key={p.number}>
                  <button type="button" aria-current={p === shown ? "true" : undefined} aria-label={`${p.name}${SAID[p.verdict]}`} onClick={() => setAt(n)}>
                    {p.state === "ready" && <img src={addressOf(token, p, "result", "screen")} alt="" loading="lazy" />}
                    <span aria-hidden="true">{p.verdict === "fine" ? "✓" : p.verdict === "change" ? "✎" : ""}</span>
                  </button>
                </li>
              ))}
            </ul>
          </nav>
        )}
        <OnePicture
          key={shown.number}
          token={token}
          shown={shown}
          compare={showing.compare ?? false}
          closed={showing.signed_by !== ""}
          onChange={take}
          onAgain={again}
          onNext={at + 1 < pictures.length ? () => setAt(at + 1) : null}
        />
        <Answer token={token} showing={showing} onChange={take} />
      </main>
    </>
  );
}

const SAID = { "": "", fine: ", fine", change: ", to be changed" };
