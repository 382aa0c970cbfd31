/** Another picture of one's own, chosen among the portraits. */
import type { Setting } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { usePortraits } from "../../wall/library";
import { useBenchParts } from "../state/bench";

export function PictureSetting({ setting, value, onCommit }: { setting: Setting; value: string; onCommit: (value: string) => void }) {
  const { portrait } = useBenchParts("portrait");
  const others = (usePortraits(false).data ?? []).filter((p) => p.id !== portrait?.id);
  const choices: [string, string][] = [["", "None yet"], ...others.map((p): [string, string] => [p.content, p.name])];
  if (!choices.some(([content]) => content === value)) choices.push([value, "A picture that isn't here"]);
  return <Choice label={setting.title} title={setting.meaning} value={value} choices={choices} onChange={onCommit} />;
}
