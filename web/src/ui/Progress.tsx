/** How far something is, 0 to 100, with words for who can't see it. */
interface Props {
  now: number;
  label: string;
  /** Words in the bar. */
  words?: string;
  /** Moves although it isn't known how far it is. */
  animated?: boolean;
  /** Drawn small, in a list. */
  className?: string;
}

export function Progress({ now, label, words, animated, className = "" }: Props) {
  const part = Math.min(Math.max(now, 0), 100);
  return (
    <div className={`progress ${className}`} role="progressbar" aria-label={label} aria-valuemin={0} aria-valuemax={100} aria-valuenow={Math.round(part)}>
      <div className={`progress-bar ${animated ? "progress-bar-striped progress-bar-animated" : ""}`} style={{ width: `${part}%` }}>
        {words}
      </div>
    </div>
  );
}
