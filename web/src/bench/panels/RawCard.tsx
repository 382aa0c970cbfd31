/** How a raw file is developed. The view stays as it is until the new pixels are there. */
import { capital } from "../../ui/format";
import { useState } from "react";
import { Progress } from "../../ui/Progress";
import { Button } from "react-bootstrap";
import { client } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { Slider } from "../../ui/Slider";
import { useBench, useBenchParts } from "../state/bench";
import { useKinds } from "../state/kinds";

/** Words for the values of choices; what isn't here is shown as it is. */
const WORDS: Record<string, string> = {
  blend: "Blended",
  rebuild: "Rebuilt from around",
  keep: "As the channels are",
  clip: "Clipped",
  srgb: "sRGB",
  adobe: "Compatible with Adobe RGB (1998)",
  display_p3: "Display P3",
  prophoto: "ProPhoto-compatible",
};

export function RawCard() {
  const { portrait, passes } = useBenchParts("portrait", "passes");
  const kind = useKinds().data?.find((k) => k.way === "develop");
  const [working, setWorking] = useState(false);
  const [draft, setDraft] = useState<number | null>(null);
  if (!kind || portrait?.format !== "raw") return null;
  const own = passes.find((p) => p.kind === kind.name)?.settings ?? {};
  const commit = (name: string, value: number | string, goesOn = false) => {
    setWorking(true);
    useBench.getState().gesture(
      { op: "set_development", settings: { [name]: value } },
      () => {
        setWorking(false);
        setDraft(null);
      },
      goesOn,
    );
  };
  const stop = () =>
    void client.DELETE("/api/portraits/{portrait_id}/work", { params: { path: { portrait_id: portrait.id } } });
  return (
    <section className="mg-card mg-card-open" aria-label={kind.title}>
      <div className="mg-card-head">
        <span className="mg-card-name" title={kind.meaning}>
          {kind.title}
        </span>
        {working && (
          <Button variant="quiet" title="Leave it as it was" onClick={stop}>
            Stop
          </Button>
        )}
      </div>
      <div className="mg-card-body">
        {kind.settings.map((s) =>
          s.type === "choice" ? (
            <Choice
              key={s.name}
              label={s.title}
              title={s.meaning}
              value={String(own[s.name] ?? s.default)}
              choices={s.choices.map((c) => [c, WORDS[c] ?? capital(c)] as const)}
              onChange={(v) => commit(s.name, v)}
            />
          ) : (
            <Slider
              key={s.name}
              label={s.title}
              title={s.meaning}
              min={s.low}
              max={s.high}
              step={s.step}
              initial={Number(s.default)}
              value={draft ?? Number(own[s.name] ?? s.default)}
              onInput={setDraft}
              onCommit={(v, goesOn) => commit(s.name, v, goesOn)}
            />
          ),
        )}
        {working && <Progress animated now={100} label="Developing" words="Developing…" />}
      </div>
    </section>
  );
}
