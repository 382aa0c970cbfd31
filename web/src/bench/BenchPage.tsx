import { useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";
import { Alert, Button, Spinner } from "react-bootstrap";
import { useQueryClient } from "@tanstack/react-query";
import { useNavigate, useParams } from "react-router";
import { ApiError } from "../api/client";
import { ShowDialog } from "../clients/ShowDialog";
import { NotHere } from "../ui/NotHere";
import type { Painter } from "./canvas/Painter";
import { PictureView } from "./canvas/PictureView";
import { carryOut } from "./commands";
import { Keeping, Telltale } from "./Keeping";
import { hint, type Action } from "./keys";
import { DeliverDialog } from "./deliver/DeliverDialog";
import { FindBySaying, type Way } from "./panels/FindBySaying";
import { FirstRetouch } from "./panels/FirstRetouch";
import { FaceMap } from "./panels/FaceMap";
import { HandTray } from "./panels/HandTray";
import { LeftAside } from "./panels/LeftAside";
import { PassPanel } from "./panels/PassPanel";
import { NaturalCheck } from "./panels/NaturalCheck";
import { PinsCard } from "./panels/PinsCard";
import { Thread } from "./panels/Thread";
import { ToneStrip } from "./panels/ToneStrip";
import { TopBar } from "./panels/TopBar";
import { forgetDrawn } from "./hands/drawn";
import { OtherPicture } from "./canvas/OtherPicture";
import { OutlineFlag } from "./panels/OutlineFlag";
import { useBench, useBenchParts } from "./state/bench";
import { ORIGINAL, RESULT, useCompare } from "./state/compare";
import { goTo } from "./state/going";
import { useFraming } from "./state/framing";
import { useFaces } from "./state/faces";
import { useHand } from "./state/hand";
import { kindsNow } from "./state/kinds";
import { useKeys } from "./state/useKeys";
import { SweepFlag } from "./panels/SweepFlag";
import { useSweep } from "./state/sweep";
import { useLight } from "./state/light";
import { useView } from "./state/view";

/** The bench of the portrait in the address; another portrait starts afresh. */
export function BenchPage() {
  const { id = "" } = useParams();
  return <Bench key={id} id={id} />;
}

function Bench({ id }: { id: string }) {
  const { portrait, frame, left, notice, question, problem, load, say, ask } = useBenchParts(
    "portrait",
    "frame",
    "left",
    "notice",
    "question",
    "problem",
    "load",
    "say",
    "ask",
  );
  const light = useLight();
  const framing = useFraming((s) => s.open);
  const [failure, setFailure] = useState<ApiError | null>(null);
  const [stage, setStage] = useState("clear");
  const [delivering, setDelivering] = useState(false);
  const [finding, setFinding] = useState(false);
  const find = useCallback(() => setFinding(true), []);
  const [showing, setShowing] = useState(false);
  const [thread, setThread] = useState(false);
  const toggleThread = useCallback(() => setThread((on) => !on), []);
  const deliver = useCallback(() => setDelivering(true), []);
  const painterRef = useRef<Painter | null>(null);
  const navigate = useNavigate();

  useEffect(() => {
    load(id).catch((error: ApiError) => setFailure(error));
  }, [id, load]);

  useEffect(() => {
    useFaces.getState().start(id);
    useHand.getState().set({ mode: "heal", chosen: null, band: "all" });
    forgetDrawn();
    useCompare.getState().set({ mode: "off", against: ORIGINAL, instead: RESULT, inGlass: ORIGINAL, held: null });
    return () => {
      useFaces.getState().stop();
      useSweep.getState().end();
    };
  }, [id]);

  useEffect(() => {
    if (portrait?.id !== id) return;
    document.title = `${portrait.name} · Mellow Glass`;
  }, [id, portrait?.id, portrait?.name]);

  // Before anything is painted: places are told in the frame.
  const shownOf = useRef("");
  useLayoutEffect(() => {
    if (portrait?.id !== id || !frame) return;
    useView.getState().setFrame(frame, shownOf.current !== id);
    shownOf.current = id;
  }, [id, portrait?.id, frame]);

  const queries = useQueryClient();
  const run = useCallback(
    (action: Action, down: boolean) => carryOut(action, down, { thread: toggleThread, find, help: () => void navigate("/help"), queries }),
    [navigate, queries, toggleThread, find],
  );
  useKeys(run);
  useEffect(() => {
    document.documentElement.dataset["size"] = light.large ? "large" : "usual";
  }, [light.large]);
  // What the hand works in is the card that shows.
  useEffect(
    () =>
      useBench.subscribe(({ worked, passes, open }, before) => {
        if (!worked || worked === before.worked) return;
        const kind = kindsNow().find((k) => k.name === passes.find((p) => p.id === worked.pass)?.kind);
        if (!kind || kind.guide || kind.way === "frame" || kind.way === "develop") return;
        setStage(kind.stage);
        open(worked.pass);
      }),
    [],
  );
  const go = (way: Way) => {
    setFinding(false);
    goTo(way, { stage: setStage, run: (action) => run(action, true), deliver, showClient: () => setShowing(true), navigate: (to) => void navigate(to) });
  };

  if (failure)
    return failure.status === 404 ? (
      <NotHere text="There is no such portrait, or it belongs to somebody else." />
    ) : (
      <NotHere text={failure.message} />
    );
  if (portrait?.id !== id)
    return (
      <main className="mg-centre">
        <Spinner role="status" aria-label="Opening the portrait" />
      </main>
    );
  return (
    <div className="mg-bench" data-surround={light.surround} data-dim={light.dim || undefined} data-bare={light.bare || undefined}>
      {light.bare && (
        <Button variant="quiet" className="mg-bare-back" title={hint("bare", "Everything again")} onClick={() => light.set({ bare: false })}>
          Everything
        </Button>
      )}
      <Keeping />
      <Telltale />
      <TopBar stage={stage} onStage={setStage} onDeliver={deliver} thread={thread} onThread={toggleThread} onFind={find} />
      {finding && <FindBySaying onGo={go} onClose={() => setFinding(false)} />}
      <ShowDialog ids={[id]} name={portrait.name} show={showing} onClose={() => setShowing(false)} />
      {thread && <Thread onClose={toggleThread} />}
      <aside className="mg-left" aria-label="Overview">
        <FaceMap />
        <p className="mg-facts">
          {frame?.key ? `${frame.width} × ${frame.height} of ` : ""}
          {portrait.width} × {portrait.height}
          <br />
          {portrait.bits} bit · {portrait.profile}
        </p>
        <LeftAside left={left} />
        <PinsCard />
        <NaturalCheck />
        <FirstRetouch delivering={delivering} />
      </aside>
      <main className="mg-centre-column">
        <PictureView painterRef={painterRef} />
        {stage === "look" && !framing && <ToneStrip painterRef={painterRef} />}
        <SweepFlag />
        <OutlineFlag />
        <OtherPicture />
        {question && (
          <Alert variant="light" className="mg-toast mg-question" role="alertdialog" aria-label="Kept mark">
            {question.text}
            <Button
              size="sm"
              autoFocus
              onClick={() => {
                ask(null);
                question.go();
              }}
            >
              {question.yes}
            </Button>
            <Button size="sm" variant="quiet" onClick={() => ask(null)}>
              Leave it
            </Button>
          </Alert>
        )}
        {(problem ?? notice) && (
          <Alert
            variant={problem ? "warning" : "light"}
            className="mg-toast"
            dismissible
            onClose={() => say(null)}
          >
            {problem ?? notice}
          </Alert>
        )}
      </main>
      <PassPanel stage={stage} painterRef={painterRef} />
      <HandTray />
      <DeliverDialog show={delivering} onClose={() => setDelivering(false)} />
    </div>
  );
}
