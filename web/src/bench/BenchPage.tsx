import { useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";
import { Alert, Button, Spinner } from "react-bootstrap";
import { useQueryClient } from "@tanstack/react-query";
import { useNavigate, useParams } from "react-router";
import { ApiError, type Kind, type Pass } from "../api/client";
import { ShowDialog } from "../clients/ShowDialog";
import { NotHere } from "../ui/NotHere";
import type { Painter } from "./canvas/Painter";
import { PictureView } from "./canvas/PictureView";
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
import { isInTray, takeHand } from "./hands";
import { forgetDrawn } from "./hands/drawn";
import { takeOutline } from "./hands/outlining";
import { OtherPicture } from "./canvas/OtherPicture";
import { OutlineFlag } from "./panels/OutlineFlag";
import { movePass, pickedOnes, useBench, useBenchParts } from "./state/bench";
import { MODES, ORIGINAL, RESULT, stillThere, useCompare } from "./state/compare";
import { backAndForth, bandShown, showBand } from "./state/seeing";
import { keepTake } from "./state/takes";
import { goTo } from "./state/going";
import { useFraming } from "./state/framing";
import { useFaces, type ZoneShow } from "./state/faces";
import { RING_MODES, useHand } from "./state/hand";
import { kindsNow } from "./state/kinds";
import { findTouch } from "./state/model";
import { FORMS, useOutline } from "./state/outline";
import { useKeys } from "./state/useKeys";
import { useSettled } from "../ui/useSettled";
import { SweepFlag } from "./panels/SweepFlag";
import { useSweep } from "./state/sweep";
import { useLight } from "./state/light";
import { useView } from "./state/view";
import { seen } from "./canvas/viewport";
import { Telling } from "./state/windows";

const SIZE_STEP = 1.12;
const SOFT_STEP = 5;
const BAND_SHOWS = ["off", "whole", "glass"] as const;
const ZONE_SHOWS: ZoneShow[] = ["off", "tint", "mask", "glass"];

function removePicked() {
  const ids = pickedOnes();
  if (ids.length === 1) useBench.getState().gesture({ op: "remove_touch", id: ids[0]! });
  if (ids.length > 1) useBench.getState().gesture({ op: "remove_touches", ids });
}

/** The passes that a pass is shown with: those of its stage. */
function beside(passes: readonly Pass[], id: string, kinds: readonly Kind[]): Pass[] {
  const stage = kinds.find((k) => k.name === passes.find((p) => p.id === id)?.kind)?.stage;
  return passes.filter((p) => kinds.some((k) => k.name === p.kind && k.stage === stage && !k.guide && k.way !== "frame" && k.way !== "develop"));
}

/** Keeps other windows of this portrait in step. */
function Telltale() {
  const { portrait, revision, frame } = useBenchParts("portrait", "revision", "frame");
  const { view, screen, picture } = useView();
  const telling = useRef<Telling | null>(null);
  useEffect(() => {
    telling.current = new Telling();
    return () => telling.current?.end();
  }, []);
  const part = seen(view, picture, screen);
  const { x0, y0, x1, y1 } = part;
  useEffect(() => {
    if (portrait && frame) telling.current?.tell({ id: portrait.id, revision, seen: [x0, y0, x1, y1], size: [frame.width, frame.height], frame: frame.key });
  }, [portrait, revision, frame, x0, y0, x1, y1]);
  return null;
}

/** Keeps what hangs on the edit up to date; shows nothing, so that little is drawn anew for it. */
function Keeping() {
  const { passes, revision } = useBenchParts("passes", "revision");

  // What was healed shows on the face map when the hand rests.
  const settledRevision = useSettled(revision, 900);
  // As the portrait was opened, its faces were asked for already.
  const known = useRef(revision);
  useEffect(() => {
    if (settledRevision === known.current) return;
    known.current = settledRevision;
    void useFaces.getState().refresh();
  }, [settledRevision]);

  useEffect(() => {
    const back = () => {
      const { waiting, catchUp } = useBench.getState();
      if (document.visibilityState === "visible" && waiting === 0) void catchUp();
    };
    document.addEventListener("visibilitychange", back);
    return () => document.removeEventListener("visibilitychange", back);
  }, []);

  // Nothing may go on showing a pass that is gone.
  useEffect(() => {
    const { against, instead, inGlass, set } = useCompare.getState();
    if (!stillThere(instead, passes)) set({ instead: RESULT });
    if (!stillThere(inGlass, passes)) set({ inGlass: ORIGINAL });
    if (!stillThere(against, passes)) set({ mode: "off", against: ORIGINAL });
  }, [passes]);
  return null;
}


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
  const keepNow = useCallback((portrait: string) => keepTake(portrait, queries), [queries]);

  const run = useCallback(
    (action: Action, down: boolean) => {
      const bench = useBench.getState();
      const hand = useHand.getState();
      const view = useView.getState();
      const compare = useCompare.getState();
      const soften = (by: number) =>
        hand.set({ softness: Math.min(Math.max(hand.softness + by, 0), 100) });
      switch (action) {
        case "original":
          return compare.set({ held: down ? ORIGINAL : null });
        case "without":
          if (!bench.openPass) return;
          return compare.set({ held: down ? { show: "without", of: bench.openPass } : null });
        case "compare": {
          const modes = MODES.map((m) => m.mode);
          return compare.set({ mode: modes[(modes.indexOf(compare.mode) + 1) % modes.length]! });
        }
        case "back":
          return backAndForth();
        case "maskShow": {
          if (!bench.openPass) return;
          const shows = ["result", "tint", "mask", "effect"] as const;
          const at = shows.findIndex((s) => s === compare.instead.show);
          const next = shows[(at + 1) % shows.length]!;
          return compare.set({ instead: next === "result" ? RESULT : { show: next, of: bench.openPass } });
        }
        case "passUp":
        case "passDown":
          return bench.openPass && movePass(bench.openPass, action === "passUp" ? 1 : -1, beside(bench.passes, bench.openPass, kindsNow()));
        case "keepTake":
          return bench.portrait && void keepNow(bench.portrait.id);
        case "thread":
          return toggleThread();
        case "find":
          return find();
        case "bare": {
          const { bare, set } = useLight.getState();
          return set({ bare: !bare });
        }
        case "pan":
          return hand.set({ panning: down });
        case "smaller":
          return hand.grow(1 / SIZE_STEP);
        case "larger":
          return hand.grow(SIZE_STEP);
        case "harder":
          return soften(-SOFT_STEP);
        case "softer":
          return soften(SOFT_STEP);
        case "fit":
          return view.fit();
        case "actual":
          return view.zoomTo(1 / window.devicePixelRatio);
        case "zoomIn":
          return view.zoomStep(1);
        case "zoomOut":
          return view.zoomStep(-1);
        case "glass":
          return hand.set({ glass: !hand.glass });
        case "rings":
          return hand.set({
            rings: RING_MODES[(RING_MODES.indexOf(hand.rings) + 1) % RING_MODES.length],
          });
        case "undo":
          return bench.undo();
        case "redo":
          return bench.redo();
        case "unpick":
          hand.set({ mode: isInTray(hand.mode) ? hand.mode : "heal", chosen: null });
          useOutline.getState().set({ nodes: [], closed: false, sparing: false });
          useSweep.getState().end();
          useFaces.getState().set({ selected: [] });
          return bench.pick(null);
        case "heal":
        case "clone":
        case "patch":
        case "fill":
        case "blend":
        case "dodge_burn":
        case "ease":
          return takeHand(action);
        case "band": {
          const now = bandShown(hand.band, compare.instead, compare.inGlass, hand.glass);
          const next = BAND_SHOWS[(BAND_SHOWS.indexOf(now) + 1) % BAND_SHOWS.length]!;
          return hand.band === "all" ? bench.say("Choose a band first, under By size.") : showBand(hand.band, next);
        }
        case "form": {
          const { form, set } = useOutline.getState();
          return set({ form: FORMS[(FORMS.indexOf(form) + 1) % FORMS.length]!, nodes: [], closed: false });
        }
        case "confirm": {
          const { closed, nodes, set } = useOutline.getState();
          if (!closed && nodes.length >= 3) set({ closed: true });
          if (closed || hand.mode !== "patch") takeOutline();
          return;
        }
        case "again": {
          const found = findTouch(bench.passes, bench.picked);
          if (found?.touch.values["seed"] === undefined) return;
          const seed = (Number(found.touch.values["seed"] ?? 0) + 1) % 10000;
          return bench.gesture({ op: "change_touch", id: found.touch.id, values: { seed } });
        }
        case "duplicate": {
          const ids = pickedOnes();
          return ids.length && bench.gesture({ op: "duplicate_touches", ids });
        }
        case "touchSwitch": {
          const ids = pickedOnes();
          const first = findTouch(bench.passes, ids[0] ?? null);
          return first && bench.gesture({ op: "change_touches", ids, enabled: !first.touch.enabled });
        }
        case "sweepOn":
          return useSweep.getState().step(1);
        case "sweepBack":
          return useSweep.getState().step(-1);
        case "marks": {
          const faces = useFaces.getState();
          return faces.set({ marksShown: !faces.marksShown, selected: [] });
        }
        case "zone": {
          const faces = useFaces.getState();
          const next = ZONE_SHOWS[(ZONE_SHOWS.indexOf(faces.zoneShow) + 1) % ZONE_SHOWS.length]!;
          if (next === "glass") hand.set({ glass: true });
          return faces.set({ zoneShow: next });
        }
        case "remove":
          return removePicked();
        case "newSource":
          return (
            bench.picked &&
            bench.gesture({ op: "change_touch", id: bench.picked, new_source: true })
          );
        case "otherSide":
          return (
            bench.picked &&
            bench.gesture({ op: "change_touch", id: bench.picked, mirrored: true })
          );
        case "passSwitch": {
          const pass = bench.passes.find((p) => p.id === bench.openPass);
          return (
            pass && bench.gesture({ op: "change_pass", id: pass.id, enabled: !pass.enabled })
          );
        }
        case "help":
          return void navigate("/help");
      }
    },
    [navigate, keepNow, toggleThread, find],
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
