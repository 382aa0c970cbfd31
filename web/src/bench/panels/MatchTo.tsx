/** Light and colour of this portrait brought to those of another one of its session. */
import { useState } from "react";
import { Choice } from "../../ui/Choice";
import { usePortraits } from "../../wall/library";
import { useBenchParts } from "../state/bench";

export function MatchTo() {
  const { portrait, gesture, say } = useBenchParts("portrait", "gesture", "say");
  const [working, setWorking] = useState(false);
  const portraits = usePortraits(false).data ?? [];
  const session = portraits.find((p) => p.id === portrait?.id)?.session;
  const others = session ? portraits.filter((p) => p.session === session && p.id !== portrait?.id) : [];
  if (others.length === 0) return null;
  const match = (id: string) => {
    if (!id) return;
    setWorking(true);
    gesture({ op: "match_series", portrait: id }, (outcome) => {
      setWorking(false);
      if (outcome?.history.undo) say(outcome.history.undo);
    });
  };
  return (
    <Choice
      label={working ? "Matching…" : "Match to"}
      title="Exposure and white balance with which the person's skin has the colour that it has there"
      value=""
      choices={[["", "Another portrait…"], ...others.map((p): [string, string] => [p.id, p.name])]}
      onChange={match}
    />
  );
}
