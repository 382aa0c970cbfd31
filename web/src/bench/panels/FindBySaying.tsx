/** Find by saying: the need in plain words, and what serves it, ready to start on this face. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useId, useRef, useState } from "react";
import { client, unwrap, type Schemas } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { useSettled } from "../../ui/useSettled";

export type Way = Schemas["WayOut"];

const REST_MS = 120;

export function FindBySaying({ onGo, onClose }: { onGo: (way: Way) => void; onClose: () => void }) {
  const [need, setNeed] = useState("");
  const [at, setAt] = useState(0);
  const settled = useSettled(need.trim(), REST_MS);
  // Enter before an answer is there: the first that is found is gone to, at once.
  const [hurried, setHurried] = useState("");
  const asked = hurried || settled;
  const list = useId();
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => field.current?.focus(), []);
  const found = useQuery({
    queryKey: ["ways", asked],
    queryFn: () => unwrap(client.GET("/api/ways", { params: { query: { need: asked } } })),
    enabled: asked !== "",
    staleTime: Infinity,
    placeholderData: (before) => before,
  });
  const ways = need.trim() === "" ? [] : (found.data ?? []);
  const answered = asked === need.trim() && found.isSuccess && !found.isPlaceholderData;
  const here = Math.min(at, ways.length - 1);
  const first = ways[0];
  const gone = useRef(false);
  useEffect(() => {
    if (!hurried || !answered || !first || gone.current) return;
    gone.current = true;
    onGo(first);
  }, [hurried, answered, first, onGo]);
  const key = (event: React.KeyboardEvent) => {
    if (event.key === "Escape") onClose();
    else if (event.key === "ArrowDown") setAt(Math.min(here + 1, ways.length - 1));
    else if (event.key === "ArrowUp") setAt(Math.max(here - 1, 0));
    else if (event.key === "Enter" && !answered) setHurried(need.trim());
    else if (event.key === "Enter" && ways[here]) onGo(ways[here]);
    else return;
    event.preventDefault();
  };
  return (
    <>
      <div className="mg-find-behind" onPointerDown={onClose} />
      <section className="mg-find" role="dialog" aria-label="Find by saying" onKeyDown={key}>
        <div className="mg-find-field">
          <Icon name="search" />
          <input
            ref={field}
            role="combobox"
            aria-expanded={ways.length > 0}
            aria-controls={list}
            aria-activedescendant={ways[here] ? `${list}-${here}` : undefined}
            aria-label="What do you need?"
            placeholder="What do you need? yellow teeth, dark circles, hair in the face…"
            maxLength={200}
            value={need}
            onChange={(e) => {
              setNeed(e.target.value);
              setHurried("");
              setAt(0);
            }}
          />
        </div>
        <ul role="listbox" id={list} aria-label="What serves it">
          {ways.map((way, n) => (
            <li key={`${way.go} ${way.title}`} role="option" id={`${list}-${n}`} aria-selected={n === here} onPointerEnter={() => setAt(n)} onClick={() => onGo(way)}>
              <strong>{way.title}</strong>
              {way.stage && <em>{way.stage}</em>}
              <small>{way.meaning}</small>
            </li>
          ))}
        </ul>
        {asked !== "" && found.data?.length === 0 && <p className="mg-hint">Nothing is found for that. Try other words: what is to be seen, or what bothers you.</p>}
        {found.error && <p className="mg-hint mg-warn">{found.error.message}</p>}
      </section>
    </>
  );
}
