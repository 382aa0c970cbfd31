"""What a hand waits for after a long day: 500 touches, 30 passes, 2,000 steps, at 24 and at 100 megapixels."""

from __future__ import annotations

import os
import statistics
import subprocess
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from playwright.sync_api import Page

from benchmarks import sliders
from benchmarks.latency import (
    ARM,
    SENDING,
    SETTLED,
    settle_first,
    window,
    zooms_and_pans,
)
from benchmarks.speed import HEIGHT, WIDTH, large_portrait
from retouch.colour.depth import to_integers
from retouch.picture import Picture

# Side of the larger picture beside that of 24 megapixels.
LARGER = 2.04
_TOUCHES, _STEPS, _PASSES = 84, 2000, 30
_EACH = 8
_SETTLE_MS = 300_000

# The faces are known by then: a routine, a look, and what else a long day brings.
_MAKE = (
    f"async ([width, height, each, passes, steps]) => {{ {SENDING}"
    """
  revision = (await (await fetch(`/api/portraits/${portrait.id}/desk`)).json()).portrait.revision;
  const place = (k, n) => [width * (0.28 + 0.44 * ((0.618 * k) % 1)), height * (0.3 + 0.3 * (k + n / 6) / each)];
  for (let n = 0; n < 6; n++) {
    const { pass_id } = await send({ op: 'add_pass', kind: 'heal' });
    const touches = Array.from({ length: each }, (_, k) => ({
      path: [place(k, n)], values: { radius_px: 14 + 2 * (k % 10) } }));
    await send({ op: 'add_touches', kind: 'heal', pass_id, touches });
  }
  await send({ op: 'apply_routine', name: 'everyday', bright: true });
  await send({ op: 'pull_proportions', by: { face_chin: 1.5 } });
  await send({ op: 'apply_look', name: 'clean', strength: 60 });
  const desk = await (await fetch(`/api/portraits/${portrait.id}/desk`)).json();
  const skin = { kind: 'zone', zone: 'skin' };
  let last = null;
  for (let n = desk.passes.length; n < passes; n++) {
    last = (await send({ op: 'add_pass', kind: 'light', areas: n % 2 ? [skin] : [] })).pass_id;
    await send({ op: 'change_pass', id: last, settings: { exposure_ev: n % 2 ? 0.05 : -0.05 } });
  }
  for (let n = 0; n < steps; n++)
    await send({ op: 'change_pass', id: last, settings: { exposure_ev: 0.05 + 0.01 * (n % 2) } });
  return portrait.id;
}"""
)
# A JPEG of the view, as the server would send it, to pixels on the screen: nothing can be shown sooner.
_FLOOR = """
async () => {
  const source = document.querySelector('[role=application] canvas');
  const canvas = document.createElement('canvas');
  canvas.width = source.width; canvas.height = source.height;
  canvas.getContext('2d').drawImage(source, 0, 0);
  const jpeg = await new Promise(r => canvas.toBlob(r, 'image/jpeg', 0.9));
  canvas.style.cssText = 'position:fixed;inset:0;z-index:99';
  document.body.append(canvas);
  const times = [];
  for (let n = 0; n < 15; n++) {
    const start = performance.now();
    const image = await createImageBitmap(jpeg);
    canvas.getContext('2d').drawImage(image, 0, 0);
    await new Promise(requestAnimationFrame);
    times.push(performance.now() - start);
  }
  canvas.remove();
  return times;
}
"""


# What is painted around a place of the page; and how long after the hand it is another. Wide enough that a stroke
# over an earlier one is seen at its rim.
_SAMPLE = """
([x, y]) => {
  const canvas = document.querySelector('[role=application] canvas'), box = canvas.getBoundingClientRect();
  const ratio = canvas.width / box.width;
  const look = () => {
    const side = 2 * REACH + 1;
    const data = canvas.getContext('2d').getImageData(
      (x - box.left) * ratio - REACH, (y - box.top) * ratio - REACH, side, side).data;
    let sum = 0;
    for (let n = 0; n < data.length; n++) sum = (31 * sum + data[n]) | 0;
    return sum;
  };
  window.__look = look;
  window.__before = look();
}
""".replace("REACH", "120")
_CHANGED = """
() => new Promise(resolve => {
  const p = window.__probe, el = document.querySelector('[role=application]');
  const look = () => {
    const settled = p.drawn && el.dataset.sharp === 'true' && !document.querySelector('.mg-under-way');
    const idle = el.dataset.sharp === 'true' && !document.querySelector('.mg-under-way') && !p.drawn;
    // A hand that met a touch picks it instead: nothing is drawn.
    if (p.start && idle && performance.now() - p.start > 2000) resolve(null);
    else if (p.start && (window.__look() !== window.__before || settled)) resolve(performance.now() - p.start);
    else requestAnimationFrame(look);
  };
  look();
})
"""


def _picture(times: float) -> Picture:
    image = to_integers(large_portrait(), 8)
    if times > 1:
        size = round(WIDTH * times), round(HEIGHT * times)
        image = cv2.resize(image, size, interpolation=cv2.INTER_CUBIC)
        rng = np.random.default_rng(5)
        for row in range(0, size[1], 1024):
            part = image[row : row + 1024]
            grain = rng.normal(0, 3, part.shape[:2])[..., None]
            part[:] = np.clip(part + grain, 0, 255).astype(np.uint8)
    return Picture(image)


class _Day:
    """One portrait at the end of a long day, in a window."""

    def __init__(self, page: Page, url: str, ident: str, times: float) -> None:
        self.page, self.url, self.ident, self.times = page, url, ident, times
        self.found: dict[str, list[float]] = {}

    def open(self) -> dict[str, float]:
        """From the address to the first sharp picture, some times."""
        took = []
        for _ in range(4):
            self.page.goto(self.url)
            self.page.get_by_role("list", name="Portraits").get_by_role("link").wait_for()
            start = time.perf_counter()
            self.page.goto(f"{self.url}/portraits/{self.ident}")
            box = settle_first(self.page)
            took.append(1000 * (time.perf_counter() - start))
        self.found["open"] = took[1:]
        self.found["open, the first time"] = took[:1]
        self.page.get_by_role("button", name="Sweep").wait_for(timeout=_SETTLE_MS)
        return box

    def settled(self) -> float:
        """From the hand to sharp pixels, milliseconds."""
        took, _ = self.page.evaluate(SETTLED)
        self.page.get_by_role("status").get_by_text("Saved", exact=True).wait_for()
        return float(took)

    def strokes(self, name: str, by: tuple[float, float], box: dict[str, float]) -> None:
        """Short strokes of the hand at hand, on the face."""
        rng = np.random.default_rng(len(self.found))
        seen, took = [], []
        for _ in range(_EACH):
            x, y = rng.uniform(0.3, 0.7, 2) * (box["width"], box["height"])
            x, y = x + box["x"], y + box["y"]
            self.page.mouse.move(x, y)
            self.page.evaluate(_SAMPLE, [x, y])
            if by == (0.0, 0.0):
                self.page.evaluate(ARM)
                self.page.mouse.down()
            else:
                self.page.mouse.down()
                self.page.mouse.move(x + by[0], y + by[1], steps=6)
                self.page.evaluate(ARM)
            self.page.mouse.up()
            changed = self.page.evaluate(_CHANGED)
            if changed is not None:
                seen.append(float(changed))
                took.append(self.settled())
        self.found[f"{name}: seen"] = seen
        self.found[f"{name}: all passes above have followed"] = took

    def size(self, radius: float) -> None:
        self.page.get_by_role("contentinfo").get_by_role("textbox", name="Size, number").fill(
            str(round(radius * self.times))
        )
        self.page.keyboard.press("Enter")

    def stage(self, name: str) -> None:
        stages = self.page.get_by_role("navigation", name="Stages")
        stages.get_by_role("button", name=name).click()

    def sharp(self) -> None:
        self.page.wait_for_selector("[role=application][data-sharp=true]", timeout=_SETTLE_MS)


def _hands(day: _Day, box: dict[str, float]) -> None:
    """Everything that a hand does, one after the other."""
    page = day.page
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    day.found["floor"] = page.evaluate(_FLOOR)
    day.found["zoom or pan"], _ = zooms_and_pans(page, middle)
    page.keyboard.press("0")
    day.sharp()
    day.stage("Look")
    slid = sliders.slides(page, box)
    day.found["slider of a low pass, whole picture"] = slid["fit"]
    day.found["the same at 1:1"] = slid["close"]
    page.keyboard.press("x")
    day.size(60)
    day.strokes("mask stroke", (120.0, 40.0), box)
    day.stage("Clear")
    page.keyboard.press("h")
    day.size(20)
    day.strokes("heal", (0.0, 0.0), box)
    page.get_by_role("contentinfo").get_by_role("button", name="Fill", exact=True).click()
    day.size(24)
    day.strokes("fill of 48 px", (0.0, 0.0), box)
    day.stage("Shape")
    page.get_by_role("region", name="Moves").get_by_role("button", name="Nudge").click()
    day.size(90)
    day.strokes("stroke of Nudge", (30.0, 8.0), box)
    day.found["compare, the original while held"] = [_held(day) for _ in range(_EACH)]


def _held(day: _Day) -> float:
    """From a key to the original on the screen, and back again."""
    took = []
    for press in (day.page.keyboard.down, day.page.keyboard.up):
        day.page.evaluate(ARM)
        day.page.evaluate("() => { window.__probe.start = performance.now(); }")
        press("q")
        took.append(float(day.page.evaluate(SETTLED)[0]))
    return max(took)


def _services(day: _Day) -> None:
    """What is asked of the server as a whole: a routine, the check, a file."""
    wait: dict[str, Callable[[], Any]] = {
        "routine (everyday), saved": lambda: day.page.evaluate(
            f"async () => {{ {SENDING}"
            "revision = (await (await fetch(`/api/portraits/${portrait.id}/desk`)).json()).portrait.revision;"
            "await send({ op: 'apply_routine', name: 'everyday' }); }"
        ),
        "natural check": lambda: day.page.evaluate(
            "async (id) => (await fetch(`/api/portraits/${id}/natural`)).json()", day.ident
        ),
        "a JPEG delivered": lambda: day.page.evaluate(_DELIVER, day.ident),
    }
    for name, call in wait.items():
        start = time.perf_counter()
        call()
        day.found[name] = [1000 * (time.perf_counter() - start)]


_DELIVER = """
async (id) => {
  const token = (await (await fetch('/api/session')).json()).csrf_token;
  const begun = await fetch(`/api/portraits/${id}/deliveries`, { method: 'POST', body: '{}',
    headers: { 'Content-Type': 'application/json', 'X-CSRFToken': token } });
  let job = await begun.json();
  while (!['done', 'failed'].includes(job.state)) {
    await new Promise(r => setTimeout(r, 50));
    job = await (await fetch(`/api/deliveries/${job.id}`)).json();
  }
  if (job.state === 'failed') throw new Error(job.error);
}
"""


def measure(times: float) -> tuple[dict[str, list[float]], float]:
    """Milliseconds by what is waited for, and the server's highest memory in megabytes.

    ``times`` enlarges the sides of the picture of 24 megapixels.
    """
    with window(lambda: _picture(times)) as (page, url, folder):
        page.goto(url)
        page.get_by_role("list", name="Portraits").get_by_role("link").click()
        page.get_by_role("button", name="Sweep").wait_for()
        size = [WIDTH * times, HEIGHT * times]
        ident = page.evaluate(_MAKE, [*size, _TOUCHES, _PASSES, _STEPS])
        day = _Day(page, url, ident, times)
        box = day.open()
        _hands(day, box)
        _services(day)
        memory = _highest(folder)
    return day.found, memory


def _highest(folder: Path) -> float:
    """The highest memory that the server on a folder has had, megabytes."""
    listed = subprocess.run(
        ["pgrep", "-f", "studio.serving"], capture_output=True, text=True, check=False
    ).stdout
    highest = 0.0
    for pid in listed.split():
        try:
            environment = Path(f"/proc/{pid}/environ").read_bytes().split(b"\0")
            status = Path(f"/proc/{pid}/status").read_text()
        except OSError:
            continue
        if os.fsencode(f"MELLOW_GLASS_DATA={folder}") in environment:
            peak = next(line for line in status.splitlines() if line.startswith("VmHWM"))
            highest = max(highest, int(peak.split()[1]) / 1024)
    return highest


def table() -> str:
    """Both sizes beside each other, and the floor of each."""
    (small, small_mb), (large, large_mb) = measure(1.0), measure(LARGER)
    floors = [statistics.median(found["floor"]) for found in (small, large)]
    lines = [
        f"| after {6 * _TOUCHES} touches, {_PASSES} passes, {_STEPS} steps | 24 megapixels: median ms | times the floor "
        "| 100 megapixels: median ms | times the floor |",
        "|---|---|---|---|---|",
        f"| the floor: a JPEG of the view to painted pixels | {floors[0]:.0f} | 1 | {floors[1]:.0f} | 1 |",
    ]
    for name in (n for n in small if n != "floor"):
        cells = [name]
        for found, floor in zip((small, large), floors, strict=True):
            middle = statistics.median(found[name])
            cells += [f"{middle:.0f}", f"{middle / floor:.1f}"]
        lines.append(f"| {' | '.join(cells)} |")
    lines.append(f"| highest memory of the server, MB | {small_mb:.0f} | | {large_mb:.0f} | |")
    print("\n".join(lines), flush=True)
    return "\n".join(lines)
