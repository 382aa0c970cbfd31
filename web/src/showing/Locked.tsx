/** The pass phrase is asked for. */
import { useState, type FormEvent } from "react";
import { ask, type Showing } from "./visit";

export function Locked({ token, onOpen }: { token: string; onOpen: (showing: Showing) => void }) {
  const [phrase, setPhrase] = useState("");
  const [problem, setProblem] = useState("");
  const [working, setWorking] = useState(false);
  const enter = (event: FormEvent) => {
    event.preventDefault();
    setWorking(true);
    ask<Showing>(token, "/phrase", "POST", { phrase })
      .then(onOpen, (error: Error) => setProblem(error.message))
      .finally(() => setWorking(false));
  };
  return (
    <main className="show-centre">
      <form className="show-form" onSubmit={enter}>
        <h1>Pass phrase</h1>
        <p>These pictures are kept behind a pass phrase. Whoever sent you the link knows it.</p>
        {problem && (
          <p className="show-problem" role="alert">
            {problem}
          </p>
        )}
        <label>
          Pass phrase
          <input type="password" autoComplete="off" required maxLength={200} value={phrase} onChange={(e) => setPhrase(e.target.value)} />
        </label>
        <button type="submit" className="show-main-button" disabled={working}>
          Look
        </button>
      </form>
    </main>
  );
}
