import { ContactSheet } from "./ContactSheet";
import { useEffect, useRef, useState, type DragEvent } from "react";
import { Alert, Button, Modal, ProgressBar, Spinner } from "react-bootstrap";
import { Link } from "react-router";
import type { ApiError, Portrait } from "../api/client";
import { Brand } from "../ui/Brand";
import { Icon } from "../ui/Icon";
import { useSession, useSessionChange } from "../session/session";
import { useLibrary, useLimits, usePortraits } from "./library";
import { PortraitTile } from "./PortraitTile";
import { useUploads } from "./uploads";
import { RunDialog } from "../runs/RunDialog";

const ACCEPT =
  ".jpg,.jpeg,.png,.tif,.tiff,.webp,.heic,.heif,.avif,.jxl,.dng,.nef,.nrw,.cr2,.cr3,.crw,.arw,.sr2,.raf,.orf,.rw2,.pef,.srw,.x3f,.mrw,.3fr,.fff,.iiq,.mos,.mef,.erf,.kdc,.dcr,.raw";

export function WallPage() {
  const portraits = usePortraits(false);
  const [showDeleted, setShowDeleted] = useState(false);
  const deleted = usePortraits(true);
  const limits = useLimits();
  const library = useLibrary();
  const uploads = useUploads();
  const session = useSession();
  const { signOut } = useSessionChange();
  const picker = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [asking, setAsking] = useState<Portrait | null>(null);
  // Which portraits borrow from the one that is asked about.
  const [borrowed, setBorrowed] = useState<string | null>(null);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const [running, setRunning] = useState(false);
  // In the order of the wall; what was deleted meanwhile isn't picked.
  const ids = (portraits.data ?? []).map((p) => p.id).filter((id) => picked.has(id));
  const keep = () => {
    setAsking(null);
    setBorrowed(null);
  };
  const [gone, setGone] = useState<Portrait | null>(null);

  useEffect(() => {
    document.title = "Portraits · Mellow Glass";
  }, []);

  const upload = (files: Iterable<File>) =>
    uploads.add(files, limits.data?.most_bytes ?? Infinity, () => void library.refresh());
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    upload(event.dataTransfer.files);
  };
  const failure = library.rename.error ?? library.remove.error ?? library.restore.error;

  return (
    <div
      className={`mg-wall ${over ? "mg-wall-over" : ""}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={(e) => e.currentTarget === e.target && setOver(false)}
      onDrop={drop}
    >
      <header className="mg-top">
        <Brand />
        <span className="flex-grow-1" />
        <Link to="/runs" className="btn btn-quiet">
          <Icon name="collection" /> Runs
        </Link>
        <Link to="/routines" className="btn btn-quiet">
          <Icon name="list-check" /> Routines
        </Link>
        <Link to="/help" className="btn btn-quiet">
          <Icon name="keyboard" /> Help
        </Link>
        <span className="mg-user">
          <Icon name="person" /> {session.data?.user}
        </span>
        <Button variant="quiet" onClick={() => signOut.mutate()}>
          Sign out
        </Button>
      </header>
      <main className="mg-wall-main">
        <div className="mg-wall-head">
          <div>
            <h1>Portraits</h1>
            <p>
              Drop photographs anywhere on this page. JPEG, PNG, TIFF, WebP, HEIC, AVIF, JPEG XL and raw files
              {limits.data &&
                `, up to ${limits.data.most_pixels / 1e6} megapixels and ${Math.round(limits.data.most_bytes / 1048576)} MB each`}
              .
            </p>
          </div>
          {!!portraits.data?.length && picked.size === 0 && <ContactSheet ids={portraits.data.map((p) => p.id)} />}
          <Button onClick={() => picker.current?.click()}>
            <Icon name="plus-lg" /> Add portraits
          </Button>
          <input
            ref={picker}
            type="file"
            multiple
            hidden
            accept={ACCEPT}
            aria-label="Choose photographs"
            onChange={(e) => {
              upload(e.target.files ?? []);
              e.target.value = "";
            }}
          />
        </div>
        {failure && <Alert variant="warning">{failure.message}</Alert>}
        {gone && (
          <Alert variant="light" className="mg-notice" dismissible onClose={() => setGone(null)}>
            {gone.name} was deleted.
            <Button
              variant="link"
              onClick={() => {
                library.restore.mutate(gone.id);
                setGone(null);
              }}
            >
              Take it back
            </Button>
          </Alert>
        )}
        {uploads.list.length > 0 && (
          <ul className="mg-uploads" aria-label="Uploads">
            {uploads.list.map((u) => (
              <li key={u.id}>
                <span className="text-truncate">{u.name}</span>
                {u.state === "failed" ? (
                  <span className="mg-warn">{u.message}</span>
                ) : (
                  <ProgressBar
                    now={u.progress * 100}
                    aria-label={`Upload of ${u.name}`}
                    label={
                      u.state === "reading"
                        ? "reading"
                        : u.state === "waiting"
                          ? ""
                          : `${Math.round(u.progress * 100)} %`
                    }
                  />
                )}
                <Button
                  variant="quiet"
                  aria-label={`Dismiss ${u.name}`}
                  disabled={u.state !== "failed"}
                  onClick={() => uploads.dismiss(u.id)}
                >
                  <Icon name="x-lg" />
                </Button>
              </li>
            ))}
          </ul>
        )}
        {portraits.isPending && <Spinner role="status" aria-label="Loading portraits" />}
        {portraits.isError && (
          <Alert variant="warning">
            {portraits.error.message}{" "}
            <Button variant="link" onClick={() => void portraits.refetch()}>
              Try again
            </Button>
          </Alert>
        )}
        {portraits.data?.length === 0 && (
          <div className="mg-empty">
            <Icon name="image" />
            <p>No portraits yet. Drop some here, or choose them with “Add portraits”.</p>
          </div>
        )}
        <ul className="mg-tiles" aria-label="Portraits">
          {portraits.data?.map((p) => (
            <PortraitTile
              key={p.id}
              portrait={p}
              onRename={(name) => library.rename.mutate({ id: p.id, name })}
              onDelete={() => setAsking(p)}
              picked={picked.has(p.id)}
              onPick={(on) => setPicked((all) => new Set(on ? [...all, p.id] : [...all].filter((id) => id !== p.id)))}
            />
          ))}
        </ul>
        {picked.size > 0 && (
          <section className="mg-picked" aria-label="Picked portraits">
            <span>
              {ids.length} picked
            </span>
            <Button variant="quiet" onClick={() => setPicked(new Set((portraits.data ?? []).map((p) => p.id)))}>
              Pick all
            </Button>
            <Button variant="quiet" onClick={() => setPicked(new Set())}>
              Let go
            </Button>
            <span className="flex-grow-1" />
            <ContactSheet ids={ids} />
            <Button onClick={() => setRunning(true)}>
              <Icon name="collection" /> Run a routine…
            </Button>
          </section>
        )}
        <RunDialog ids={ids} show={running} onClose={() => setRunning(false)} />
        {!!deleted.data?.length && (
          <section className="mg-deleted">
            <Button variant="link" onClick={() => setShowDeleted(!showDeleted)}>
              {showDeleted ? "Hide" : "Show"} deleted portraits ({deleted.data.length})
            </Button>
            {showDeleted && (
              <ul aria-label="Deleted portraits">
                {deleted.data.map((p) => (
                  <li key={p.id}>
                    {p.name}
                    <Button
                      variant="link"
                      aria-label={`Take ${p.name} back`}
                      onClick={() => library.restore.mutate(p.id)}
                    >
                      Take it back
                    </Button>
                  </li>
                ))}
              </ul>
            )}
          </section>
        )}
      </main>
      <Modal show={asking !== null} onHide={keep} centered>
        <Modal.Header closeButton>
          <Modal.Title>Delete {asking?.name}?</Modal.Title>
        </Modal.Header>
        <Modal.Body>
          {borrowed !== null && <p role="alert">{borrowed}</p>}
          The portrait and all its corrections go. You can take them back for{" "}
          {limits.data?.trash_days ?? 30} days.
        </Modal.Body>
        <Modal.Footer>
          <Button variant="secondary" onClick={keep}>
            Keep it
          </Button>
          <Button
            onClick={() => {
              const portrait = asking!;
              setAsking(null);
              const anyway = borrowed !== null;
              setBorrowed(null);
              library.remove.mutate(
                { id: portrait.id, anyway },
                {
                  onSuccess: () => setGone(portrait),
                  onError: (error) => {
                    if ((error as ApiError).code !== "borrowed_from") return;
                    library.remove.reset();
                    setBorrowed(error.message);
                    setAsking(portrait);
                  },
                },
              );
            }}
          >
            {borrowed === null ? "Delete" : "Delete anyway"}
          </Button>
        </Modal.Footer>
      </Modal>
    </div>
  );
}
