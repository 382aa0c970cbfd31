"""``./run shots``: the pictures in docs/screenshots, made from the demo portraits."""

from __future__ import annotations

import os
import re
import tempfile
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

from benchmarks.latency import CHROMIUM, server
from benchmarks.scoring import load

# What takes a second on a machine at rest takes many on one that has other work.
expect.set_options(timeout=60_000)
ROOT = Path(__file__).resolve().parent.parent
SHOTS = ROOT / "docs" / "screenshots"
_LOAD = (
    "import django; django.setup()\n"
    "from django.core.management import call_command\n"
    "call_command('load_demo', verbosity=0)\n"
)


def _place(page: Page, x: float, y: float) -> tuple[float, float]:
    picture = page.get_by_role("application", name="Picture")
    box = picture.bounding_box()
    assert box is not None
    vx, vy, scale = (float(v) for v in (picture.get_attribute("data-view") or "").split())
    return box["x"] + (x - vx) * scale, box["y"] + (y - vy) * scale


def _sharp(page: Page) -> None:
    picture = page.get_by_role("application", name="Picture")
    expect(picture).to_have_attribute("data-sharp", "true")


def _open(page: Page, url: str, name: str) -> None:
    page.goto(url)
    page.get_by_role("link", name=f"Open {name}", exact=True).click()
    _sharp(page)
    expect(page.get_by_role("button", name="Sweep")).to_be_visible(timeout=120_000)


def _heal(page: Page, name: str, most: int) -> None:
    """Heal the largest blemishes that are in view."""
    size = page.get_by_role("textbox", name="Size, number")
    box = page.get_by_role("application", name="Picture").bounding_box()
    assert box is not None
    spots = sorted(load(name).spots, key=lambda s: -s.r)
    done = 0
    for spot in spots:
        x, y = _place(page, spot.x, spot.y)
        inside = box["x"] + 30 < x < box["x"] + box["width"] - 30
        if done == most or not (inside and box["y"] + 30 < y < box["y"] + box["height"] - 30):
            continue
        size.fill(str(round(1.3 * spot.r)))
        size.press("Enter")
        page.mouse.click(x, y)
        done += 1
        expect(page.locator(".mg-touches li")).to_have_count(done)
    expect(page.get_by_role("status")).to_have_text("Saved")


def _zoom(page: Page, x: float, y: float, steps: int) -> None:
    page.mouse.move(*_place(page, x, y))
    for _ in range(steps):
        page.mouse.wheel(0, -240)
    page.wait_for_timeout(400)
    _sharp(page)


def _compare(page: Page, url: str) -> None:
    """The wipe against a take, takes, a mask."""
    _open(page, url, "Dan")
    page.get_by_role("button", name="Thread", exact=True).click()
    page.get_by_role("textbox", name="Name of the take").fill("First round")
    page.get_by_role("button", name="Keep", exact=True).click()
    page.get_by_role("button", name="Close the thread").click()
    _zoom(page, 780, 900, 3)
    page.keyboard.press("k")
    page.mouse.move(640, 300)
    page.wait_for_timeout(1500)
    page.screenshot(path=SHOTS / "compare.png")
    for _ in range(4):
        page.keyboard.press("k")

    _open(page, url, "Eli")
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Even").click()
    page.get_by_role("button", name="Everyday", exact=True).click()
    expect(page.get_by_role("switch", name="Shadows on or off")).to_be_visible()
    expect(page.get_by_role("status")).to_have_text("Saved")
    page.get_by_role("button", name="Texture").click()
    page.keyboard.press("k")
    page.mouse.move(640, 700)
    expect(page.get_by_role("row", name="Forehead")).to_be_visible(timeout=30_000)
    page.wait_for_timeout(1500)
    page.screenshot(path=SHOTS / "even.png")

    _open(page, url, "Bela")
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Look").click()
    page.get_by_role("button", name="Pass", exact=True).click()
    page.locator(".dropdown-menu.show").get_by_role("button", name="Light", exact=True).click()
    page.get_by_role("button", name="Mask everywhere").click()
    page.get_by_role("button", name="Area", exact=True).click()
    page.get_by_role("button", name="Zone of the face", exact=True).click()
    # The card grows when the area has come.
    expect(page.get_by_role("button", name="Remove the area")).to_be_visible()
    page.get_by_role("button", name="Tint", exact=True).click()
    expect(page.get_by_role("button", name="Tint", pressed=True)).to_be_visible()
    page.mouse.move(640, 700)
    page.wait_for_timeout(2500)
    page.screenshot(path=SHOTS / "mask.png")


def _finish(page: Page, url: str) -> None:
    """A look as a set of passes, the background out of focus; then what is told of it."""
    _open(page, url, "Chi")
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Finish").click()
    page.get_by_role("button", name="Pass", exact=True).click()
    menu = page.locator(".dropdown-menu.show")
    menu.get_by_role("button", name="Background", exact=True).click()
    expect(page.get_by_role("switch", name="Background on or off")).to_be_visible()
    page.get_by_label("Becomes").select_option("gradient")
    expect(page.get_by_role("status")).to_have_text("Saved")
    looks = page.get_by_role("region", name="Looks", exact=True)
    looks.get_by_role("button", name="Candle").click()
    own = page.get_by_role("listitem", name="Set Candle")
    number = own.get_by_role("textbox", name="Strength, number")
    number.fill("60")
    number.press("Enter")
    expect(page.get_by_role("status")).to_have_text("Saved")
    page.mouse.move(640, 700)
    page.wait_for_timeout(4000)
    page.screenshot(path=SHOTS / "finish.png")


def _look(page: Page, url: str) -> None:
    """The frame on the raw file, then its tones."""
    _open(page, url, "Kofi, raw")
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Look").click()
    page.get_by_role("button", name="Straighten, crop", exact=True).click()
    stage = page.get_by_role("application", name="Frame")
    expect(stage).to_have_attribute("data-ready", "true")
    page.get_by_role("button", name="Lines behind").click()
    expect(page.get_by_role("textbox", name="Angle, number")).not_to_have_value("0")
    page.get_by_role("button", name="Close-up").click()
    expect(page.get_by_role("status")).to_have_text("Saved")
    page.mouse.move(640, 700)
    page.wait_for_timeout(1500)
    page.screenshot(path=SHOTS / "frame.png")
    page.get_by_role("button", name="Done").click()
    _sharp(page)
    page.get_by_role("button", name="Pass", exact=True).click()
    menu = page.locator(".dropdown-menu.show")
    menu.get_by_role("button", name="White balance", exact=True).click()
    page.get_by_role("button", name="By the eyes").click()
    shade = page.get_by_role("slider", name="Shade")
    shade.focus()
    for _ in range(3):
        shade.press("PageUp")
    expect(page.get_by_role("status")).to_have_text("Saved")
    page.mouse.move(640, 700)
    page.wait_for_timeout(2500)
    page.screenshot(path=SHOTS / "look.png")


def _features(page: Page, url: str) -> None:
    """Bright, and what the teeth's card tells."""
    _open(page, url, "Chi")
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Features").click()
    page.get_by_role("button", name="Bright", exact=True).click()
    expect(page.get_by_role("switch", name="Eye whites on or off")).to_be_visible()
    card = page.get_by_role("complementary", name="Passes").get_by_role(
        "button", name="Teeth", exact=True
    )
    if card.get_attribute("aria-expanded") != "true":
        card.click()
    _zoom(page, 1010, 1250, 3)
    page.mouse.move(640, 700)
    expect(page.get_by_label("Readings")).to_be_visible()
    page.wait_for_timeout(2500)
    page.screenshot(path=SHOTS / "features.png")


def _glasses(page: Page, url: str) -> None:
    """Glasses off, and eyes borrowed from another frame."""
    _open(page, url, "Bela, glasses")
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Features").click()
    card = page.get_by_role("region", name="Glasses")
    card.get_by_role("button", name="Glasses off").click()
    expect(card.get_by_text("found")).to_be_visible(timeout=60_000)
    _zoom(page, 1000, 1230, 3)
    page.mouse.move(640, 740)
    page.wait_for_timeout(2500)
    page.screenshot(path=SHOTS / "glasses.png")

    _open(page, url, "Dan, eyes closed")
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Features").click()
    card = page.get_by_role("region", name="Borrow")
    card.get_by_label("Borrow from").select_option(label="Dan")
    card.get_by_role("button", name="Both eyes").click()
    expect(page.get_by_role("switch", name="Borrowed from Dan on or off")).to_be_visible(
        timeout=60_000
    )
    _zoom(page, 720, 820, 3)
    card.get_by_role("button", name="Beside").click()
    expect(page.get_by_role("figure", name="Beside: Dan")).to_be_visible(timeout=60_000)
    page.mouse.move(640, 740)
    page.wait_for_timeout(2500)
    page.screenshot(path=SHOTS / "borrow.png")


def _shape(page: Page, url: str) -> None:
    """A corner of the mouth pulled, its measure on the picture."""
    _open(page, url, "Ana")
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Shape").click()
    page.get_by_role("region", name="Moves").get_by_role("button", name="Pull").click()
    _zoom(page, 1050, 1450, 3)
    x, y = _place(page, 1205, 1549)
    page.mouse.move(x, y)
    page.mouse.down()
    for n in range(1, 9):
        page.mouse.move(x, y - 2.5 * n)
        page.wait_for_timeout(80)
    page.wait_for_timeout(1500)
    page.screenshot(path=SHOTS / "shape.png")
    page.mouse.up()
    _sharp(page)


def _take(page: Page, url: str) -> None:
    _open(page, url, "Dan")
    _zoom(page, 780, 900, 3)
    _heal(page, "dan", 18)
    page.keyboard.press("g")
    grip = page.get_by_role("button", name="Move the Glass").bounding_box()
    assert grip is not None
    x, y = _place(page, 985, 1030)
    page.mouse.move(grip["x"], grip["y"] + grip["height"] / 2)
    page.mouse.down()
    page.mouse.move(x - grip["width"] / 2, y, steps=4)
    page.mouse.up()
    page.mouse.move(640, 300)
    page.wait_for_timeout(2500)
    page.screenshot(path=SHOTS / "bench.png")
    page.get_by_role("button", name="Not now").click()
    page.keyboard.press("g")

    _open(page, url, "Ana")
    _zoom(page, 700, 1340, 4)
    page.get_by_role("button", name="By size").click()
    page.get_by_role("button", name="Blotches").click()
    expect(page.get_by_role("application").get_by_text("Band: blotches")).to_be_visible()
    page.mouse.move(640, 300)
    page.wait_for_timeout(1500)
    page.screenshot(path=SHOTS / "bands.png")
    page.get_by_role("button", name="Work in the whole picture").click()
    page.get_by_role("button", name="By size").click()
    _open(page, url, "Eli")
    _zoom(page, 960, 1050, 7)
    _heal(page, "eli", 6)

    _compare(page, url)
    _look(page, url)
    _features(page, url)
    _glasses(page, url)
    _shape(page, url)
    _finish(page, url)

    _open(page, url, "Ana")
    page.get_by_role("switch", name="Show marks").click()
    page.get_by_role("group", name="Zones of the face").get_by_role("button", name="Chin").focus()
    _zoom(page, 1010, 1300, 3)
    page.wait_for_timeout(600)
    page.screenshot(path=SHOTS / "marks.png")
    page.keyboard.press("m")

    _natural(page, url)

    _open(page, url, "Eli")
    page.get_by_role("button", name="Deliver").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_be_visible()
    dialog.get_by_text("What was done, and sheets").click()
    expect(dialog.get_by_role("list", name="What was done")).to_be_visible()
    with page.expect_download():
        dialog.get_by_role("button", name="Deliver").click()
    page.wait_for_timeout(900)
    page.screenshot(path=SHOTS / "deliver.png")
    page.goto(f"{url}/help")
    expect(page.get_by_role("heading", name="Keys and pointer")).to_be_visible()
    page.screenshot(path=SHOTS / "help.png")
    _client(page, url)
    _review(page, url)
    page.goto(url)
    page.get_by_role("link", name="Open Dan", exact=True).hover()
    page.wait_for_timeout(600)
    page.screenshot(path=SHOTS / "wall.png")


def _natural(page: Page, url: str) -> None:
    """The natural check of a portrait that went too far, with its places, and the thread it went along."""
    _open(page, url, "Eli")
    page.get_by_role("navigation", name="Stages").get_by_role("button", name="Look").click()
    page.get_by_role("button", name="Pass", exact=True).click()
    page.locator(".dropdown-menu.show").get_by_role("button", name="Light", exact=True).click()
    number = page.get_by_role("textbox", name="Exposure, number")
    number.fill("0.6")
    number.press("Enter")
    expect(page.get_by_role("status")).to_have_text("Saved")
    page.get_by_role("button", name="Natural?").click()
    beyond = page.get_by_role("list", name="Beyond the limits")
    expect(beyond.get_by_role("listitem").first).to_be_visible(timeout=60_000)
    page.get_by_role("button", name=re.compile("^Since when")).first.click()
    expect(page.get_by_text(re.compile("^(Since step|Beyond from)"))).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="Thread", exact=True).click()
    page.mouse.move(640, 700)
    page.wait_for_timeout(2500)
    page.screenshot(path=SHOTS / "natural.png")
    page.get_by_role("button", name="Close the thread").click()


def _client(page: Page, url: str) -> None:
    """What a client sees: the way between both pictures, and a pin with its words."""
    page.goto(url)
    for name in ("Eli", "Dan", "Ana"):
        page.get_by_label(f"Pick {name}", exact=True).check()
    page.get_by_role("button", name="Show to a client…").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Title that the client reads").fill("Three portraits for you")
    dialog.get_by_role("button", name="Make the link").click()
    address = dialog.get_by_role("textbox", name="Address for the client").input_value()
    page.goto(address)
    page.get_by_role("button", name="Set a pin").click(timeout=60_000)
    box = page.get_by_role("img", name=re.compile("retouched$")).bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + 0.62 * box["width"], box["y"] + 0.42 * box["height"])
    page.get_by_label("Keep this as it is").check()
    page.get_by_label("In your words").fill("I like these lines")
    page.get_by_role("button", name="Set the pin").click()
    page.get_by_role("button", name="Wipe").click()
    page.wait_for_timeout(2500)
    page.evaluate("window.scrollTo(0, 0)")
    page.screenshot(path=SHOTS / "client.png")


def _review(page: Page, url: str) -> None:
    """A session, a run over it, and its results to look through."""
    page.goto(url)
    page.get_by_role("button", name="New session").click()
    page.get_by_label("Name of the new session").fill("Monday, studio two")
    page.keyboard.press("Enter")
    sessions = page.get_by_role("navigation", name="Sessions")
    expect(sessions.get_by_role("button", name="Monday, studio two (0)")).to_be_visible()
    sessions.get_by_role("button", name="All", exact=True).click()
    for name in ("Ana", "Kofi", "Ivo", "Hana", "Lia", "Dan"):
        page.get_by_label(f"Pick {name}", exact=True).check()
    picked = page.get_by_role("region", name="Picked portraits")
    picked.get_by_role("button", name="Move to").click()
    page.get_by_role("button", name="Monday, studio two", exact=True).click()
    expect(sessions.get_by_role("button", name="Monday, studio two (6)")).to_be_visible()
    picked.get_by_role("button", name="Run a routine…").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name", exact=True).fill("Monday, first round")
    dialog.get_by_role("button", name="Start").click()
    expect(page.get_by_label("Progress", exact=True)).to_contain_text(
        "6 of 6 done", timeout=240_000
    )
    result = page.get_by_role("list", name="Results").get_by_role("listitem").nth(1)
    result.get_by_role("button", name=re.compile("^Accept")).click()
    box = result.locator(".mg-tile-picture").bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 0.45 * box["width"], box["y"] + 90)
    page.wait_for_timeout(1500)
    page.screenshot(path=SHOTS / "review.png")


def main() -> None:
    SHOTS.mkdir(parents=True, exist_ok=True)
    with (
        tempfile.TemporaryDirectory() as folder,
        sync_playwright() as playwright,
        server(Path(folder), _LOAD) as url,
    ):
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        _take(page, url)
        browser.close()
    for path in sorted(SHOTS.glob("*.png")):
        print(os.path.relpath(path, ROOT))


if __name__ == "__main__":
    main()
