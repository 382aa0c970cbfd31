"""The command ``check``: how natural a result still is beside its original."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence

from retouch.cli.loading import loading
from retouch.errors import RetouchError

EXIT_OK, EXIT_BEYOND, EXIT_BAD_INPUT = 0, 1, 3


def build_parser() -> argparse.ArgumentParser:
    """The parser of `./run check`."""
    parser = argparse.ArgumentParser(
        prog="check",
        description="Compare a result with its original: texture, colour, light, edges, codes.",
        epilog="exit status: 0 all within limits, 1 something is beyond, 2 the command is wrong, 3 a file can't be used.",
        allow_abbrev=False,
    )
    parser.add_argument("original", metavar="ORIGINAL")
    parser.add_argument(
        "result",
        metavar="RESULT",
        help="of the same frame; another size is brought to the original's",
    )
    parser.add_argument(
        "--edit",
        metavar="EDIT.json",
        help="what was done, so that moves, marks and what was done are told too",
    )
    parser.add_argument("--json", action="store_true", help="print one JSON object")
    parser.add_argument("--pdf", metavar="FILE.pdf", help="write a sheet, too")
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command; returns the exit status."""
    options = build_parser().parse_args(argv)
    with loading():
        from retouch.cli.checking import run

    try:
        return EXIT_BEYOND if run(options) else EXIT_OK
    except RetouchError as error:
        print(f"check: {error}", file=sys.stderr)
        return EXIT_BAD_INPUT


if __name__ == "__main__":
    sys.exit(main())
