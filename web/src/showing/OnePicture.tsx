/** One picture: zoomed, before and after, with pins, and what is said of it. */
import { useState } from "react";
import { Compared, type Way } from "./Compared";
import { PinForm, PinList } from "./Pins";
import { ask, type ClientPin, type Showing, type Shown } from "./visit";

interface Props {
  token: string;
  shown: Shown;
  compare: boolean;
  /** Signed off: nothing can be changed. */
  closed: boolean;
  onChange: (showing: Showing) => void;
  onAgain: () => Promise<void>;
  onNext: (() => void) | null;
}

const ZOOMS = [1, 1.5, 2, 3, 4];

export function OnePicture({ token, shown, compare, closed, onChange, onAgain, onNext }: Props) {
  const [zoom, setZoom] = useState(0);
  const [way, setWay] = useState<Way>("after");
  const [pinning, setPinning] = useState(false);
  const [place, setPlace] = useState<[number, number] | null>(null);
  const [problem, setProblem] = useState("");
  const [chosen, setChosen] = useState("");
  const tried = (work: Promise<unknown>) =>
    work.then(
      () => setProblem(""),
      (error: Error) => setProblem(error.message),
    );
  // Shown at once, and taken back where it can't be saved.
  const [said, setSaid] = useState<Shown["verdict"] | null>(null);
  const verdict = said ?? shown.verdict;
  const decide = (wanted: "fine" | "change") => {
    setSaid(wanted);
    const saved = ask<Showing>(token, `/${shown.number}/verdict`, "PUT", { verdict: wanted }).then(onChange);
    void tried(saved).finally(() => setSaid(null));
  };
  const set = (kind: ClientPin["kind"], words: string) =>
    ask(token, `/${shown.number}/pins`, "POST", { kind, words, x: place![0], y: place![1] }).then(() => {
      setPlace(null);
      setPinning(false);
      return onAgain();
    });
  const take = (pin: ClientPin) => void tried(ask(token, `/pins/${pin.id}`, "DELETE").then(onAgain));
  const stop = () => {
    setPinning(false);
    setPlace(null);
  };

  if (shown.state !== "ready")
    return (
      <section className="show-one" aria-label={shown.name}>
        <h2>{shown.name}</h2>
        <p role="status">{shown.state === "failed" ? "This picture can't be shown now. Ask for it to be sent again." : "This picture is being made ready. It comes by itself in a moment."}</p>
      </section>
    );
  return (
    <section className="show-one" aria-label={shown.name}>
      <h2>{shown.name}</h2>
      <Compared
        token={token}
        shown={shown}
        way={way}
        zoom={ZOOMS[zoom]!}
        pinning={pinning}
        place={place}
        chosen={chosen}
        onPlace={setPlace}
        onPin={(pin) => setChosen(pin.id)}
      />
      <div className="show-tools">
        <span role="group" aria-label="Size">
          <button type="button" aria-label="Smaller" disabled={zoom === 0} onClick={() => setZoom(zoom - 1)}>
            −
          </button>
          <output aria-live="polite">{Math.round(ZOOMS[zoom]! * 100)} %</output>
          <button type="button" aria-label="Larger" disabled={zoom === ZOOMS.length - 1} onClick={() => setZoom(zoom + 1)}>
            +
          </button>
        </span>
        {compare && (
          <>
            <Hold onHold={(held) => setWay(held ? "before" : "after")} held={way === "before"} />
            <button type="button" aria-pressed={way === "wipe"} onClick={() => setWay(way === "wipe" ? "after" : "wipe")}>
              Wipe
            </button>
          </>
        )}
        {!closed && (
          <button type="button" aria-pressed={pinning} onClick={() => (pinning ? stop() : setPinning(true))}>
            {pinning ? "No pin" : "Set a pin"}
          </button>
        )}
      </div>
      {problem && (
        <p className="show-problem" role="alert">
          {problem}
        </p>
      )}
      {pinning && !place && <p role="status">Tap the place in the picture. By keys: arrows move the cross, Enter sets the pin.</p>}
      {place && <PinForm onSave={set} onCancel={stop} />}
      <PinList pins={shown.pins} chosen={chosen} closed={closed} onChoose={setChosen} onTake={take} />
      <fieldset className="show-verdict" disabled={closed}>
        <legend>This picture is</legend>
        <label>
          <input type="radio" name={`verdict-${shown.number}`} checked={verdict === "fine"} onChange={() => decide("fine")} /> fine
        </label>
        <label>
          <input type="radio" name={`verdict-${shown.number}`} checked={verdict === "change"} onChange={() => decide("change")} /> to be changed
        </label>
        {onNext && (
          <button type="button" className="show-next" onClick={onNext}>
            Next picture
          </button>
        )}
      </fieldset>
    </section>
  );
}

/** Shows the original while it is held; by keys, Space or Enter held, too. */
function Hold({ held, onHold }: { held: boolean; onHold: (held: boolean) => void }) {
  const key = (down: boolean) => (event: React.KeyboardEvent) => {
    if (event.key !== " " && event.key !== "Enter") return;
    event.preventDefault();
    onHold(down);
  };
  return (
    <button
      type="button"
      aria-pressed={held}
      className="show-hold"
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        onHold(true);
      }}
      onPointerUp={() => onHold(false)}
      onPointerCancel={() => onHold(false)}
      onContextMenu={(e) => e.preventDefault()}
      onKeyDown={key(true)}
      onKeyUp={key(false)}
      onBlur={() => held && onHold(false)}
    >
      Hold: before
    </button>
  );
}
