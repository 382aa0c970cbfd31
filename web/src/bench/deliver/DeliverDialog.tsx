/** Deliver: files of the finished picture, by settings or by presets, and the sheets that go with them. */
import { useEffect, useRef, useState } from "react";
import { Alert, Button, Form, Modal } from "react-bootstrap";
import { ShowDialog } from "../../clients/ShowDialog";
import { ApiError, client, unwrap, type Delivery } from "../../api/client";
import { usePreferences } from "../../session/preferences";
import { megabytes } from "../../ui/format";
import { Icon } from "../../ui/Icon";
import { Progress } from "../../ui/Progress";
import { Slider } from "../../ui/Slider";
import { useBenchParts } from "../state/bench";
import { CardFields } from "./CardFields";
import { Earlier } from "./Earlier";
import { NaturalCheck } from "../panels/NaturalCheck";
import { Presets } from "./Presets";
import { ProfileFields } from "./ProfileFields";
import { Said } from "./Said";
import { save, saveTogether } from "./saving";
import { SizeFields } from "./SizeFields";
import { Told } from "./Told";
import { DEEP, EXACT, FORMATS, LOSSY, sent, SIGNED, usual, wishOf, wrongSize, type Format, type Medium, type Packing, type Wish } from "./wish";

const OPEN = new Set(["waiting", "working"]);

export function DeliverDialog({ show, onClose }: { show: boolean; onClose: () => void }) {
  const { portrait, frame, waiting } = useBenchParts("portrait", "frame", "waiting");
  const { presets } = usePreferences();
  const [wish, setWish] = useState<Wish>(() => usual(8));
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [jobs, setJobs] = useState<Delivery[]>([]);
  const [showing, setShowing] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const mounted = useRef(true);
  useEffect(() => {
    mounted.current = true;
    return () => {
      mounted.current = false;
    };
  }, []);
  if (!portrait) return null;

  const change = (part: Partial<Wish>) => setWish((w) => ({ ...w, ...part }));
  const wrong = wrongSize(wish) !== "";
  const working = jobs.some((j) => OPEN.has(j.state));
  const [width, height] = [frame?.width ?? portrait.width, frame?.height ?? portrait.height];
  const put = (job: Delivery) => setJobs((all) => [...all.filter((j) => j.id !== job.id), job]);
  const follow = async (begun: Delivery) => {
    let job = begun;
    put(job);
    while (mounted.current && OPEN.has(job.state)) {
      job = await unwrap(client.GET("/api/deliveries/{job_id}", { params: { path: { job_id: job.id }, query: { wait: 0.3 } } }));
      put(job);
    }
    if (job.state === "failed") setProblem(job.message);
    return job;
  };
  const one = async ({ own, preset }: { own: Wish; preset: string }, n: number) =>
    follow(
      await unwrap(
        client.POST("/api/portraits/{portrait_id}/deliveries", {
          params: { path: { portrait_id: portrait.id } },
          body: sent(own, preset, n + 1),
        }),
      ),
    );
  const deliver = async () => {
    setProblem(null);
    setJobs([]);
    const wishes =
      chosen.size > 0
        ? presets.filter((p) => chosen.has(p.name)).map((p) => ({ own: wishOf(p, portrait.bits), preset: p.name }))
        : [{ own: wish, preset: "" }];
    try {
      // Begun together; they are made one after the other.
      const made = (await Promise.all(wishes.map(one))).filter((job) => job.state === "done");
      if (!mounted.current) return;
      if (made.length > 1) saveTogether(made, portrait.name);
      else made.forEach(save);
    } catch (error) {
      setProblem((error as ApiError).message);
    }
  };
  const cancel = () =>
    jobs.filter((j) => OPEN.has(j.state)).forEach((j) => void client.DELETE("/api/deliveries/{job_id}", { params: { path: { job_id: j.id } } }));
  const close = () => {
    if (working) cancel();
    setJobs([]);
    setProblem(null);
    onClose();
  };

  return (
    <>
      <ShowDialog ids={[portrait.id]} name={portrait.name} show={showing} onClose={() => setShowing(false)} />
      <Modal show={show} onHide={close} centered scrollable size="lg" aria-labelledby="deliver-title">
        <Modal.Header closeButton>
          <Modal.Title id="deliver-title">Deliver {portrait.name}</Modal.Title>
        </Modal.Header>
        <Modal.Body className="mg-deliver">
          {problem && <Alert variant="warning">{problem}</Alert>}
          <div className="mg-deliver-columns">
            <div>
              <Form.Group controlId="deliver-format">
                <Form.Label>Format</Form.Label>
                <Form.Select
                  value={wish.format}
                  onChange={(e) => change({ format: e.target.value as Format, bits: portrait.bits === 16 ? 16 : 8 })}
                >
                  {FORMATS.map((f) => (
                    <option key={f.value} value={f.value}>
                      {f.text}
                    </option>
                  ))}
                </Form.Select>
              </Form.Group>
              {LOSSY.has(wish.format) && (
                <Slider
                  label="Quality"
                  {...(EXACT.has(wish.format) && { title: "100 loses nothing" })}
                  min={1}
                  max={100}
                  initial={95}
                  value={wish.quality}
                  onInput={(quality) => change({ quality })}
                />
              )}
              {wish.format === "tiff" && (
                <Form.Group controlId="deliver-packing">
                  <Form.Label>Packed by</Form.Label>
                  <Form.Select value={wish.packing} onChange={(e) => change({ packing: e.target.value as Packing })}>
                    <option value="deflate">Deflate</option>
                    <option value="lzw">LZW</option>
                    <option value="zstd">Zstandard</option>
                  </Form.Select>
                </Form.Group>
              )}
              {DEEP.has(wish.format) && (
                <Form.Group controlId="deliver-bits">
                  <Form.Label>Depth</Form.Label>
                  <Form.Select value={wish.bits} onChange={(e) => change({ bits: e.target.value === "16" ? 16 : 8 })}>
                    <option value={8}>8 bit</option>
                    <option value={16}>16 bit</option>
                  </Form.Select>
                </Form.Group>
              )}
              <SizeFields wish={wish} width={width} height={height} change={change} />
              {LOSSY.has(wish.format) && (
                <div className="mg-long-side">
                  <Form.Label htmlFor="deliver-most">At most</Form.Label>
                  <Form.Control
                    size="sm"
                    id="deliver-most"
                    aria-label="At most so many kilobytes"
                    inputMode="numeric"
                    value={wish.mostKb ?? ""}
                    onChange={(e) => change({ mostKb: Number(e.target.value) >= 10 ? Math.round(Number(e.target.value)) : null })}
                  />
                  <span>kB, by less quality</span>
                </div>
              )}
              <Form.Group controlId="deliver-sharpen">
                <Form.Label>Sharpened</Form.Label>
                <Form.Select value={wish.sharpen} onChange={(e) => change({ sharpen: e.target.value as Medium })}>
                  <option value="none">No</option>
                  <option value="screen">For a screen</option>
                  <option value="print">For print</option>
                </Form.Select>
              </Form.Group>
              <Form.Group controlId="deliver-name">
                <Form.Label>File name</Form.Label>
                <Form.Control
                  maxLength={200}
                  placeholder="{portrait} retouched"
                  title="{portrait}, {date}, {preset} and {number} stand for themselves"
                  value={wish.name}
                  onChange={(e) => change({ name: e.target.value })}
                />
              </Form.Group>
            </div>
            <div>
              <ProfileFields wish={wish} own={portrait.profile} change={change} />
              <fieldset>
                <legend>In the file</legend>
                <Form.Check
                  id="deliver-metadata"
                  label="Keep what camera and file say (EXIF, IPTC)"
                  checked={wish.metadata}
                  onChange={(e) => change({ metadata: e.target.checked })}
                />
                <Form.Check
                  id="deliver-place"
                  label="With location and serial numbers"
                  disabled={!wish.metadata}
                  checked={wish.metadata && wish.place}
                  onChange={(e) => change({ place: e.target.checked })}
                />
                <Form.Check
                  id="deliver-tell"
                  label="Who made it and what was done (XMP)"
                  checked={wish.tell}
                  onChange={(e) => change({ tell: e.target.checked })}
                />
                <Form.Check
                  id="deliver-credentials"
                  label="Signed content credentials (C2PA)"
                  title="A list of what was done, signed by the studio's certificate; where it has none, by one for trying that says so"
                  disabled={!SIGNED.has(wish.format)}
                  checked={wish.credentials && SIGNED.has(wish.format)}
                  onChange={(e) => change({ credentials: e.target.checked })}
                />
              </fieldset>
              <Presets wish={wish} chosen={chosen} onChoose={setChosen} onUse={(preset) => setWish(wishOf(preset, portrait.bits))} />
            </div>
          </div>
          <NaturalCheck label="Natural check before delivery" />
          <CardFields />
          <Said portrait={portrait.id} kept={wish.metadata} />
          <Told />
          <Earlier portrait={portrait.id} shown={jobs.map((j) => j.id)} onAgain={(job) => void follow(job).then((j) => j.state === "done" && save(j))} />
          {jobs.map((job) => (
            <div key={job.id} aria-live="polite">
              <Progress now={job.progress * 100} label={`Delivery ${job.file_name}`} />
              <p className="mg-hint">
                {job.state === "done"
                  ? `${job.file_name}, ${megabytes(job.size_bytes)}, is in your downloads.`
                  : job.state === "cancelled"
                    ? job.message
                    : job.state === "failed"
                      ? "No file was made."
                      : job.message || "Working at full size…"}
                {job.state === "done" && (
                  <Button variant="link" size="sm" onClick={() => save(job)}>
                    Download again
                  </Button>
                )}
              </p>
            </div>
          ))}
        </Modal.Body>
        <Modal.Footer>
          <Button
            variant="quiet"
            className="me-auto"
            disabled={working || waiting > 0}
            onClick={() => {
              close();
              setShowing(true);
            }}
          >
            <Icon name="people" /> Show to a client…
          </Button>
          <Button variant="secondary" onClick={working ? cancel : close}>
            {working ? "Cancel" : "Close"}
          </Button>
          <Button disabled={working || (chosen.size === 0 && wrong) || waiting > 0} onClick={() => void deliver()}>
            {chosen.size > 0 ? `Deliver ${chosen.size} preset${chosen.size > 1 ? "s" : ""}` : "Deliver"}
          </Button>
        </Modal.Footer>
      </Modal>
    </>
  );
}
