"""The command line: render an edit, or heal given spots, without the web application."""

from __future__ import annotations

import argparse
import json
import math
import sys
from collections.abc import Sequence

from retouch.edit import Edit, Pass, Touch
from retouch.edit.form import dumps, loads, schema
from retouch.errors import EditError, RetouchError
from retouch.heal.order import outside_in
from retouch.passes import registry
from retouch.passes.settings import check_all
from retouch.picture import Output, Pyramid, format_of, read, write
from retouch.render import Renderer, in_srgb, propose_source, render_whole, resized

EXIT_OK, EXIT_BAD_INPUT, EXIT_BAD_USE = 0, 1, 2

_EPILOG = """\
Each --heal is a round brush in pixels of the upright picture: centre x, centre y (x right, y down,
pixel centres at +0.5) and radius. The brush should cover the whole spot, halo included; its source
is chosen automatically. Given spots are healed from the outside of a crowded area inwards.

exit status: 0 done, 1 the picture or the edit can't be used, 2 the command is wrong.
"""


def build_parser() -> argparse.ArgumentParser:
    """The parser of `./run render` (``python -m retouch``)."""
    parser = argparse.ArgumentParser(
        prog="render",
        description="Render a portrait with its corrections.",
        epilog=_EPILOG,
        formatter_class=argparse.RawDescriptionHelpFormatter,
        allow_abbrev=False,
    )
    parser.add_argument("photo", metavar="PHOTO", help="JPEG, PNG, TIFF or WebP, 8 or 16 bit")
    parser.add_argument("--out", required=True, metavar="RESULT", help="ends in .jpg, .png or .tif")
    parser.add_argument(
        "--edit", metavar="EDIT.json", help="an edit (docs/formats/edit.schema.json)"
    )
    parser.add_argument(
        "--heal", metavar="X,Y,R", action="append", default=[], help="heal this spot; repeatable"
    )
    parser.add_argument(
        "--softness", type=float, default=20.0, metavar="PERCENT",
        help="how much of the brush's radius fades, for --heal (default 20)",
    )  # fmt: skip
    parser.add_argument(
        "--save-edit", metavar="FILE", help="write the edit with its chosen sources as JSON"
    )
    parser.add_argument("--quality", type=int, default=95, help="JPEG quality 1..100 (default 95)")
    parser.add_argument(
        "--subsampling", choices=["4:4:4", "4:2:2", "4:2:0"], default="4:4:4",
        help="JPEG chroma subsampling (default 4:4:4)",
    )  # fmt: skip
    parser.add_argument(
        "--bits", type=int, choices=[8, 16], help="bits per channel of PNG and TIFF (default: kept)"
    )
    parser.add_argument(
        "--long-side", type=int, metavar="PIXELS", help="reduce the result to this longer side"
    )
    parser.add_argument(
        "--profile", choices=["keep", "srgb"], default="keep",
        help="keep the colour profile or convert to sRGB (default keep)",
    )  # fmt: skip
    parser.add_argument("--strip", action="store_true", help="leave the metadata (EXIF) out")
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command; returns the exit status, prints one plain line on errors."""
    options = build_parser().parse_args(argv)
    try:
        _run(options)
    except RetouchError as error:
        print(f"render: {error}", file=sys.stderr)
        return EXIT_BAD_INPUT
    except MemoryError:
        print("render: There is not enough memory for this picture.", file=sys.stderr)
        return EXIT_BAD_INPUT
    return EXIT_OK


def _run(options: argparse.Namespace) -> None:
    output = Output(
        format_of(options.out), options.quality, options.subsampling, options.bits,
        keep_metadata=not options.strip,
    )  # fmt: skip
    if options.long_side is not None and options.long_side < 16:
        raise EditError("--long-side has to be 16 pixels or more.")
    spots = [_spot(text) for text in options.heal]
    edit = _read_edit(options.edit) if options.edit else Edit()
    picture = read(options.photo)
    renderer = Renderer(Pyramid(picture))
    edit = _with_sources(renderer, edit)
    if spots:
        edit = heal_spots(renderer, edit, spots, options.softness)
    result = render_whole(renderer, edit)
    if options.profile == "srgb":
        result = in_srgb(result)
    if options.long_side is not None:
        result = resized(result, options.long_side)
    write(result, options.out, output)
    if options.save_edit:
        try:
            with open(options.save_edit, "w", encoding="utf-8") as file:
                file.write(dumps(edit) + "\n")
        except OSError as error:
            raise EditError(f"The edit can't be saved: {error.strerror}.") from None


def _spot(text: str) -> tuple[float, float, float]:
    try:
        x, y, r = (float(part) for part in text.split(","))
    except ValueError:
        raise EditError(f"--heal wants three numbers X,Y,R, not {text!r}.") from None
    if not all(math.isfinite(v) for v in (x, y, r)):
        raise EditError(f"--heal wants finite numbers, not {text!r}.")
    return x, y, r


def _read_edit(path: str) -> Edit:
    try:
        with open(path, encoding="utf-8") as file:
            return loads(file.read())
    except FileNotFoundError:
        raise EditError(f"There is no file {path!r}.") from None
    except (OSError, UnicodeDecodeError):
        raise EditError(f"{path!r} can't be read as a text file.") from None


def _with_sources(renderer: Renderer, edit: Edit) -> Edit:
    """The edit with a source for every touch that has none yet, in order."""
    done: list[Pass] = []
    for one in edit.passes:
        current = Pass(**{**one.__dict__, "touches": ()})
        for touch in one.touches:
            current = _add(renderer, Edit((*done, current)), current, touch)
        done.append(current)
    return Edit(tuple(done))


def _add(renderer: Renderer, edit: Edit, one: Pass, touch: Touch) -> Pass:
    if touch.source is None:
        found = propose_source(renderer, edit, one.id, touch, 1)
        if not found:
            raise EditError(f"Touch {touch.id!r} lies where no source can be found for it.")
        touch = Touch(touch.id, touch.path, touch.values, found[0])
    return Pass(**{**one.__dict__, "touches": (*one.touches, touch)})


def heal_spots(
    renderer: Renderer, edit: Edit, spots: list[tuple[float, float, float]], softness: float
) -> Edit:
    """The edit with one more pass that heals the spots (x, y, radius), sources chosen."""
    kind = registry.kind("heal")
    assert kind.touches is not None
    taken = {p.id for p in edit.passes} | {t.id for p in edit.passes for t in p.touches}
    ident = next(f"heal-{n}" for n in range(1, len(taken) + 2) if f"heal-{n}" not in taken)
    bounds = renderer.bounds
    one = Pass(ident, "heal", "Spots", check_all(kind.settings, {}, "heal"))
    for n in outside_in(spots):
        x, y, r = spots[n]
        where = f"--heal {x:g},{y:g},{r:g}"
        values = check_all(kind.touches.settings, {"radius_px": r, "softness": softness}, where)
        touch = Touch(f"{ident}-{n + 1}", ((x, y),), values)
        if kind.touches.writes(touch, bounds).empty:
            raise EditError(
                f"{where} lies outside of the picture ({bounds.width} x {bounds.height})."
            )
        one = _add(renderer, Edit((*edit.passes, one)), one, touch)
    return Edit((*edit.passes, one))


def print_schema() -> None:
    """Print the JSON Schema of edits."""
    print(json.dumps(schema(), indent=1))
