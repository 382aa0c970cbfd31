"""The command ``render``: its options. What it does is imported once they are understood."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence

from retouch.cli.loading import loading
from retouch.errors import RetouchError

EXIT_OK, EXIT_BAD_INPUT = 0, 1

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
    parser.add_argument(
        "photo",
        metavar="PHOTO",
        help="a photograph: JPEG, PNG, TIFF, WebP, HEIC, AVIF, JPEG XL or raw",
    )
    parser.add_argument(
        "--out",
        required=True,
        metavar="RESULT",
        help="ends in .jpg, .png, .tif, .webp, .avif, .jxl or .ora (OpenRaster, a layer for each pass)",
    )
    parser.add_argument(
        "--edit", metavar="EDIT.json", help="an edit (docs/formats/edit.schema.json)"
    )
    parser.add_argument(
        "--with", dest="others", metavar="PHOTO", action="append", default=[],
        help="another picture that the edit borrows from, told by its content; repeatable",
    )  # fmt: skip
    parser.add_argument(
        "--heal", metavar="X,Y,R", action="append", default=[], help="heal this spot; repeatable"
    )
    parser.add_argument(
        "--softness", type=float, default=20.0, metavar="PERCENT",
        help="how much of the brush's radius fades, for --heal (default 20)",
    )  # fmt: skip
    parser.add_argument(
        "--routine",
        metavar="NAME",
        help="apply a routine, after --heal: light, everyday, strong, bright or no-glasses",
    )
    parser.add_argument(
        "--bright", action="store_true", help="with --routine: eyes, lips and teeth, too"
    )
    parser.add_argument(
        "--look", metavar="NAME",
        help="apply a look: clean, candle, harbour, linen, silver, sepia, film or dusk",
    )  # fmt: skip
    parser.add_argument(
        "--look-strength",
        type=float,
        default=100.0,
        metavar="PERCENT",
        help="of --look (default 100)",
    )
    parser.add_argument(
        "--faces", metavar="auto|off|FILE",
        help="look at the faces (auto), don't (off), or take what was found from a file; "
        "by default they are looked at where the edit or the routine needs it",
    )  # fmt: skip
    parser.add_argument("--save-faces", metavar="FILE", help="write what was found of the faces")
    parser.add_argument(
        "--save-edit", metavar="FILE", help="write the edit with its chosen sources as JSON"
    )
    parser.add_argument(
        "--quality",
        type=int,
        default=95,
        help="quality of JPEG, WebP, AVIF and JPEG XL, 1..100 (default 95)",
    )
    parser.add_argument(
        "--subsampling", choices=["4:4:4", "4:2:2", "4:2:0"], default="4:4:4",
        help="JPEG chroma subsampling (default 4:4:4)",
    )  # fmt: skip
    parser.add_argument(
        "--bits",
        type=int,
        choices=[8, 16],
        help="bits per channel of PNG, TIFF and JPEG XL (default: kept)",
    )
    parser.add_argument(
        "--long-side", type=int, metavar="PIXELS", help="reduce the result to this longer side"
    )
    parser.add_argument(
        "--megapixels", type=float, metavar="N", help="reduce the result to so many megapixels"
    )
    parser.add_argument(
        "--print-cm", type=float, metavar="CM",
        help="reduce the result to what its longer side needs printed so long, and note its density",
    )  # fmt: skip
    parser.add_argument(
        "--per-inch", type=float, default=300.0, metavar="N",
        help="pixels per inch of --print-cm (default 300)",
    )  # fmt: skip
    parser.add_argument(
        "--border", type=float, metavar="PERCENT", help="a white border, of the longer side"
    )
    parser.add_argument(
        "--profile", default="keep", metavar="keep|srgb|display-p3|FILE",
        help="keep the colour profile, or convert to another of RGB (default keep)",
    )  # fmt: skip
    parser.add_argument(
        "--intent", choices=["perceptual", "relative", "saturation", "absolute"],
        default="relative", help="how --profile converts (default relative)",
    )  # fmt: skip
    parser.add_argument(
        "--no-black-point", action="store_true", help="--profile without black-point compensation"
    )
    parser.add_argument(
        "--packing", choices=["deflate", "lzw", "zstd"], default="deflate",
        help="how a TIFF is packed (default deflate)",
    )  # fmt: skip
    parser.add_argument(
        "--keep-place", action="store_true",
        help="keep location and serial numbers in the metadata; they are left out otherwise",
    )  # fmt: skip
    parser.add_argument(
        "--sharpen", choices=["none", "screen", "print"], default="none",
        help="sharpen what is written for its medium (default none)",
    )  # fmt: skip
    parser.add_argument(
        "--credentials", nargs=2, metavar=("CHAIN", "KEY"),
        help="sign content credentials (C2PA) with a certificate chain and its key, both PEM",
    )  # fmt: skip
    parser.add_argument(
        "--strip", action="store_true", help="leave out what camera and file say (EXIF, IPTC, XMP)"
    )
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command; returns the exit status, prints one plain line on errors."""
    options = build_parser().parse_args(argv)
    with loading():
        from retouch.cli.rendering import run

    try:
        run(options)
    except RetouchError as error:
        print(f"render: {error}", file=sys.stderr)
        return EXIT_BAD_INPUT
    except MemoryError:
        print("render: There is not enough memory for this picture.", file=sys.stderr)
        return EXIT_BAD_INPUT
    return EXIT_OK
