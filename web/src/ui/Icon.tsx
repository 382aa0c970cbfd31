import { DRAWN } from "./drawn";

/** A drawing of our own, or one of the icon font's for what everybody has. */
export function Icon({ name }: { name: string }) {
  const own = DRAWN[name];
  if (own)
    return (
      <svg className="mg-icon" viewBox="0 0 24 24" aria-hidden="true">
        {own}
      </svg>
    );
  return <i className={`bi bi-${name}`} aria-hidden="true" />;
}
