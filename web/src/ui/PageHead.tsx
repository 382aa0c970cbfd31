/** The top of every page but the bench: the brand, the way to the other pages, what else belongs there. */
import { useEffect, type ReactNode } from "react";
import { Link } from "react-router";
import { Brand } from "./Brand";
import { Icon } from "./Icon";

/** The title of the wall, which needs no way to itself. */
const WALL = "Portraits";

export function PageHead({ title, children }: { title: string; children?: ReactNode }) {
  useEffect(() => {
    document.title = `${title} · Mellow Glass`;
  }, [title]);
  return (
    <header className="mg-top">
      <Brand />
      <span className="flex-grow-1" />
      {title !== WALL && (
        <Link to="/" className="btn btn-quiet">
          <Icon name="grid-3x3-gap" /> {WALL}
        </Link>
      )}
      <Link to="/runs" className="btn btn-quiet">
        <Icon name="collection" /> Runs
      </Link>
      <Link to="/routines" className="btn btn-quiet">
        <Icon name="list-check" /> Routines
      </Link>
      <Link to="/links" className="btn btn-quiet">
        <Icon name="people" /> Clients
      </Link>
      <Link to="/help" className="btn btn-quiet">
        <Icon name="keyboard" /> Help
      </Link>
      {children}
    </header>
  );
}
