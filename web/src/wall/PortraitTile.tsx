import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Link } from "react-router";
import type { Portrait } from "../api/client";
import { Icon } from "../ui/Icon";
import { NameField } from "../ui/NameField";
import { ago } from "../ui/format";
import { FLAGS } from "./library";

interface Props {
  portrait: Portrait;
  onRename: (name: string) => void;
  onDelete: () => void;
  /** What a client said of it. */
  said: string;
  picked: boolean;
  onPick: (picked: boolean) => void;
  onStar: (star: boolean) => void;
}

export function PortraitTile({ portrait, onRename, onDelete, said, picked, onPick, onStar }: Props) {
  const [naming, setNaming] = useState(false);
  const [before, setBefore] = useState(false);
  const base = `/api/portraits/${portrait.id}/thumbnail`;
  const compare = (on: boolean) => portrait.touched && setBefore(on);
  const rename = (name: string | null) => {
    if (name && name !== portrait.name) onRename(name);
    setNaming(false);
  };
  return (
    <li className="mg-tile">
      <Form.Check className="mg-tile-pick" aria-label={`Pick ${portrait.name}`} title="Pick for a run, a sheet" checked={picked} onChange={(e) => onPick(e.target.checked)} />
      <Link
        to={`/portraits/${portrait.id}`}
        className="mg-tile-picture"
        data-tile=""
        aria-label={`Open ${portrait.name}`}
        onPointerEnter={() => compare(true)}
        onPointerLeave={() => compare(false)}
        onFocus={() => compare(true)}
        onBlur={() => compare(false)}
      >
        <img src={`${base}?side=after&revision=${portrait.revision}`} alt={portrait.name} loading="lazy" />
        {portrait.touched && (
          <>
            <img
              src={`${base}?side=before`}
              alt=""
              className="mg-tile-before"
              style={{ opacity: before ? 1 : 0 }}
            />
            <span className="mg-tile-flag">{before ? "original" : "retouched"}</span>
          </>
        )}
      </Link>
      {!naming ? (
        <div className="mg-tile-line">
          <strong className="text-truncate" title={portrait.name}>
            {portrait.name}
          </strong>
          <span className="mg-tile-actions">
            <Button
              variant="quiet"
              aria-label={`Star ${portrait.name}`}
              aria-pressed={portrait.star}
              title={portrait.star ? "Take the star away" : "Star"}
              onClick={() => onStar(!portrait.star)}
            >
              <Icon name={portrait.star ? "star-fill" : "star"} />
            </Button>
            <Button
              variant="quiet"
              aria-label={`Rename ${portrait.name}`}
              title="Rename"
              onClick={() => setNaming(true)}
            >
              <Icon name="pencil" />
            </Button>
            <Button
              variant="quiet"
              aria-label={`Delete ${portrait.name}`}
              title="Delete"
              onClick={onDelete}
            >
              <Icon name="trash3" />
            </Button>
          </span>
        </div>
      ) : (
        <NameField label="New name" initial={portrait.name} onDone={rename} />
      )}
      <div className="mg-tile-small">
        {portrait.width} × {portrait.height} · {portrait.bits} bit · {ago(portrait.worked_at)}
        {portrait.flag && ` · ${FLAGS.find(([flag]) => flag === portrait.flag)?.[1]}`}
        {said && <span className="mg-tile-said">{said}</span>}
      </div>
    </li>
  );
}
