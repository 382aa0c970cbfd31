/** Looks: ready sets of passes, each shown on this portrait. */
import { useQuery } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { client, unwrap } from "../../api/client";
import { usePreferences, withoutNamed } from "../../session/preferences";
import { Icon } from "../../ui/Icon";
import { useBenchParts } from "../state/bench";

export function LooksCard() {
  const { portrait, revision, gesture } = useBenchParts("portrait", "revision", "gesture");
  const looks = useQuery({
    queryKey: ["looks"],
    queryFn: () => unwrap(client.GET("/api/looks")),
    staleTime: Infinity,
  });
  const { looks: own, save } = usePreferences();
  const id = portrait?.id;
  if (!id) return null;
  return (
    <section className="mg-card" aria-label="Looks">
      <div className="mg-card-head">
        <span className="mg-card-name">Looks</span>
      </div>
      <div className="mg-card-body mg-looks">
        {looks.data?.map((look) => (
          <button
            key={look.name}
            type="button"
            className="mg-look"
            title={`${look.meaning} A set of passes with one strength; each can be changed`}
            onClick={() => gesture({ op: "apply_look", name: look.name, strength: 100 })}
          >
            <img loading="lazy" alt="" src={`/api/portraits/${id}/looks/${look.name}/sample?revision=${revision}`} />
            {look.title}
          </button>
        ))}
      </div>
      {own.length > 0 && (
        <ul className="mg-card-body mg-own-looks" aria-label="Looks of your own">
          {own.map((look) => (
            <li key={look.name}>
              <Button variant="tray" onClick={() => gesture({ op: "apply_look", name: look.name, strength: 100, steps: look.steps })}>
                {look.name}
              </Button>
              <Button
                variant="quiet"
                aria-label={`Delete the look ${look.name}`}
                title="Delete"
                onClick={() => void save(({ looks }) => ({ looks: withoutNamed(looks, look.name) }))}
              >
                <Icon name="x" />
              </Button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
