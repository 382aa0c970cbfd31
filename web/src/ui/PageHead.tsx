/** The top of a page beside the wall: the brand, and the way to the other pages. */
import { useEffect } from "react";
import { Link } from "react-router";
import { Brand } from "./Brand";
import { Icon } from "./Icon";

export function PageHead({ title }: { title: string }) {
  useEffect(() => {
    document.title = `${title} · Mellow Glass`;
  }, [title]);
  return (
    <header className="mg-top">
      <Brand />
      <span className="flex-grow-1" />
      <Link to="/" className="btn btn-quiet">
        <Icon name="grid-3x3-gap" /> Portraits
      </Link>
      <Link to="/runs" className="btn btn-quiet">
        <Icon name="collection" /> Runs
      </Link>
      <Link to="/routines" className="btn btn-quiet">
        <Icon name="list-check" /> Routines
      </Link>
      <Link to="/help" className="btn btn-quiet">
        <Icon name="keyboard" /> Help
      </Link>
    </header>
  );
}
