"""What moves parts of the picture, while it moves: ten shape touches over twelve passes, at 24 megapixels."""

from __future__ import annotations

from playwright.sync_api import Page

from benchmarks.latency import (
    ARM,
    SETTLED,
    median_and_95,
    settle_first,
    window,
)
from benchmarks.sliders import DRAWN, MAKE
from benchmarks.speed import HEIGHT, WIDTH

_STROKES, _STEPS = 10, 24
# The brush, how far a stroke and a pull go at most, and how far strokes lie apart, in pixels of the picture.
_SIZE, _FAR, _APART = 400, 48, 60
_WAIT_MS = 180_000
# Where the tip of the chin lies in the picture.
_CHIN = """
async (id) => {
  const { faces } = await (await fetch(`/api/portraits/${id}/analysis`)).json();
  const [x, y, w, h] = faces[0].box;
  return [x + w / 2, y + h];
}
"""


class _Hands:
    """Hands of Shape in a window, and what they waited for, milliseconds."""

    def __init__(self, page: Page, box: dict[str, float]) -> None:
        self.page, self.box = page, box
        self.moves = page.get_by_role("region", name="Moves")

    def sharp(self) -> None:
        self.page.wait_for_selector("[role=application][data-sharp=true]")

    def at(self, place: list[float]) -> tuple[float, float]:
        """Where a place of the picture lies on the page."""
        left, top, scale = self._view()
        return self.box["x"] + (place[0] - left) * scale, self.box["y"] + (place[1] - top) * scale

    def _view(self) -> tuple[float, float, float]:
        picture = self.page.get_by_role("application", name="Picture")
        left, top, scale = (picture.get_attribute("data-view") or "").split()
        return float(left), float(top), float(scale)

    @property
    def scale(self) -> float:
        return self._view()[2]

    def take(self, hand: str) -> None:
        button = self.moves.get_by_role("button", name=hand)
        if button.get_attribute("aria-pressed") != "true":
            button.click()

    def close_to(self, place: list[float]) -> None:
        """One to one, a place in reach."""
        self.page.mouse.move(*self.at(place))
        while self.scale < 1:
            self.page.mouse.wheel(0, -240)
            self.sharp()
        self.page.keyboard.press("1")
        self.page.get_by_role("button", name="Zoom 100 %").wait_for()
        self.sharp()

    def pull(self, place: list[float]) -> list[float]:
        """A part of the face taken hold of and moved step by step: from each move to painted pixels."""
        self.take("Pull")
        x, y = self.at(place)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        times = []
        for n in range(_STEPS):
            self.page.evaluate(ARM)
            # Far enough to be no click.
            part = 1 + ((n * 7) % _STEPS) / _STEPS
            self.page.mouse.move(x, y + _FAR * self.scale * part)
            times.append(self.page.evaluate(DRAWN))
        self.page.mouse.up()
        self.page.get_by_role("status").get_by_text("Saved", exact=True).wait_for()
        self.sharp()
        return times

    def nudge(self, place: list[float]) -> tuple[list[float], list[float]]:
        """Strokes around a place: from each move to painted pixels, and from the hand that lets go to exact ones."""
        self.take("Nudge")
        size = self.page.get_by_role("contentinfo").get_by_role("textbox", name="Size, number")
        size.fill(str(_SIZE))
        self.page.keyboard.press("Enter")
        x, y = self.at(place)
        drawn, settled = [], []
        for n in range(_STROKES):
            start = x + _APART * self.scale * (n - _STROKES / 2)
            self.page.mouse.move(start, y)
            self.page.mouse.down()
            # There and back, so that the part that is pulled stays where it is.
            self.page.evaluate(ARM)
            self.page.mouse.move(start, y + (1 if n % 2 else -1) * _FAR * self.scale)
            drawn.append(self.page.evaluate(DRAWN))
            self.page.evaluate(ARM)
            self.page.mouse.up()
            settled.append(self.page.evaluate(SETTLED)[0])
            self.page.get_by_role("status").get_by_text("Saved", exact=True).wait_for()
        return drawn, settled


def measure() -> dict[str, list[float]]:
    """Milliseconds of each move at fit and at 1:1, the first ten strokes being the touches of what follows."""
    with window() as (page, url, _):
        page.goto(url)
        page.get_by_role("list", name="Portraits").get_by_role("link").click()
        page.get_by_role("button", name="Sweep").wait_for()
        ident = page.evaluate(MAKE, [WIDTH, HEIGHT])
        page.goto(f"{url}/portraits/{ident}")
        hands = _Hands(page, settle_first(page))
        page.get_by_role("button", name="Sweep").wait_for()
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Shape").click()
        chin = page.evaluate(_CHIN, ident)
        out: dict[str, list[float]] = {}
        out["nudge drawn, whole picture"], out["nudge, whole picture"] = hands.nudge(chin)
        out["pull, whole picture"] = hands.pull(chin)
        hands.close_to(chin)
        out["pull, 1:1"] = hands.pull(chin)
        out["nudge drawn, 1:1"], out["nudge, 1:1"] = hands.nudge(chin)
    return out


def table() -> str:
    """A pulled part and strokes of Nudge beside what sliders and strokes on masks are meant to take."""
    found = measure()
    lines = [
        f"| 24 megapixels, {_STROKES} shape touches over 12 passes with masks | median ms | 95 % | aim |",
        "|---|---|---|---|",
    ]
    rows = (
        ("a part of the face pulled: a move to new pixels painted, whole picture", "pull, whole picture", 100),
        ("the same at 1:1", "pull, 1:1", 80),
        ("a stroke of Nudge, brush of 400 px: a move to new pixels painted, whole picture", "nudge drawn, whole picture", 100),
        ("the same at 1:1", "nudge drawn, 1:1", 80),
        ("a stroke of Nudge let go to its exact result, whole picture", "nudge, whole picture", 120),
        ("the same at 1:1, over as many", "nudge, 1:1", 120),
    )  # fmt: skip
    for text, name, aim in rows:
        half, most = median_and_95(found[name])
        lines.append(f"| {text} | {half:.0f} | {most:.0f} | {aim} |")
    print("\n".join(lines), flush=True)
    return "\n".join(lines)
