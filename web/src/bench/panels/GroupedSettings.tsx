/** Settings in groups that open; those of both sides as one while they are linked. */
import { Fragment, useState } from "react";
import { Button } from "react-bootstrap";
import type { Pass, Setting } from "../../api/client";
import { capital } from "../../ui/format";
import { Icon } from "../../ui/Icon";
import { digits, usePassReadings } from "../state/readings";
import { SettingControl } from "./SettingControl";

interface Props {
  pass: Pass;
  settings: Setting[];
  draft: Record<string, number>;
  /** Values by setting, shown while they move, and saved. */
  onDraft: (values: Record<string, number>) => void;
  onCommit: (values: Record<string, number>, goesOn?: boolean) => void;
}

export function GroupedSettings({ pass, settings, draft, onDraft, onCommit }: Props) {
  const [linked, setLinked] = useState(true);
  const readings = usePassReadings(pass)?.readings ?? [];
  const groups = [...new Set(settings.map((s) => s.group))];
  const valueOf = (s: Setting) => draft[s.name] ?? (pass.settings[s.name] as number | undefined) ?? (s.default as number);
  return (
    <>
      {groups.map((group) => {
        const own = settings.filter((s) => s.group === group);
        const set = own.filter((s) => valueOf(s) !== s.default).length;
        const paired = own.some((s) => s.pair);
        return (
          <details key={group} className="mg-group">
            <summary>
              {group} {set > 0 && <small>{set}</small>}
            </summary>
            {paired && (
              <Button
                variant="quiet"
                active={linked}
                aria-pressed={linked}
                title="Both sides together, or each by itself"
                onClick={() => setLinked(!linked)}
              >
                <Icon name="link-45deg" /> Both sides
              </Button>
            )}
            {own
              .filter((s) => !(linked && s.pair && s.name.endsWith("_left")))
              .map((s) => {
                const both = linked && s.pair !== "";
                const values = (v: number) => (both ? { [s.name]: v, [s.pair]: v } : { [s.name]: v });
                const title = both ? capital(s.title.replace(/^Right /, "")) : s.title;
                const told = readings.find((r) => r.of.includes(s.name));
                return (
                  <Fragment key={s.name}>
                    <SettingControl
                      setting={{ ...s, title }}
                      value={valueOf(s)}
                      onDraft={(v) => onDraft(values(v as number))}
                      onCommit={(v, goesOn) => onCommit(values(v as number), goesOn)}
                    />
                    {told?.usual && (
                      <small className={told.beyond ? "mg-usual mg-warn" : "mg-usual"} title={told.meaning}>
                        {told.beyond && <Icon name="exclamation-triangle" />} {told.title} {told.after.toFixed(digits(told.unit))} {told.unit}, usual{" "}
                        {told.usual.map((v) => v.toFixed(0)).join(" to ")}
                      </small>
                    )}
                  </Fragment>
                );
              })}
          </details>
        );
      })}
    </>
  );
}
