/** Spot the retouch: random places one to one, before and after in random order; the share that one tells right. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Modal, Spinner } from "react-bootstrap";
import { client, unwrap } from "../../api/client";
import { useBenchParts } from "../state/bench";
import { byChance } from "../state/spotting";

const COUNT = 8;

const seed = () => crypto.getRandomValues(new Uint32Array(1))[0]! >>> 1;

export function SpotTest({ show, onClose }: { show: boolean; onClose: () => void }) {
  return (
    <Modal show={show} onHide={onClose} centered size="lg" aria-labelledby="spot-title">
      <Modal.Header closeButton>
        <Modal.Title id="spot-title">Spot the retouch</Modal.Title>
      </Modal.Header>
      <Modal.Body>{show && <Round />}</Modal.Body>
    </Modal>
  );
}

function Round() {
  const { portrait, frame } = useBenchParts("portrait", "frame");
  const [round, setRound] = useState(seed);
  const [answers, setAnswers] = useState<boolean[]>([]);
  const id = portrait!.id;
  const spots = useQuery({
    queryKey: ["spots", id, round],
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/natural/spots", { params: { path: { portrait_id: id }, query: { seed: round, count: COUNT } } })),
    staleTime: Infinity,
  });
  if (spots.isPending) return <Spinner role="img" aria-label="Looking for places" />;
  if (spots.isError) return <p className="mg-warn">{spots.error.message}</p>;
  if (spots.data.length === 0) return <p>Nothing here differs from the original so that it could be seen.</p>;
  const spot = spots.data[answers.length];
  const right = answers.filter(Boolean).length;
  if (!spot)
    return (
      <div aria-live="polite">
        <p>
          You told {right} of {answers.length} right. {byChance(right, answers.length)}
        </p>
        <Button
          onClick={() => {
            setRound(seed());
            setAnswers([]);
          }}
        >
          Again, at other places
        </Button>
      </div>
    );
  // Which side is the result hangs on the round and the place alone.
  const left = ((round >>> answers.length) & 1) === 1;
  const address = (result: boolean) =>
    `/api/portraits/${id}/view?${new URLSearchParams({ x: `${spot.x}`, y: `${spot.y}`, scale: "1", width: `${spot.width}`, height: `${spot.height}`, frame: frame?.key ?? "", show: result ? "result" : "original" })}`;
  const say = (onLeft: boolean) => setAnswers([...answers, onLeft === left]);
  return (
    <>
      <p>
        Place {answers.length + 1} of {spots.data.length}: which one is retouched?
      </p>
      <div className="mg-spots">
        {[true, false].map((onLeft) => (
          <button key={`${answers.length}-${onLeft}`} type="button" onClick={() => say(onLeft)} aria-label={onLeft ? "The left one" : "The right one"}>
            <img src={address(onLeft === left)} alt="" width={spot.width} height={spot.height} />
          </button>
        ))}
      </div>
    </>
  );
}
