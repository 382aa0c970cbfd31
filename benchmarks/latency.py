"""From hand to eye: a real Chromium on the real server, a 24 megapixel portrait, ten passes."""

from __future__ import annotations

import os
import socket
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import Page, sync_playwright

from benchmarks.speed import HEIGHT, WIDTH, large_portrait
from retouch.colour.depth import to_integers
from retouch.picture import Output, Picture, write

ROOT = Path(__file__).resolve().parent.parent
CHROMIUM = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
]
_HEALS, _MOVES = 25, 25
_WAIT_MS = 300_000

# Notes when an event arrived and when the canvas has been painted since. `drawn` is the time of
# the frame after the last drawing, so the pixels are on the screen by then.
PROBE = """
() => {
  const log = (window.__probe = { start: 0, painted: 0, drawn: 0, longest: 0 });
  let last = performance.now();
  const beat = () => {
    const now = performance.now();
    log.longest = Math.max(log.longest, now - last);
    last = now;
    requestAnimationFrame(beat);
  };
  requestAnimationFrame(beat);
  const draw = CanvasRenderingContext2D.prototype.drawImage;
  CanvasRenderingContext2D.prototype.drawImage = function (...args) {
    if (this.canvas.isConnected) log.drawn = performance.now();
    return draw.apply(this, args);
  };
  for (const type of ["pointerup", "wheel", "pointermove"])
    window.addEventListener(type, () => { log.start ||= performance.now(); }, true);
}
"""
ARM = "() => { Object.assign(window.__probe, { start: 0, drawn: 0, longest: 0 }); }"
# Sharp, and a frame has passed since: what was drawn last is what is seen.
SETTLED = """
() => new Promise(resolve => {
  const look = () => {
    const el = document.querySelector('[role=application]');
    const ready = el.dataset.sharp === 'true' && !document.querySelector('.mg-under-way') &&
      window.__probe.start && window.__probe.drawn;
    if (ready) {
      const p = window.__probe;
      requestAnimationFrame(() => resolve([p.drawn - p.start, p.longest]));
    } else setTimeout(look, 1);
  };
  look();
})
"""


# JavaScript that finds the one portrait and gives `send`, which makes a gesture.
SENDING = """
  const [portrait] = await (await fetch('/api/portraits')).json();
  const token = (await (await fetch('/api/session')).json()).csrf_token;
  let revision = portrait.revision;
  const send = async (operation) => {
    const answer = await fetch(`/api/portraits/${portrait.id}/gestures`, {
      method: 'POST', body: JSON.stringify({ revision, operation }),
      headers: { 'Content-Type': 'application/json', 'X-CSRFToken': token } });
    if (!answer.ok) throw new Error(await answer.text());
    const body = await answer.json();
    revision = body.revision;
    return body;
  };
"""


def _free_port() -> int:
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


def load_script(path: Path) -> str:
    """Code that takes a photograph in for the demo user."""
    return (
        "import django; django.setup()\n"
        "from django.contrib.auth import get_user_model\n"
        "from studio.portraits.services import library\n"
        "import os\n"
        "user = get_user_model().objects.create_user('demo')\n"
        f"path = {str(path)!r}\n"
        "library.take_in(user, open(path, 'rb'), 'large.jpg', os.path.getsize(path))\n"
    )


@contextmanager
def server(folder: Path, load: str, **settings: str) -> Iterator[str]:
    """The studio in demo mode on a free port, with its data in ``folder``.

    ``load`` is Python code that fills the database; ``settings`` go into its environment.
    """
    own = {"MELLOW_GLASS_DATA": str(folder), "MELLOW_GLASS_DEMO": "1", **settings}
    environment = {**os.environ, **own}
    subprocess.run(
        [sys.executable, "manage.py", "migrate", "-v0"], cwd=ROOT, env=environment, check=True
    )
    django = {**environment, "DJANGO_SETTINGS_MODULE": "studio.settings"}
    subprocess.run([sys.executable, "-c", load], cwd=ROOT, env=django, check=True)
    port = _free_port()
    server = subprocess.Popen(
        [sys.executable, "-m", "studio.serving", "--port", str(port)], cwd=ROOT, env=environment
    )
    url = f"http://127.0.0.1:{port}"
    try:
        for _ in range(200):
            try:
                urllib.request.urlopen(f"{url}/api/session")
                break
            except OSError:
                time.sleep(0.1)
        yield url
    finally:
        server.terminate()
        # What it works on in the background ends first.
        server.wait(180)


@contextmanager
def window(picture: Callable[[], Picture] | None = None) -> Iterator[tuple[Page, str, Path]]:
    """A window of 1280x800 on a studio that holds one picture, the studio's address and folder; what is painted is noted.

    ``picture`` makes it; without it, it is a portrait of 24 megapixels.
    """
    with tempfile.TemporaryDirectory() as name, sync_playwright() as playwright:
        folder = Path(name)
        one = Picture(to_integers(large_portrait(), 8)) if picture is None else picture()
        write(one, folder / "large.jpg", Output("jpeg", quality=92, subsampling="4:2:0"))
        with server(folder, load_script(folder / "large.jpg")) as url:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            # A first view may make hundreds of touches.
            page.set_default_timeout(_WAIT_MS)
            page.add_init_script(f"({PROBE})()")
            yield page, url, folder
            browser.close()


def _prepare(page: Page, url: str, each: int) -> str:
    """Ten passes, six of them with ``each`` touches, made through the API."""
    page.goto(url)
    page.get_by_role("list", name="Portraits").get_by_role("link").wait_for()
    return str(
        page.evaluate(
            f"async ([width, height, each]) => {{ {SENDING}"
            """
              for (let n = 0; n < 10; n++) {
                if (n % 5 > 2) {
                  const id = (await send({ op: 'add_pass', kind: 'light' })).pass_id;
                  await send({ op: 'change_pass', id, settings: { exposure_ev: n > 5 ? -0.1 : 0.1 } });
                  continue;
                }
                const { pass_id } = await send({ op: 'add_pass', kind: 'heal' });
                const touches = Array.from({ length: each }, (_, k) => ({
                  path: [[width * (0.28 + 0.44 * ((0.618 * k) % 1)),
                          height * (0.3 + 0.3 * (k + n / 10) / each)]],
                  values: { radius_px: 14 + 2 * (k % 10) } }));
                await send({ op: 'add_touches', kind: 'heal', pass_id, touches });
              }
              return portrait.id;
            }""",
            [WIDTH, HEIGHT, each],
        )
    )


def measure(each: int = 10) -> dict[str, Any]:
    """Milliseconds from event to pixels, with ``each`` touches in six of ten passes.

    Medians and 95th percentiles, and the longest frame.
    """
    with window() as (page, url, _):
        ident = _prepare(page, url, each)
        page.goto(f"{url}/portraits/{ident}")
        box = settle_first(page)
        # The faces are looked at first; what is measured is the work that follows.
        page.get_by_role("button", name="Sweep").wait_for(timeout=180_000)
        middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        moves, moves_frames = zooms_and_pans(page, middle)
        page.mouse.move(*middle)
        page.keyboard.press("1")
        page.get_by_role("button", name="Zoom 100 %").wait_for()
        heals, heal_frames = _heals(page, box)
    return {
        "heal": heals,
        "move": moves,
        "frame": max(moves_frames + heal_frames),
    }


def settle_first(page: Page) -> dict[str, float]:
    """Wait for the first sharp picture; its place on the page."""
    picture = page.get_by_role("application", name="Picture")
    page.wait_for_selector("[role=application][data-sharp=true]")
    box = picture.bounding_box()
    assert box is not None
    return {"x": box["x"], "y": box["y"], "width": box["width"], "height": box["height"]}


def zooms_and_pans(page: Page, middle: tuple[float, float]) -> tuple[list[float], list[float]]:
    times, frames = [], []
    page.mouse.move(*middle)
    for n in range(_MOVES):
        page.evaluate(ARM)
        if n % 3 < 2:
            page.mouse.wheel(0, -200 if n % 6 < 3 else 200)
        else:
            page.keyboard.down(" ")
            page.mouse.down()
            page.evaluate(ARM)
            page.mouse.move(middle[0] + 40 * (n % 5 - 2) + 15, middle[1] + 25)
            page.mouse.up()
            page.keyboard.up(" ")
            page.mouse.move(*middle)
        took, frame = page.evaluate(SETTLED)
        times.append(took)
        frames.append(frame)
    return times, frames


def _heals(page: Page, box: dict[str, float]) -> tuple[list[float], list[float]]:
    times, frames = [], []
    rng = np.random.default_rng(2)
    page.get_by_role("textbox", name="Size, number").fill("20")
    page.keyboard.press("Enter")
    page.wait_for_selector("[role=application][data-sharp=true]")
    for _ in range(_HEALS):
        x, y = (
            box["x"] + 60 + rng.uniform(0, box["width"] - 120),
            box["y"] + 60 + rng.uniform(0, box["height"] - 120),
        )
        page.mouse.move(x, y)
        page.evaluate(ARM)
        page.mouse.down()
        page.mouse.up()
        took, frame = page.evaluate(SETTLED)
        times.append(took)
        frames.append(frame)
        page.get_by_role("status").get_by_text("Saved", exact=True).wait_for()
    return times, frames


def median_and_95(times: list[float]) -> tuple[float, float]:
    return statistics.median(times), float(np.percentile(times, 95))
