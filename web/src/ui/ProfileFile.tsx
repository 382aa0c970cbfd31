/** A button that takes in an ICC profile from a file. */
import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Button } from "react-bootstrap";
import { csrfToken, problemOf, type Schemas } from "../api/client";
import { PROFILES } from "../bench/state/proof";

export function ProfileFile({ onAdded }: { onAdded: (profile: Schemas["ProfileOut"]) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const queries = useQueryClient();
  const [problem, setProblem] = useState("");
  const add = async (file: File | undefined) => {
    if (!file) return;
    const body = new FormData();
    body.append("file", file);
    try {
      const answer = await fetch("/api/profiles", { method: "POST", body, headers: { "X-CSRFToken": csrfToken() } });
      const made: unknown = await answer.json().catch(() => null);
      if (!answer.ok) throw problemOf(answer.status, made);
      setProblem("");
      await queries.invalidateQueries({ queryKey: PROFILES });
      onAdded(made as Schemas["ProfileOut"]);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <>
      <input
        ref={input}
        type="file"
        accept=".icc,.icm"
        hidden
        aria-label="Profile file"
        onChange={(e) => {
          void add(e.target.files?.[0]);
          e.target.value = "";
        }}
      />
      <Button variant="quiet" size="sm" title="An ICC profile, from a printer or a paper's maker" onClick={() => input.current?.click()}>
        Add a profile…
      </Button>
      {problem && <p className="mg-warn">{problem}</p>}
    </>
  );
}
