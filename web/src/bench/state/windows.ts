/** Windows of one portrait in step: the bench tells what it shows, a second window follows. */
export interface Told {
  id: string;
  revision: number;
  /** The part that the bench shows, in pixels of the framed picture: x0, y0, x1, y1. */
  seen: readonly [number, number, number, number];
  /** Of the framed picture. */
  size: readonly [number, number];
  frame: string;
}

const NAME = "mellow-glass-windows";

type Message = { kind: "told"; told: Told } | { kind: "asked"; id: string };

/** Tell other windows what this one shows, now and whenever one asks; returns the end of that. */
export class Telling {
  private readonly channel = new BroadcastChannel(NAME);
  private last: Told | null = null;

  constructor() {
    this.channel.onmessage = (event: MessageEvent<Message>) => {
      if (event.data.kind === "asked" && event.data.id === this.last?.id) this.send();
    };
  }

  tell(told: Told) {
    this.last = told;
    this.send();
  }

  end() {
    this.channel.close();
  }

  private send() {
    if (this.last) this.channel.postMessage({ kind: "told", told: this.last } satisfies Message);
  }
}

/** Follow the bench of a portrait; returns the end of that. */
export function following(id: string, follow: (told: Told) => void): () => void {
  const channel = new BroadcastChannel(NAME);
  channel.onmessage = (event: MessageEvent<Message>) => {
    if (event.data.kind === "told" && event.data.told.id === id) follow(event.data.told);
  };
  channel.postMessage({ kind: "asked", id } satisfies Message);
  return () => channel.close();
}
