/** Asks before a portrait is deleted, and again where others borrow from it. */
import { useState } from "react";
import { Button, Modal } from "react-bootstrap";
import type { ApiError, Portrait } from "../api/client";
import { useLimits, type useLibrary } from "./library";

interface Props {
  /** The one that is asked about. */
  portrait: Portrait | null;
  remove: ReturnType<typeof useLibrary>["remove"];
  onAsk: (portrait: Portrait | null) => void;
  onGone: (portrait: Portrait) => void;
}

export function DeleteDialog({ portrait, remove, onAsk, onGone }: Props) {
  const limits = useLimits();
  // Which portraits borrow from it.
  const [borrowed, setBorrowed] = useState<string | null>(null);
  const close = () => {
    onAsk(null);
    setBorrowed(null);
  };
  const go = (going: Portrait) => {
    close();
    remove.mutate(
      { id: going.id, anyway: borrowed !== null },
      {
        onSuccess: () => onGone(going),
        onError: (error) => {
          if ((error as ApiError).code !== "borrowed_from") return;
          remove.reset();
          setBorrowed(error.message);
          onAsk(going);
        },
      },
    );
  };
  return (
    <Modal show={portrait !== null} onHide={close} centered>
      <Modal.Header closeButton>
        <Modal.Title>Delete {portrait?.name}?</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        {borrowed !== null && <p role="alert">{borrowed}</p>}
        The portrait and all its corrections go. You can take them back for {limits.data?.trash_days ?? 30} days.
      </Modal.Body>
      <Modal.Footer>
        <Button variant="secondary" onClick={close}>
          Keep it
        </Button>
        <Button onClick={() => portrait && go(portrait)}>{borrowed === null ? "Delete" : "Delete anyway"}</Button>
      </Modal.Footer>
    </Modal>
  );
}
