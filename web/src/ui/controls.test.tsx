import { act, useState } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Choice } from "./Choice";
import { NameField } from "./NameField";
import { NumberBox } from "./NumberBox";
import { Progress } from "./Progress";
import { Slider } from "./Slider";

let root: Root;
let page: HTMLElement;
const find = <T extends HTMLElement = HTMLInputElement>(selector: string) => page.querySelector<T>(selector)!;
const show = (what: React.ReactNode) => act(() => root.render(what));

/** What a person does to a field: React listens to the value's own setter. */
function write(field: HTMLInputElement | HTMLSelectElement, value: string) {
  const kind = field instanceof HTMLSelectElement ? HTMLSelectElement : HTMLInputElement;
  act(() => {
    Object.getOwnPropertyDescriptor(kind.prototype, "value")!.set!.call(field, value);
    field.dispatchEvent(new Event(field instanceof HTMLSelectElement ? "change" : "input", { bubbles: true }));
  });
}
const press = (field: HTMLElement, key: string, more: KeyboardEventInit = {}) => {
  const event = new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true, ...more });
  act(() => void field.dispatchEvent(event));
  return event.defaultPrevented;
};
const leave = (field: HTMLElement) => act(() => void field.dispatchEvent(new FocusEvent("focusout", { bubbles: true })));

beforeEach(() => {
  vi.stubGlobal("IS_REACT_ACT_ENVIRONMENT", true);
  page = document.body.appendChild(document.createElement("main"));
  root = createRoot(page);
});
afterEach(() => {
  act(() => root.unmount());
  page.remove();
  vi.unstubAllGlobals();
});

describe("a slider", () => {
  const set: [number, boolean][] = [];
  const moved: number[] = [];

  function Amount({ step = 1, min = 0, max = 100, disabled = false }) {
    const [value, setValue] = useState(20);
    return (
      <Slider
        label="Amount" unit="%" initial={50} {...{ value, min, max, step, disabled }}
        onInput={(v) => (moved.push(v), setValue(v))}
        onCommit={(v, goesOn = false) => (set.push([v, goesOn]), setValue(v))}
      />
    );
  }
  const number = () => find("[aria-label='Amount, number']");
  beforeEach(() => void (set.length = moved.length = 0));

  it("takes a number with a comma or a point, on Enter and when it is left", () => {
    show(<Amount step={0.1} />);
    write(number(), "33,4");
    expect(set).toEqual([]);
    press(number(), "Enter");
    write(number(), " 41.26 ");
    leave(number());
    expect(set).toEqual([[33.4, false], [41.3, false]]);
    expect(number().value).toBe("41.3");
  });

  it("keeps what is beyond its ends at them, and what is no number out", () => {
    show(<Amount min={-10} />);
    for (const [typed, becomes] of [["400", 100], ["-400", -10], ["1e2", 100]] as const) {
      write(number(), typed);
      press(number(), "Enter");
      expect(set.at(-1)).toEqual([becomes, false]);
    }
    const before = set.length;
    for (const typed of ["", "  ", "much", "1,2,3", "NaN", "Infinity"]) {
      write(number(), typed);
      leave(number());
      expect(number().value).toBe("100");
    }
    expect(set).toHaveLength(before);
  });

  it("forgets what was typed on Escape", () => {
    show(<Amount />);
    write(number(), "77");
    press(number(), "Escape");
    leave(number());
    expect([number().value, set]).toEqual(["20", []]);
  });

  it("goes on step by step by arrows in the number, ten steps with Shift, never past its end", () => {
    show(<Amount step={5} />);
    expect(press(number(), "ArrowUp")).toBe(true);
    press(number(), "ArrowDown");
    press(number(), "ArrowUp", { shiftKey: true });
    press(number(), "ArrowUp", { shiftKey: true });
    expect(set).toEqual([[25, true], [20, true], [70, true], [100, true]]);
  });

  it("steps by the wheel and leaves the panel where it is; zooming by it goes through", () => {
    show(<Amount />);
    const turn = (deltaY: number, more: WheelEventInit = {}) => {
      const event = new WheelEvent("wheel", { deltaY, bubbles: true, cancelable: true, ...more });
      act(() => void find<HTMLElement>(".mg-slider").dispatchEvent(event));
      return event.defaultPrevented;
    };
    expect(turn(-120)).toBe(true);
    expect(turn(40, { shiftKey: true })).toBe(true);
    expect(turn(120, { ctrlKey: true })).toBe(false);
    expect(set).toEqual([[21, true], [11, true]]);
    show(<Amount disabled />);
    expect(turn(-120)).toBe(false);
  });

  it("lets a turn of the wheel that began beside it scroll on, until the pointer moves", () => {
    show(
      <>
        <p>Above</p>
        <Amount />
      </>,
    );
    const turn = (over: string, clientY = 40) => {
      const event = new WheelEvent("wheel", { deltaY: -120, clientY, bubbles: true, cancelable: true });
      act(() => void find<HTMLElement>(over).dispatchEvent(event));
      return event.defaultPrevented;
    };
    expect(turn("p")).toBe(false);
    expect(turn(".mg-slider")).toBe(false);
    expect(set).toEqual([]);
    expect(turn(".mg-slider", 60)).toBe(true);
    expect(set).toEqual([[21, true]]);
  });

  it("moves while it is dragged and is set once when it is let go; a double click on its name brings the usual back", () => {
    show(<Amount />);
    const range = find("input[type=range]");
    write(range, "60");
    write(range, "64");
    expect([moved, set]).toEqual([[60, 64], []]);
    act(() => void range.dispatchEvent(new Event("pointerup", { bubbles: true })));
    expect(set).toEqual([[64, false]]);
    expect(range.getAttribute("aria-valuetext")).toBe("64 %");
    act(() => void find<HTMLElement>("label").dispatchEvent(new MouseEvent("dblclick", { bubbles: true })));
    expect(set.at(-1)).toEqual([50, false]);
  });

  it("on an uneven scale gives the values of its places", () => {
    const seen: number[] = [];
    const curve = { to: Math.sqrt, from: (p: number) => p * p };
    show(<Slider label="Size" value={25} min={0} max={400} curve={curve} onInput={(v) => seen.push(v)} />);
    const range = find("input[type=range]");
    expect([range.min, range.max, range.value]).toEqual(["0", "20", "5"]);
    write(range, "12");
    expect(seen).toEqual([144]);
  });
});

describe("a field for a number", () => {
  it("tells each number that is one, and keeps on show what is none yet", () => {
    const told: number[] = [];
    show(<NumberBox label="Width" value={30} invalid={false} onChange={(v) => told.push(v)} />);
    const field = find("input");
    for (const typed of ["3", "3,", "3,5", "", "-", "-2.25"]) write(field, typed);
    // "3," is three, and stays as it was typed.
    expect(told).toEqual([3, 3, 3.5, -2.25]);
    expect(field.value).toBe("-2.25");
    leave(field);
    expect(field.value).toBe("30");
  });
});

describe("a choice", () => {
  it("has its label, says each by its words and tells the value", () => {
    const told: string[] = [];
    show(<Choice label="On" value="all" choices={[["all", "all tones"], ["lights", "lights"]]} onChange={(v) => told.push(v)} />);
    const field = find<HTMLSelectElement>("select");
    expect(find<HTMLLabelElement>("label").htmlFor).toBe(field.id);
    expect([...field.options].map((o) => o.text)).toEqual(["all tones", "lights"]);
    write(field, "lights");
    expect(told).toEqual(["lights"]);
  });
});

describe("a progress bar", () => {
  it("says how far it is, between nothing and all", () => {
    for (const [now, says] of [[-4, "0"], [33.4, "33"], [250, "100"]] as const) {
      show(<Progress now={now} label="Upload" />);
      const bar = find<HTMLElement>("[role=progressbar]");
      expect(bar.getAttribute("aria-valuenow")).toBe(says);
      expect(bar.getAttribute("aria-label")).toBe("Upload");
    }
  });
});

describe("a name being typed", () => {
  const done: (string | null)[] = [];
  const field = () => find('[aria-label="Name of the pass"]');

  function Naming() {
    const [naming, setNaming] = useState(true);
    if (!naming) return <p>named</p>;
    return <NameField label="Name of the pass" initial="Heal" most={12} onDone={(name) => (done.push(name), setNaming(false))} />;
  }
  beforeEach(() => {
    done.length = 0;
    show(<Naming />);
  });

  it("begins with the name of now, under the hand", () => {
    expect(field().value).toBe("Heal");
    expect(document.activeElement).toBe(field());
    expect(field().maxLength).toBe(12);
  });

  it("is taken by Enter, once, without the spaces around it", () => {
    write(field(), "  Spots ");
    act(() => field().form!.requestSubmit());
    expect(done).toEqual(["Spots"]);
  });

  it("is taken when the field is left", () => {
    write(field(), "Spots");
    leave(field());
    expect(done).toEqual(["Spots"]);
  });

  it("is dropped by Escape, and where nothing was typed", () => {
    write(field(), "Spots");
    press(field(), "Escape");
    expect(done).toEqual([null]);
    act(() => root.unmount());
    root = createRoot(page);
    show(<Naming />);
    write(field(), "   ");
    leave(field());
    expect(done).toEqual([null, null]);
  });
});
