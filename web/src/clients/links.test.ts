import { describe, expect, it } from "vitest";
import { saidOf, standing, type ClientLink } from "./links";

const LINK = { state: "open", portraits: 3, ready: 3, failed: 0, fine: 0, change: 0, open_pins: 0, signed_by: "", answered_at: null } as unknown as ClientLink;

describe("what is told of a link", () => {
  it("names what is left before what was said", () => {
    expect(standing({ ...LINK, ready: 1 })).toBe("making 2 of 3");
    expect(standing({ ...LINK, ready: 2, failed: 1 })).toBe("1 of 3 couldn't be made");
    expect(standing(LINK)).toBe("nothing said yet");
    expect(standing({ ...LINK, fine: 2, change: 1, open_pins: 1, answered_at: "2026-11-01" })).toBe("2 of 3 fine, 1 to be changed, 1 open pin, wishes sent");
    expect(standing({ ...LINK, fine: 3, signed_by: "Ada" })).toBe("signed off by Ada");
    expect(standing({ ...LINK, fine: 3, signed_by: "Ada", state: "withdrawn" })).toBe("withdrawn");
  });
  it("tells new wishes before old ones, and those before a verdict", () => {
    const said = { portrait: "p", open: 2, fresh: 1, verdict: "fine" as const, signed: true };
    expect(saidOf(said)).toBe("1 new wish");
    expect(saidOf({ ...said, fresh: 0 })).toBe("2 open wishes");
    expect(saidOf({ ...said, fresh: 0, open: 0 })).toBe("signed off");
    expect(saidOf({ ...said, fresh: 0, open: 0, signed: false })).toBe("client: fine");
    expect(saidOf(undefined)).toBe("");
  });
});
