/** The picture as it will be printed: through a profile, or what that can't hold. */
import { useQueryClient } from "@tanstack/react-query";
import { Button, ButtonGroup, Form } from "react-bootstrap";
import { client, unwrap } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { ProfileFile } from "../../ui/ProfileFile";
import { RESULT, useCompare } from "../state/compare";
import { INTENTS, printed, PROFILES, useProfiles, useProof } from "../state/proof";

const WAYS = [
  ["off", "As it is"],
  ["proof", "As printed"],
  ["gamut", "What it can't hold"],
] as const;

export function ProofChoice() {
  const { instead, set } = useCompare();
  const proof = useProof();
  const queries = useQueryClient();
  const profiles = useProfiles().data ?? [];
  const way = instead.show === "proof" || instead.show === "gamut" ? instead.show : "off";
  const look = (show: typeof way, part: Partial<typeof proof> = {}) => {
    proof.set(part);
    set({ instead: show === "off" ? RESULT : printed(show, { ...proof, ...part }) });
  };
  const chosen = profiles.find((p) => p.id === proof.profile);
  const forget = async () => {
    await unwrap(client.DELETE("/api/profiles/{profile_id}", { params: { path: { profile_id: proof.profile } } })).catch(() => null);
    look("off", { profile: "press" });
    await queries.invalidateQueries({ queryKey: PROFILES });
  };
  return (
    <fieldset className="mg-proof">
      <legend>Printed</legend>
      <ButtonGroup aria-label="Through a profile">
        {WAYS.map(([name, text]) => (
          <Button key={name} variant="tray" active={way === name} aria-pressed={way === name} onClick={() => look(name)}>
            {text}
          </Button>
        ))}
      </ButtonGroup>
      {way !== "off" && (
        <>
          <Choice
            label="Profile"
            value={proof.profile}
            choices={profiles.map((p) => [p.id, p.space === "RGB" ? p.title : `${p.title} (${p.space})`] as const)}
            onChange={(profile) => look(way, { profile })}
          />
          {way === "proof" && (
            <>
              <Choice label="Intent" value={proof.intent} choices={INTENTS} onChange={(v) => look(way, { intent: v as typeof proof.intent })} />
              <Form.Check
                type="switch"
                role="switch"
                id="proof-black"
                label="Black point fitted"
                checked={proof.blackPoint}
                onChange={(e) => look(way, { blackPoint: e.target.checked })}
              />
              <Form.Check
                type="switch"
                role="switch"
                id="proof-paper"
                label="The paper's white and black"
                checked={proof.paper}
                onChange={(e) => look(way, { paper: e.target.checked })}
              />
            </>
          )}
          <div>
            <ProfileFile onAdded={(p) => look(way, { profile: p.id })} />
            {chosen?.own && (
              <Button variant="quiet" size="sm" onClick={() => void forget()}>
                Forget {chosen.title}
              </Button>
            )}
          </div>
        </>
      )}
    </fieldset>
  );
}
