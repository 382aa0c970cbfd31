/** The whole picture alone, for another screen: in step with the bench, which it outlines what is looked at. */
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { deskOf } from "./state/bench";
import { following, type Told } from "./state/windows";
import { useSettled } from "../ui/useSettled";

/** The picture follows when the hand rests. */
const REST_MS = 350;

export function WholePage() {
  const { id = "" } = useParams();
  const [told, setTold] = useState<Told | null>(null);
  const [name, setName] = useState("");
  const [problem, setProblem] = useState("");
  const [room, setRoom] = useState<[number, number]>([window.innerWidth, window.innerHeight]);
  useEffect(() => following(id, setTold), [id]);
  useEffect(() => {
    // Without a bench beside it, it shows what is saved.
    deskOf(id).then(
      (desk) => {
        setName(desk.portrait.name);
        const size = [desk.frame.width, desk.frame.height] as const;
        setTold((now) => now ?? { id, revision: desk.portrait.revision, seen: [0, 0, ...size], size, frame: desk.frame.key });
      },
      (error: Error) => setProblem(error.message),
    );
  }, [id]);
  useEffect(() => {
    const sized = () => setRoom([window.innerWidth, window.innerHeight]);
    window.addEventListener("resize", sized);
    return () => window.removeEventListener("resize", sized);
  }, []);
  useEffect(() => {
    if (name) document.title = `${name}, whole`;
  }, [name]);
  const revision = useSettled(told?.revision ?? 0, REST_MS);
  if (problem) return <main className="mg-centre">{problem}</main>;
  if (!told) return <main className="mg-whole" aria-busy="true" />;
  const [width, height] = told.size;
  const fit = Math.min(room[0] / width, room[1] / height);
  const scale = Math.min(1, fit * window.devicePixelRatio);
  const [w, h] = [Math.max(16, Math.round(width * scale)), Math.max(16, Math.round(height * scale))];
  const query = new URLSearchParams({ x: "0", y: "0", scale: `${scale}`, width: `${w}`, height: `${h}`, frame: told.frame, revision: `${revision}` });
  const [x0, y0, x1, y1] = told.seen;
  const whole = x0 <= 0 && y0 <= 0 && x1 >= width && y1 >= height;
  return (
    <main className="mg-whole">
      <div style={{ width: width * fit, height: height * fit }}>
        <img src={`/api/portraits/${id}/view?${query}`} alt={`${name}, as it stands`} />
        {!whole && <span style={{ left: `${(100 * x0) / width}%`, top: `${(100 * y0) / height}%`, width: `${(100 * (x1 - x0)) / width}%`, height: `${(100 * (y1 - y0)) / height}%` }} />}
      </div>
    </main>
  );
}
