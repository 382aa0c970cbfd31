import { useRef, useState, type DragEvent } from "react";
import { Alert, Button, Spinner } from "react-bootstrap";
import type { Portrait } from "../api/client";
import { Icon } from "../ui/Icon";
import { PageHead } from "../ui/PageHead";
import { Pages } from "../ui/Pages";
import { useSession, useSessionChange } from "../session/session";
import { allOf, EVERYTHING, PAGE, useArrange, useLibrary, useLimits, useSessions, useWall, type Wanted } from "./library";
import { ContactSheet } from "./ContactSheet";
import { DeleteDialog } from "./DeleteDialog";
import { DeletedPortraits } from "./DeletedPortraits";
import { filesOf } from "./dropped";
import { PickedBar } from "./PickedBar";
import { PortraitTile } from "./PortraitTile";
import { UploadList } from "./UploadList";
import { useUploads } from "./uploads";
import { saidOf, useWishes } from "../clients/links";
import { tileKeys } from "./tileKeys";
import { WallTools } from "./WallTools";

const ACCEPT =
  ".jpg,.jpeg,.png,.tif,.tiff,.webp,.heic,.heif,.avif,.jxl,.dng,.nef,.nrw,.cr2,.cr3,.crw,.arw,.sr2,.raf,.orf,.rw2,.pef,.srw,.x3f,.mrw,.3fr,.fff,.iiq,.mos,.mef,.erf,.kdc,.dcr,.raw";

export function WallPage() {
  const [wanted, setWanted] = useState<Wanted>(EVERYTHING);
  const [start, setStart] = useState(0);
  const portraits = useWall(wanted, start);
  const shown = portraits.data?.portraits ?? [];
  const count = portraits.data?.count ?? 0;
  const arrange = useArrange();
  const wishes = useWishes();
  const sessions = useSessions().data ?? [];
  const limits = useLimits();
  const library = useLibrary();
  const addUploads = useUploads((s) => s.add);
  const session = useSession();
  const { signOut } = useSessionChange();
  const picker = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [asking, setAsking] = useState<Portrait | null>(null);
  // In the order in which they were picked.
  const [picked, setPicked] = useState<string[]>([]);
  const [gone, setGone] = useState<Portrait | null>(null);

  const upload = (files: Iterable<File>) =>
    addUploads(files, limits.data?.most_bytes ?? Infinity, () => void library.refresh(), wanted.session === "none" ? "" : wanted.session);
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void filesOf(event.dataTransfer).then(upload);
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
      <PageHead title="Portraits">
        <span className="mg-user">
          <Icon name="person" /> {session.data?.user}
        </span>
        <Button variant="quiet" onClick={() => signOut.mutate()}>
          Sign out
        </Button>
      </PageHead>
      <main className="mg-wall-main">
        <div className="mg-wall-head">
          <div>
            <h1>Portraits</h1>
            <p>
              Drop photographs or folders anywhere on this page. JPEG, PNG, TIFF, WebP, HEIC, AVIF, JPEG XL and raw files
              {limits.data &&
                `, up to ${limits.data.most_pixels / 1e6} megapixels and ${Math.round(limits.data.most_bytes / 1048576)} MB each`}
              .
            </p>
          </div>
          {shown.length > 0 && picked.length === 0 && <ContactSheet ids={shown.map((p) => p.id)} />}
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
        <UploadList />
        <WallTools
          wanted={wanted}
          onChange={(part) => {
            setWanted((all) => ({ ...all, ...part }));
            setStart(0);
          }}
        />
        {portraits.isPending && <Spinner role="status" aria-label="Loading portraits" />}
        {portraits.isError && (
          <Alert variant="warning">
            {portraits.error.message}{" "}
            <Button variant="link" onClick={() => void portraits.refetch()}>
              Try again
            </Button>
          </Alert>
        )}
        {portraits.data && count === 0 && wanted !== EVERYTHING && <div className="mg-empty">Nothing of this kind here.</div>}
        {portraits.data && count === 0 && wanted === EVERYTHING && (
          <div className="mg-empty">
            <Icon name="image" />
            <p>No portraits yet. Drop some here, or choose them with “Add portraits”.</p>
          </div>
        )}
        <ul className="mg-tiles" aria-label="Portraits" onKeyDown={tileKeys}>
          {shown.map((p) => (
            <PortraitTile
              key={p.id}
              portrait={p}
              onRename={(name) => library.rename.mutate({ id: p.id, name })}
              onDelete={() => setAsking(p)}
              picked={picked.includes(p.id)}
              onPick={(on) => setPicked((all) => (on ? [...all, p.id] : all.filter((id) => id !== p.id)))}
              said={saidOf(wishes.get(p.id))}
              onStar={(star) => arrange.mutate({ ids: [p.id], star })}
            />
          ))}
        </ul>
        <Pages start={start} count={count} page={PAGE} onStart={setStart} />
        {picked.length > 0 && (
          <PickedBar ids={picked} name={(picked.length === 1 ? shown.find((p) => p.id === picked[0])?.name : sessions.find((s) => s.id === wanted.session)?.name) ?? "Portraits"} onPickAll={() => void allOf(wanted).then(setPicked)} onLetGo={() => setPicked([])} />
        )}
        <DeletedPortraits onTakeBack={(id) => library.restore.mutate(id)} />
      </main>
      <DeleteDialog
        portrait={asking}
        remove={library.remove}
        onAsk={setAsking}
        onGone={(portrait) => {
          setGone(portrait);
          setPicked((all) => all.filter((id) => id !== portrait.id));
        }}
      />
    </div>
  );
}
