/** The end: signing off, or sending the wishes. */
import { useState, type FormEvent } from "react";
import { ask, leftToSay, type Showing } from "./visit";

export function Answer({ token, showing, onChange }: { token: string; showing: Showing; onChange: (showing: Showing) => void }) {
  const [name, setName] = useState("");
  const [problem, setProblem] = useState("");
  const pictures = showing.pictures ?? [];
  const left = leftToSay(pictures);
  const fine = pictures.every((p) => p.verdict === "fine");
  const send = (event: FormEvent) => {
    event.preventDefault();
    ask<Showing>(token, "/answer", "POST", { name: fine ? name : "" }).then(
      (found) => {
        setProblem("");
        onChange(found);
      },
      (error: Error) => setProblem(error.message),
    );
  };
  if (showing.signed_by)
    return (
      <section className="show-answer" aria-label="Your answer">
        <p role="status">
          Signed off by {showing.signed_by}. Thank you; nothing more is left to do here.
        </p>
      </section>
    );
  return (
    <section className="show-answer" aria-label="Your answer">
      {problem && (
        <p className="show-problem" role="alert">
          {problem}
        </p>
      )}
      {left && <p>{left}</p>}
      {!left && showing.answered && <p role="status">Your wishes were sent. You can still change them, and send them again.</p>}
      {!left && !showing.answered && (
        <form className="show-form" onSubmit={send}>
          {fine ? (
            <>
              <p>All is fine? With your name you sign the pictures off; after that nothing can be changed here.</p>
              <label>
                Your name
                <input required maxLength={120} autoComplete="name" value={name} onChange={(e) => setName(e.target.value)} />
              </label>
            </>
          ) : (
            <p>Done? Send your wishes, and the pictures are worked on.</p>
          )}
          <button type="submit" className="show-main-button">
            {fine ? "Sign off" : "Send my wishes"}
          </button>
        </form>
      )}
    </section>
  );
}
