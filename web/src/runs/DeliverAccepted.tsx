/** What was accepted, delivered by a preset as one ZIP. */
import { useEffect, useRef, useState } from "react";
import { Dropdown } from "react-bootstrap";
import { client, unwrap, type ApiError, type Delivery } from "../api/client";
import { saveBatch } from "../bench/deliver/saving";
import { sent, usual, wishOf, type Wish } from "../bench/deliver/wish";
import { usePreferences } from "../session/preferences";
import type { Run } from "./runs";

const LOOK_MS = 700;
const OPEN = new Set(["waiting", "working"]);
const BITS = 8;
const READY: [string, Wish][] = [
  ["JPEG, full size", usual(BITS)],
  ["Web: sRGB, 2048 px", { ...usual(BITS), size: "side", longSide: 2048, profile: "srgb", quality: 85, sharpen: "screen" }],
  ["TIFF, full size", { ...usual(BITS), format: "tiff" }],
];

export function DeliverAccepted({ run }: { run: Run }) {
  const { presets, load } = usePreferences();
  const [jobs, setJobs] = useState<Delivery[]>([]);
  const [problem, setProblem] = useState("");
  const mounted = useRef(true);
  useEffect(() => {
    mounted.current = true;
    void load();
    return () => {
      mounted.current = false;
    };
  }, [load]);
  // What the routine names, of the presets at hand.
  const named = run.deliveries.map((name) => ({ name, preset: presets.find((p) => p.name.toLowerCase() === name.toLowerCase()) }));
  const going = jobs.filter((j) => OPEN.has(j.state)).length;
  const deliver = async (wish: Wish, preset: string) => {
    setProblem("");
    try {
      const begun = await unwrap(
        client.POST("/api/runs/{run_id}/review/deliver", { params: { path: { run_id: run.id } }, body: { numbers: null, wish: sent(wish, preset) } }),
      );
      let all = begun.deliveries;
      setJobs(all);
      while (mounted.current && all.some((j) => OPEN.has(j.state))) {
        await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
        const next = await unwrap(client.GET("/api/deliveries-batch", { params: { query: { batch: begun.batch } } }));
        all = next;
        setJobs(next);
      }
      if (!mounted.current) return;
      const made = all.filter((j) => j.state === "done");
      const failed = all.filter((j) => j.state === "failed");
      if (made.length > 0) saveBatch(begun.batch, run.title);
      if (failed.length > 0) setProblem(`${failed[0]!.file_name}: ${failed[0]!.message}`);
    } catch (error) {
      setProblem((error as ApiError).message);
    }
  };
  return (
    <span className="mg-run-deliver">
      <Dropdown align="end">
        <Dropdown.Toggle disabled={run.accepted === 0 || going > 0}>
          {going > 0 ? `Delivering: ${jobs.length - going} of ${jobs.length}` : `Deliver ${run.accepted} accepted`}
        </Dropdown.Toggle>
        <Dropdown.Menu>
          {named.map(({ name, preset }) => (
            <Dropdown.Item as="button" key={`routine ${name}`} disabled={!preset} onClick={() => preset && void deliver(wishOf(preset, BITS), preset.name)}>
              {name} <small>{preset ? "named by the routine" : "named by the routine, not among your presets"}</small>
            </Dropdown.Item>
          ))}
          {named.length > 0 && <Dropdown.Divider />}
          {READY.map(([text, wish]) => (
            <Dropdown.Item as="button" key={text} onClick={() => void deliver(wish, text)}>
              {text}
            </Dropdown.Item>
          ))}
          {presets.length > 0 && <Dropdown.Divider />}
          {presets.filter((p) => !named.some((n) => n.preset === p)).map((preset) => (
            <Dropdown.Item as="button" key={preset.name} onClick={() => void deliver(wishOf(preset, BITS), preset.name)}>
              {preset.name}
            </Dropdown.Item>
          ))}
        </Dropdown.Menu>
      </Dropdown>
      {problem && <span className="mg-warn">{problem}</span>}
    </span>
  );
}
