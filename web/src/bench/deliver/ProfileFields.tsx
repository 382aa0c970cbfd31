/** In which colours the file is: as they are, or converted. */
import { Form } from "react-bootstrap";
import { ProfileFile } from "../../ui/ProfileFile";
import { INTENTS, useProfiles } from "../state/proof";
import type { Intent, Wish } from "./wish";

export function ProfileFields({ wish, own, change }: { wish: Wish; own: string; change: (part: Partial<Wish>) => void }) {
  const profiles = (useProfiles().data ?? []).filter((p) => p.space === "RGB" && p.id !== "press");
  return (
    <fieldset>
      <legend>Colour profile</legend>
      <Form.Select aria-label="Colour profile" value={wish.profile} onChange={(e) => change({ profile: e.target.value })}>
        <option value="keep">Keep ({own})</option>
        {profiles.map((p) => (
          <option key={p.id} value={p.id}>
            Convert to {p.title}
          </option>
        ))}
      </Form.Select>
      {wish.profile !== "keep" && wish.profile !== "srgb" && (
        <>
          <Form.Select aria-label="Intent" size="sm" value={wish.intent} onChange={(e) => change({ intent: e.target.value as Intent })}>
            {INTENTS.map(([value, text]) => (
              <option key={value} value={value}>
                {text}
              </option>
            ))}
          </Form.Select>
          <Form.Check
            id="deliver-black-point"
            label="Black point fitted"
            checked={wish.blackPoint}
            onChange={(e) => change({ blackPoint: e.target.checked })}
          />
        </>
      )}
      <ProfileFile onAdded={(p) => p.space === "RGB" && change({ profile: p.id })} />
    </fieldset>
  );
}
