import { useEffect, useRef, useState } from "react";
import { Alert, Button, Form, Modal, ProgressBar } from "react-bootstrap";
import { ApiError, client, unwrap, type Delivery, type DeliveryWish } from "../../api/client";
import { megabytes } from "../../ui/format";
import { Slider } from "../../ui/Slider";
import { useBenchParts } from "../state/bench";

const FORMATS: { value: NonNullable<DeliveryWish["format"]>; text: string }[] = [
  { value: "jpeg", text: "JPEG" },
  { value: "png", text: "PNG, lossless" },
  { value: "tiff", text: "TIFF, lossless" },
  { value: "webp", text: "WebP" },
  { value: "avif", text: "AVIF" },
  { value: "jxl", text: "JPEG XL" },
  { value: "ora", text: "OpenRaster, a layer for each pass" },
];
/** What loses a little by quality, and what holds 16 bits a channel. */
const LOSSY = new Set(["jpeg", "webp", "avif", "jxl"]);
const DEEP = new Set(["png", "tiff", "jxl", "ora"]);
const EXACT = new Set(["webp", "jxl"]);

type Packing = NonNullable<DeliveryWish["packing"]>;

function save(delivery: Delivery) {
  const link = document.createElement("a");
  link.href = `/api/deliveries/${delivery.id}/file`;
  link.download = delivery.file_name;
  link.click();
}

export function DeliverDialog({ show, onClose }: { show: boolean; onClose: () => void }) {
  const { portrait, frame, waiting } = useBenchParts("portrait", "frame", "waiting");
  const [format, setFormat] = useState<NonNullable<DeliveryWish["format"]>>("jpeg");
  const [quality, setQuality] = useState(95);
  const [bits, setBits] = useState<8 | 16>(8);
  const [reduce, setReduce] = useState(false);
  const [longSide, setLongSide] = useState("2048");
  const [srgb, setSrgb] = useState(false);
  const [metadata, setMetadata] = useState(true);
  const [place, setPlace] = useState(false);
  const [packing, setPacking] = useState<Packing>("deflate");
  const [job, setJob] = useState<Delivery | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const mounted = useRef(true);
  useEffect(() => {
    mounted.current = true;
    return () => {
      mounted.current = false;
    };
  }, []);
  if (!portrait) return null;

  const side = Number(longSide);
  const sideWrong = reduce && !(Number.isInteger(side) && side >= 16 && side <= 60000);
  const working = job?.state === "working" || job?.state === "waiting";

  const deliver = async () => {
    setProblem(null);
    try {
      let now = await unwrap(
        client.POST("/api/portraits/{portrait_id}/deliveries", {
          params: { path: { portrait_id: portrait.id } },
          body: {
            format,
            quality,
            subsampling: "4:4:4",
            bits: DEEP.has(format) ? bits : null,
            long_side: reduce ? side : null,
            profile: srgb ? "srgb" : "keep",
            keep_metadata: metadata,
            keep_place: metadata && place,
            packing,
          },
        }),
      );
      setJob(now);
      while (mounted.current && (now.state === "waiting" || now.state === "working")) {
        now = await unwrap(
          client.GET("/api/deliveries/{job_id}", {
            params: { path: { job_id: now.id }, query: { wait: 0.3 } },
          }),
        );
        setJob(now);
      }
      if (now.state === "done") save(now);
      if (now.state === "failed") setProblem(now.message);
    } catch (error) {
      setProblem((error as ApiError).message);
      setJob(null);
    }
  };
  const cancel = () =>
    job &&
    void client.DELETE("/api/deliveries/{job_id}", { params: { path: { job_id: job.id } } });
  const close = () => {
    if (working) cancel();
    setJob(null);
    setProblem(null);
    onClose();
  };

  return (
    <Modal show={show} onHide={close} centered aria-labelledby="deliver-title">
      <Modal.Header closeButton>
        <Modal.Title id="deliver-title">Deliver {portrait.name}</Modal.Title>
      </Modal.Header>
      <Modal.Body className="mg-deliver">
        {problem && <Alert variant="warning">{problem}</Alert>}
        <Form.Group controlId="deliver-format">
          <Form.Label>Format</Form.Label>
          <Form.Select
            value={format}
            onChange={(e) => {
              const chosen = FORMATS.find((f) => f.value === e.target.value)!.value;
              setFormat(chosen);
              setBits(portrait.bits === 16 ? 16 : 8);
            }}
          >
            {FORMATS.map((f) => (
              <option key={f.value} value={f.value}>
                {f.text}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
        {LOSSY.has(format) && (
          <Slider
            label="Quality"
            title={EXACT.has(format) ? "100 loses nothing" : undefined}
            min={1}
            max={100}
            initial={95}
            value={quality}
            onInput={setQuality}
          />
        )}
        {format === "tiff" && (
          <Form.Group controlId="deliver-packing">
            <Form.Label>Packed by</Form.Label>
            <Form.Select value={packing} onChange={(e) => setPacking(e.target.value as Packing)}>
              <option value="deflate">Deflate</option>
              <option value="lzw">LZW</option>
              <option value="zstd">Zstandard</option>
            </Form.Select>
          </Form.Group>
        )}
        {DEEP.has(format) && (
          <Form.Group controlId="deliver-bits">
            <Form.Label>Depth</Form.Label>
            <Form.Select
              value={bits}
              onChange={(e) => setBits(e.target.value === "16" ? 16 : 8)}
            >
              <option value={8}>8 bit</option>
              <option value={16}>16 bit</option>
            </Form.Select>
          </Form.Group>
        )}
        <fieldset>
          <legend>Size</legend>
          <Form.Check
            type="radio"
            name="size"
            id="size-full"
            label={`Full: ${frame?.width ?? portrait.width} × ${frame?.height ?? portrait.height}`}
            checked={!reduce}
            onChange={() => setReduce(false)}
          />
          <div className="mg-long-side">
            <Form.Check
              type="radio"
              name="size"
              id="size-reduced"
              label="Long side"
              checked={reduce}
              onChange={() => setReduce(true)}
            />
            <Form.Control
              size="sm"
              aria-label="Long side in pixels"
              inputMode="numeric"
              value={longSide}
              isInvalid={sideWrong}
              onFocus={() => setReduce(true)}
              onChange={(e) => setLongSide(e.target.value)}
            />
            <span>px</span>
          </div>
        </fieldset>
        <fieldset>
          <legend>Colour profile</legend>
          <Form.Check
            type="radio"
            name="profile"
            id="profile-keep"
            label={`Keep (${portrait.profile})`}
            checked={!srgb}
            onChange={() => setSrgb(false)}
          />
          <Form.Check
            type="radio"
            name="profile"
            id="profile-srgb"
            label="Convert to sRGB"
            checked={srgb}
            onChange={() => setSrgb(true)}
          />
        </fieldset>
        <Form.Check
          id="deliver-metadata"
          label="Keep the camera's data (EXIF)"
          checked={metadata}
          onChange={(e) => setMetadata(e.target.checked)}
        />
        <Form.Check
          id="deliver-place"
          label="With location and serial numbers"
          disabled={!metadata}
          checked={metadata && place}
          onChange={(e) => setPlace(e.target.checked)}
        />
        {job && (
          <div aria-live="polite">
            <ProgressBar now={job.progress * 100} aria-label="Delivery" />
            <p className="mg-hint">
              {job.state === "done"
                ? `${job.file_name}, ${megabytes(job.size_bytes)}, is in your downloads.`
                : job.state === "cancelled"
                  ? job.message
                  : job.state === "failed"
                    ? "No file was made."
                    : job.message || "Working at full size…"}
            </p>
          </div>
        )}
      </Modal.Body>
      <Modal.Footer>
        {job?.state === "done" && (
          <Button variant="link" onClick={() => save(job)}>
            Download again
          </Button>
        )}
        <Button variant="secondary" onClick={working ? cancel : close}>
          {working ? "Cancel" : "Close"}
        </Button>
        <Button disabled={working || sideWrong || waiting > 0} onClick={() => void deliver()}>
          Deliver
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
