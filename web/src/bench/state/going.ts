/** Going to what serves a need: the stage, the pass, the hand or panel, ready to start. */
import type { Action } from "../keys";
import { takeHand } from "../hands";
import type { Way } from "../panels/FindBySaying";
import { askNow } from "./check";
import { useBench } from "./bench";
import { useFaces } from "./faces";
import { useHand, type Mode } from "./hand";
import { kindsNow } from "./kinds";
import { whose } from "./whose";

interface Desk {
  stage: (name: string) => void;
  run: (action: Action) => void;
  deliver: () => void;
  showClient: () => void;
  navigate: (to: string) => void;
}

/** Panels are found by their names once they are there. */
const SOON_MS = 60;
const TRIES = 20;

export function goTo(way: Way, desk: Desk) {
  const [what = "", name = ""] = split(way.go);
  if (way.stage) desk.stage(way.stage);
  if (way.panel && what !== "action") return reach(way.panel.split("/")[1]!, way.title);
  switch (what) {
    case "pass":
      return openPass(name.split(".")[0]!, name.split(".")[1]);
    case "hand":
      return useHand.getState().mode === name ? undefined : takeHand(name as Mode);
    case "routine":
      return reach("Routines", way.title, `[data-routine="${name}"]`);
    case "page":
      return desk.navigate(name);
    case "action":
      return act(name, desk);
  }
}

function split(go: string): [string, string] {
  const n = go.indexOf(":");
  return [go.slice(0, n), go.slice(n + 1)];
}

function act(name: string, desk: Desk) {
  const bench = useBench.getState();
  if (name === "deliver") return desk.deliver();
  if (name === "client") return desk.showClient();
  if (name === "natural") return bench.portrait && askNow(bench.portrait.id, bench.revision);
  if (name === "propose_look") return bench.gesture({ op: "propose_look" });
  desk.run(name as Action);
}

/** The pass of a kind that is there, or a new one fitted to the face in hand; one of its settings is in reach then. */
function openPass(kind: string, setting: string | undefined) {
  const bench = useBench.getState();
  const known = kindsNow().find((k) => k.name === kind);
  const { analysis, face } = useFaces.getState();
  // In a group what is for one person is for the chosen one.
  const faces = (known?.by_side || known?.meshed) && (analysis?.faces.length ?? 0) > 1 ? analysis!.faces : null;
  const there = bench.passes.findLast((p) => p.kind === kind && (!faces || [face, -1].includes(whose(p.fit.face, faces))));
  const wanted = setting ?? known?.settings.find((s) => s.type === "number")?.name;
  const focus = () => wanted && reachSlider(wanted);
  if (there) {
    bench.open(there.id);
    return focus();
  }
  const person = faces?.[face]?.anchor ?? null;
  bench.gesture({ op: "add_pass", kind, ...(person && { face: person }) }, (outcome) => {
    if (outcome?.pass_id) useBench.getState().open(outcome.pass_id);
    focus();
  });
}

/** Bring a panel into sight, open it, and put the focus on what is meant in it, or comes first. */
function reach(label: string, title: string, meant?: string) {
  const missing = () => useBench.getState().say(`${title}: nothing of it is found on this portrait. By hand, try Fill or Clone.`);
  soon(() => {
    const panel = document.querySelector<HTMLElement>(`[aria-label="${label}"]`);
    // What is named may still be on its way from the server.
    if (!panel || (meant && !panel.querySelector(meant))) return false;
    const opener = panel.querySelector<HTMLElement>("[aria-expanded='false']");
    opener?.click();
    panel.scrollIntoView({ block: "nearest" });
    (panel.querySelector<HTMLElement>(meant ?? "button, input, select") ?? panel).focus();
    return true;
  }, missing, meant ? 5 * TRIES : TRIES);
}

function reachSlider(setting: string) {
  soon(() => {
    const slider = document.querySelector<HTMLInputElement>(`.mg-passes .mg-card-open .mg-slider[data-setting="${setting}"] input[type=range]`);
    const group = slider?.closest("details");
    if (group) group.open = true;
    slider?.scrollIntoView({ block: "nearest" });
    slider?.focus();
    return slider !== null;
  });
}

function soon(done: () => boolean, missed?: () => void, tries = TRIES) {
  if (tries > 0) window.setTimeout(() => done() || soon(done, missed, tries - 1), SOON_MS);
  else missed?.();
}
