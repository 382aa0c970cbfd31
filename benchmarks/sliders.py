"""Sliders and painted masks: a 24 megapixel portrait with twelve passes, each with a mask."""

from __future__ import annotations

from typing import Any

import numpy as np
from playwright.sync_api import Page

from benchmarks.latency import (
    ARM,
    SENDING,
    SETTLED,
    settle_first,
    window,
)
from benchmarks.speed import HEIGHT, WIDTH

_STEPS, _STROKES = 24, 12
BRUSHES = (60, 600)

# Painted since the pointer moved: a slider's draft is on the canvas.
DRAWN = """
() => new Promise(resolve => {
  const look = () => {
    const p = window.__probe;
    if (p.start && p.drawn > p.start) requestAnimationFrame(() => resolve(p.drawn - p.start));
    else setTimeout(look, 1);
  };
  look();
})
"""
MAKE = (
    f"async ([width, height]) => {{ {SENDING}"
    """
  const skin = { kind: 'zone', zone: 'skin' };
  const range = { kind: 'range', way: 'cross', colours: [[70, 18, 20]], tolerance: 25 };
  const slope = { kind: 'gradient', way: 'cross', start: [0, 0], end: [width, height] };
  const place = k => [width * (0.28 + 0.44 * ((0.618 * k) % 1)), height * (0.3 + 0.3 * (k % 25) / 25)];
  for (let n = 0; n < 12; n++) {
    if (n % 3 === 0) {
      const { pass_id } = await send({ op: 'add_pass', kind: 'heal', areas: [skin] });
      const touches = Array.from({ length: 20 }, (_, k) => ({
        path: [place(k + n)], values: { radius_px: 14 + 2 * (k % 10) } }));
      await send({ op: 'add_touches', kind: 'heal', pass_id, touches });
      continue;
    }
    const areas = n % 3 === 1 ? [skin, range] : [skin, slope];
    const what = n < 11 ? { kind: 'light', settings: { exposure_ev: n % 2 ? 0.1 : -0.1 } } : { kind: 'redness' };
    const id = (await send({ op: 'add_pass', ...what, areas })).pass_id;
    await send({ op: 'set_mask', pass_id: id, feather_px: 40 });
    for (let k = 0; k < 8; k++)
      await send({ op: 'paint_mask', pass_id: id, stroke: {
        path: [place(k), place(k + 3)], radius_px: 150, softness: 80, flow: 20 } });
  }
  return portrait.id;
}
"""
)


def measure() -> dict[str, Any]:
    """Milliseconds: ``fit`` and ``close`` of a slider; strokes on the ``lowest`` pass of all, with
    80 heals above it that are made anew, and on the ``top`` one, by the brush's radius."""
    with window() as (page, url, _):
        page.goto(url)
        page.get_by_role("list", name="Portraits").get_by_role("link").wait_for()
        ident = page.evaluate(MAKE, [WIDTH, HEIGHT])
        page.goto(f"{url}/portraits/{ident}")
        box = settle_first(page)
        page.get_by_role("button", name="Sweep").wait_for(timeout=180_000)
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Look").click()
        out: dict[str, Any] = slides(page, box)
        page.keyboard.press("x")
        out["lowest"], lower = _strokes(page, box)
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Even").click()
        page.get_by_role("button", name="Redness", exact=True).click()
        page.wait_for_selector("[role=application][data-sharp=true]")
        out["top"], upper = _strokes(page, box)
        out["frame"] = max(lower, upper)
    return out


def slides(page: Page, box: dict[str, float]) -> dict[str, list[float]]:
    """The exposure of the lowest pass of a stage moved: over the whole picture, and at 1:1; all above it follows."""
    page.get_by_role("button", name="Light", exact=True).last.click()
    page.wait_for_selector("[role=application][data-sharp=true]")
    fit = slide(page)
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.keyboard.press("1")
    page.get_by_role("button", name="Zoom 100 %").wait_for()
    page.wait_for_selector("[role=application][data-sharp=true]")
    return {"fit": fit, "close": slide(page)}


def slide(page: Page) -> list[float]:
    """Move the exposure of the open pass step by step."""
    slider = page.get_by_role("slider", name="Exposure")
    box = slider.bounding_box()
    assert box is not None
    y = box["y"] + box["height"] / 2
    page.mouse.move(box["x"] + box["width"] / 2, y)
    page.mouse.down()
    times = []
    for n in range(_STEPS):
        page.evaluate(ARM)
        page.mouse.move(box["x"] + box["width"] * (0.3 + 0.4 * ((n * 7) % _STEPS) / _STEPS), y)
        times.append(page.evaluate(DRAWN))
    page.mouse.up()
    page.get_by_role("status").get_by_text("Saved", exact=True).wait_for()
    page.wait_for_selector("[role=application][data-sharp=true]")
    return times


def _strokes(page: Page, box: dict[str, float]) -> tuple[dict[int, list[float]], float]:
    """Ease the open pass with soft strokes of low flow."""
    out: dict[int, list[float]] = {}
    frames = []
    rng = np.random.default_rng(3)
    tray = page.get_by_role("contentinfo")
    for label, value in (("Softness", "90"), ("Flow", "15")):
        tray.get_by_role("textbox", name=f"{label}, number").fill(value)
        page.keyboard.press("Enter")
    for radius in BRUSHES:
        tray.get_by_role("textbox", name="Size, number").fill(str(radius))
        page.keyboard.press("Enter")
        times = []
        for _ in range(_STROKES):
            x, y = rng.uniform(0.3, 0.7, 2) * (box["width"], box["height"])
            page.mouse.move(box["x"] + x, box["y"] + y)
            page.mouse.down()
            page.mouse.move(box["x"] + x + 150, box["y"] + y + 60, steps=8)
            page.evaluate(ARM)
            page.mouse.up()
            took, frame = page.evaluate(SETTLED)
            times.append(took)
            frames.append(frame)
            page.get_by_role("status").get_by_text("Saved", exact=True).wait_for()
        out[radius] = times
    return out, max(frames)
