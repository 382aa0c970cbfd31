"""The command ``faces``: its options. What it does is imported once they are understood."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Sequence
from pathlib import Path

from retouch.cli.loading import loading
from retouch.errors import EditError, RetouchError

EXIT_OK, EXIT_BAD_INPUT = 0, 1


def build_parser() -> argparse.ArgumentParser:
    """The parser of `./run faces`."""
    parser = argparse.ArgumentParser(
        prog="faces",
        description="Tell what is found about the faces of photographs.",
        epilog="exit status: 0 done, 1 a photo can't be used (the others are), 2 the command is wrong.",
        allow_abbrev=False,
    )
    parser.add_argument(
        "photos",
        metavar="PHOTO",
        nargs="+",
        help="JPEG, PNG, TIFF, WebP, HEIC, AVIF, JPEG XL or raw",
    )
    parser.add_argument(
        "--json", action="store_true", help="print one JSON object a photo, a line each"
    )
    parser.add_argument(
        "--overlay", metavar="DIR", help="write a picture with zones as tints, and marks as rings"
    )
    parser.add_argument(
        "--zones", metavar="DIR",
        help="write a grey PNG for each zone, of the photo's size; of several photos into a folder each",
    )  # fmt: skip
    parser.add_argument(
        "--sensitivity", type=float, default=50.0, metavar="0..100",
        help="how unsure marks may be (default 50)",
    )  # fmt: skip
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command; returns the exit status, prints one plain line for each photo that fails."""
    options = build_parser().parse_args(argv)
    status = EXIT_OK
    try:
        _check(options)
    except RetouchError as error:
        print(f"faces: {error}", file=sys.stderr)
        return EXIT_BAD_INPUT
    with loading():
        from retouch.cli.looking import told

    for photo in options.photos:
        try:
            _tell(told(photo, several=len(options.photos) > 1, options=options))
        except RetouchError as error:
            print(f"faces: {photo}: {error}", file=sys.stderr)
            status = EXIT_BAD_INPUT
        except MemoryError:
            print(f"faces: {photo}: There is not enough memory for this picture.", file=sys.stderr)
            status = EXIT_BAD_INPUT
    return status


def _tell(text: str) -> None:
    try:
        print(text, flush=True)
    except BrokenPipeError:
        # Whoever read has read enough; the files are still written.
        sys.stdout = open(os.devnull, "w", encoding="utf-8")  # noqa: SIM115  # to the end


def _check(options: argparse.Namespace) -> None:
    if not 0 <= options.sensitivity <= 100:
        raise EditError("--sensitivity has to lie between 0 and 100.")
    stems = [Path(photo).stem for photo in options.photos]
    twice = next((s for s in stems if stems.count(s) > 1), None)
    if twice is not None and (options.overlay or options.zones):
        raise EditError(f"Two photos are called {twice!r}: their files would be the same.")


if __name__ == "__main__":
    sys.exit(main())
