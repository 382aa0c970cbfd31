"""A whole picture worked on while it is straightened and cropped: sliders, moves, and its file."""

from __future__ import annotations

import statistics
import time
from typing import Any

import simplejpeg

from benchmarks import sliders
from benchmarks.latency import (
    SENDING,
    median_and_95,
    settle_first,
    window,
    zooms_and_pans,
)
from benchmarks.speed import HEIGHT, WIDTH, large_portrait
from retouch.colour.depth import to_integers
from retouch.edit import Edit, Pass
from retouch.forms.form import completed, from_data
from retouch.picture import Output, Picture, Pyramid, encode, read_bytes
from retouch.render import Renderer, render_whole

FRAME = {
    "angle_deg": 2.4,
    "centre_x_px": 2000,
    "centre_y_px": 2900,
    "width_px": 3200,
    "height_px": 4000,
}
LOOK = {
    "tone": {"shade": 20, "peaks": -20},
    "white_balance": {"temperature_k": 6100},
    "curves": {"light": [[0, 0], [0.3, 0.27], [1, 1]]},
}
_FRAMED = (
    f"async ([frame, look]) => {{ {SENDING}"
    """
  for (const [kind, settings] of Object.entries(look)) await send({ op: 'add_pass', kind, settings });
  await send({ op: 'set_frame', settings: frame });
}
"""
)


def measure(framed: bool) -> dict[str, Any]:
    """Milliseconds of a slider of the lowest pass, ``fit`` and ``close``, and of ``move``: twelve
    passes with masks, and ``framed`` with three passes of Look, a straightened angle and a crop more.
    """
    with window() as (page, url, _):
        page.goto(url)
        page.get_by_role("list", name="Portraits").get_by_role("link").wait_for()
        ident = page.evaluate(sliders.MAKE, [WIDTH, HEIGHT])
        if framed:
            page.evaluate(_FRAMED, [FRAME, LOOK])
        page.goto(f"{url}/portraits/{ident}")
        box = settle_first(page)
        page.get_by_role("button", name="Sweep").wait_for(timeout=180_000)
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Look").click()
        out: dict[str, Any] = sliders.slides(page, box)
        page.keyboard.press("0")
        page.wait_for_selector("[role=application][data-sharp=true]")
        middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        out["move"], _ = zooms_and_pans(page, middle)
    return out


def export() -> dict[str, float]:
    """Seconds for a JPEG of 24 megapixels: to decode and encode it, and to export a typical edit."""
    data = encode(Picture(to_integers(large_portrait(), 8)), Output("jpeg", quality=92))
    touches = [
        {"id": f"t{n}", "path": [[1400 + 60 * (n % 20), 2400 + 70 * (n // 20)]],
         "values": {"radius_px": 18}, "source": [90, 20]}
        for n in range(40)
    ]  # fmt: skip
    passes = [
        {"id": "light", "kind": "light", "settings": {"exposure_ev": 0.2, "contrast": 8}},
        *({"id": k, "kind": k, "settings": v} for k, v in LOOK.items()),
        {"id": "heal", "kind": "heal", "touches": touches},
    ]
    plain = from_data({"version": 2, "passes": passes})
    frame = completed(Pass("frame", "frame", settings={n: float(v) for n, v in FRAME.items()}))
    edits = {
        "nothing": Edit(),
        "plain": plain,
        "framed": Edit((*plain.passes, frame)),
    }
    times: dict[str, list[float]] = {n: [] for n in ("both", *edits)}
    for _ in range(3):
        start = time.perf_counter()
        pixels = simplejpeg.decode_jpeg(data, colorspace="RGB", fastdct=False, fastupsample=False)
        simplejpeg.encode_jpeg(pixels, quality=95, colorspace="RGB", colorsubsampling="444")
        times["both"].append(time.perf_counter() - start)
        for name, edit in edits.items():
            start = time.perf_counter()
            made = render_whole(Renderer(Pyramid(read_bytes(data))), edit)
            encode(made, Output("jpeg", quality=95))
            times[name].append(time.perf_counter() - start)
    return {n: statistics.median(t) for n, t in times.items()}


def table() -> str:
    """Sliders, moves and the file, framed and not."""
    plain, framed = measure(False), measure(True)
    lines = [
        "| 24 megapixels, Chromium 1280x800 | 12 passes with masks: median ms | 95 % "
        "| and 3 of Look, straightened, cropped | 95 % | aim |",
        "|---|---|---|---|---|---|",
    ]
    for text, key in (
        ("a slider of the lowest pass moved to new pixels painted, whole picture", "fit"),
        ("the same at 1:1", "close"),
        ("zoom or pan to sharp pixels", "move"),
    ):
        a, b = median_and_95(plain[key]), median_and_95(framed[key])
        lines.append(f"| {text} | {a[0]:.0f} | {a[1]:.0f} | {b[0]:.0f} | {b[1]:.0f} | 60 |")
    t = export()
    lines += [
        "",
        "| a JPEG of 24 megapixels | s | times decoding and encoding |",
        "|---|---|---|",
        f"| decoded and encoded again | {t['both']:.2f} | 1 |",
    ]
    for text, key in (
        ("exported with nothing done", "nothing"),
        ("a typical edit: light, tone, white balance, curves, 40 heals", "plain"),
        ("the same, straightened and cropped", "framed"),
    ):
        lines.append(f"| {text} | {t[key]:.2f} | {t[key] / t['both']:.1f} |")
    print("\n".join(lines), flush=True)
    return "\n".join(lines)
