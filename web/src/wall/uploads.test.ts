import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useUploads } from "./uploads";

/** The browser's request, answered by the test. */
class Request {
  static readonly sent: Request[] = [];
  upload: { onprogress?: (e: { loaded: number; total: number }) => void } = {};
  onload?: () => void;
  onerror?: () => void;
  status = 0;
  response: unknown = null;
  responseType = "";
  url = "";
  headers: Record<string, string> = {};
  body?: FormData;
  open(_: string, url: string) {
    this.url = url;
  }
  setRequestHeader(name: string, value: string) {
    this.headers[name] = value;
  }
  send(body: FormData) {
    this.body = body;
    Request.sent.push(this);
  }
  async answer(status: number, response: unknown) {
    Object.assign(this, { status, response });
    this.onload!();
    await settled();
  }
}

const settled = () => new Promise((resolve) => setTimeout(resolve));
const file = (name: string, bytes = 8) => new File([new Uint8Array(bytes)], name);
const states = () => useUploads.getState().list.map((u) => [u.name, u.state]);
const add = (...names: string[]) => useUploads.getState().add(names.map((n) => file(n)), 1000, done);
const done = vi.fn();

describe("uploads", () => {
  beforeEach(() => {
    Request.sent.length = 0;
    done.mockReset();
    vi.stubGlobal("XMLHttpRequest", Request);
    document.cookie = "csrftoken=token-of-this-page";
  });
  afterEach(async () => {
    // Nothing is left under way for the next one.
    for (let n = 0; n < Request.sent.length; n++) await Request.sent[n]!.answer(201, {});
    for (const u of useUploads.getState().list) useUploads.getState().dismiss(u.id);
    vi.unstubAllGlobals();
  });

  it("go two at a time, the next when one is done", async () => {
    add("a.jpg", "b.jpg", "c.jpg");
    expect(states()).toEqual([["a.jpg", "sending"], ["b.jpg", "sending"], ["c.jpg", "waiting"]]);
    expect(Request.sent).toHaveLength(2);
    expect(Request.sent[0]!.headers["X-CSRFToken"]).toBe("token-of-this-page");
    expect((Request.sent[0]!.body!.get("file") as File).name).toBe("a.jpg");
    await Request.sent[0]!.answer(201, { id: "1" });
    expect(done).toHaveBeenCalledOnce();
    expect(states()).toEqual([["b.jpg", "sending"], ["c.jpg", "sending"]]);
  });

  it("say how far they are, and that the server reads what has arrived", () => {
    add("a.jpg");
    const sent = Request.sent[0]!;
    sent.upload.onprogress!({ loaded: 3, total: 12 });
    expect(useUploads.getState().list[0]).toMatchObject({ progress: 0.25, state: "sending" });
    sent.upload.onprogress!({ loaded: 12, total: 12 });
    expect(states()).toEqual([["a.jpg", "reading"]]);
  });

  it("that are refused stay in the list with the server's words, and the others go on", async () => {
    add("notes.txt", "b.jpg", "c.jpg");
    await Request.sent[0]!.answer(422, { code: "not_a_picture", message: "This is no photograph that can be read." });
    expect(states()[0]).toEqual(["notes.txt", "failed"]);
    expect(useUploads.getState().list[0]!.message).toBe("This is no photograph that can be read.");
    expect(Request.sent).toHaveLength(3);
    useUploads.getState().dismiss(useUploads.getState().list[0]!.id);
    expect(states().map(([name]) => name)).toEqual(["b.jpg", "c.jpg"]);
    expect(done).not.toHaveBeenCalled();
  });

  it("that nobody answers are told, too", async () => {
    add("a.jpg");
    Request.sent[0]!.onerror!();
    await settled();
    expect(states()).toEqual([["a.jpg", "failed"]]);
    expect(useUploads.getState().list[0]!.message).toMatch(/reach/);
  });

  it("too large are refused before they are sent", () => {
    useUploads.getState().add([file("huge.tif", 3 * 1048576), file("b.jpg")], 2 * 1048576, done);
    expect(states()).toEqual([["huge.tif", "failed"], ["b.jpg", "sending"]]);
    expect(useUploads.getState().list[0]!.message).toBe("Larger than 2 MB.");
    expect(Request.sent).toHaveLength(1);
  });

  it("go into the session that is open", () => {
    useUploads.getState().add([file("a.jpg")], 1000, done, "7f3");
    expect(Request.sent[0]!.url).toBe("/api/portraits?session=7f3");
  });
});
