/** Tells what of the stored edit can't be used here; it stays stored. */
export function LeftAside({ left }: { left: readonly string[] }) {
  if (left.length === 0) return null;
  return (
    <section className="mg-card mg-card-open" aria-label="Left aside">
      <div className="mg-card-head">
        <span className="mg-card-name mg-warn">Left aside</span>
      </div>
      <div className="mg-card-body">
        <p className="mg-hint">
          This portrait holds what this version can't use. It stays stored and changes nothing.
        </p>
        <ul className="mg-hint">
          {left.slice(0, 20).map((words, n) => (
            <li key={n}>{words}</li>
          ))}
        </ul>
        {left.length > 20 && <p className="mg-hint">… and {left.length - 20} more.</p>}
      </div>
    </section>
  );
}
