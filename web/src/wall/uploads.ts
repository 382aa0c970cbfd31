/** Uploads with progress, several at once, one list. */
import { create } from "zustand";
import { csrfToken, problemOf, UNREACHABLE, type Portrait } from "../api/client";

export interface Upload {
  id: number;
  name: string;
  progress: number;
  state: "waiting" | "sending" | "reading" | "done" | "failed";
  message?: string;
}

interface Uploads {
  list: Upload[];
  add: (files: Iterable<File>, mostBytes: number, onDone: () => void, session?: string) => void;
  dismiss: (id: number) => void;
}

const AT_ONCE = 2;
let next = 1;
const waiting: (() => Promise<void>)[] = [];
let running = 0;

function pump() {
  while (running < AT_ONCE && waiting.length) {
    running += 1;
    void waiting.shift()!().finally(() => {
      running -= 1;
      pump();
    });
  }
}

/** Send one file; XMLHttpRequest because fetch tells no upload progress. */
function send(file: File, session: string, onProgress: (part: number) => void): Promise<Portrait> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", session ? `/api/portraits?session=${session}` : "/api/portraits");
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.responseType = "json";
    request.upload.onprogress = (e) => onProgress(e.loaded / Math.max(e.total, 1));
    request.onload = () =>
      request.status === 201
        ? resolve(request.response as Portrait)
        : reject(problemOf(request.status, request.response));
    request.onerror = () => reject(new Error(UNREACHABLE));
    const form = new FormData();
    form.append("file", file);
    request.send(form);
  });
}

export const useUploads = create<Uploads>((set) => {
  const change = (id: number, part: Partial<Upload>) =>
    set((s) => ({ list: s.list.map((u) => (u.id === id ? { ...u, ...part } : u)) }));
  return {
    list: [],
    dismiss: (id) => set((s) => ({ list: s.list.filter((u) => u.id !== id) })),
    add: (files, mostBytes, onDone, session = "") => {
      for (const file of files) {
        const id = next++;
        const upload: Upload = { id, name: file.name, progress: 0, state: "waiting" };
        set((s) => ({ list: [...s.list, upload] }));
        if (file.size > mostBytes) {
          const limit = Math.round(mostBytes / 1048576);
          change(id, { state: "failed", message: `Larger than ${limit} MB.` });
          continue;
        }
        waiting.push(async () => {
          change(id, { state: "sending" });
          try {
            await send(file, session, (progress) =>
              change(id, { progress, state: progress < 1 ? "sending" : "reading" }),
            );
            set((s) => ({ list: s.list.filter((u) => u.id !== id) }));
            onDone();
          } catch (error) {
            change(id, { state: "failed", message: (error as Error).message });
          }
        });
      }
      pump();
    },
  };
});
