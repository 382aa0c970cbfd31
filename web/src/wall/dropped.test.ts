import { describe, expect, it } from "vitest";
import { filesOf } from "./dropped";

const file = (name: string) => ({ name, isFile: true, isDirectory: false, file: (ok: (f: File) => void) => ok(new File(["x"], name)) });
const folder = (name: string, ...inner: object[]) => ({
  name,
  isFile: false,
  isDirectory: true,
  createReader: () => {
    // Two at a time, as browsers give large folders in parts.
    const left = [...inner];
    return { readEntries: (ok: (e: object[]) => void) => ok(left.splice(0, 2)) };
  },
});
const dropped = (...entries: object[]) =>
  ({ items: entries.map((e) => ({ webkitGetAsEntry: () => e })), files: [new File(["x"], "plain.jpg")] }) as unknown as DataTransfer;

describe("files that are dropped", () => {
  it("come out of folders and folders in them, without hidden ones", async () => {
    const found = await filesOf(dropped(folder("day", file("a.jpg"), file("b.jpg"), folder("two", file("c.jpg")), file(".hidden")), file("d.jpg")));
    expect(found.map((f) => f.name)).toEqual(["a.jpg", "b.jpg", "c.jpg", "d.jpg"]);
  });

  it("are taken as they are where there is no folder", async () => {
    expect((await filesOf(dropped(file("x.jpg")))).map((f) => f.name)).toEqual(["plain.jpg"]);
  });
});
