/** Steps through a long list, a page at a time. */
import { Button } from "react-bootstrap";

interface Props {
  start: number;
  count: number;
  /** So many are shown at once. */
  page: number;
  onStart: (start: number) => void;
}

export function Pages({ start, count, page, onStart }: Props) {
  if (count <= page) return null;
  return (
    <p className="mg-pages">
      <Button variant="secondary" disabled={start === 0} onClick={() => onStart(Math.max(0, start - page))}>
        Before
      </Button>
      <span>
        {start + 1} to {Math.min(start + page, count)} of {count}
      </span>
      <Button variant="secondary" disabled={start + page >= count} onClick={() => onStart(start + page)}>
        Next
      </Button>
    </p>
  );
}
