"""The command ``batch``: a routine over a folder. What it does is imported once its options are understood."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence

from retouch.cli.loading import loading
from retouch.cli.render import EXIT_BAD_INPUT, EXIT_OK
from retouch.errors import RetouchError

_EPILOG = """\
Results are named like their pictures; folders within the folder stay folders. What was done stands in
mellow-glass-run.jsonl among the results: with --resume a run that was stopped goes on where it was.

exit status: 0 all done, 1 something failed or can't be used, 2 the command is wrong, 130 stopped by hand.
"""
_STOPPED = 130


def build_parser() -> argparse.ArgumentParser:
    """The parser of `./run batch`."""
    parser = argparse.ArgumentParser(
        prog="batch",
        description="Retouch all portraits of a folder with a routine.",
        epilog=_EPILOG,
        formatter_class=argparse.RawDescriptionHelpFormatter,
        allow_abbrev=False,
    )
    parser.add_argument("folder", help="the folder with the portraits")
    parser.add_argument(
        "--routine",
        required=True,
        metavar="NAME|FILE",
        help="a ready routine, or one as a JSON file",
    )
    parser.add_argument("--out", required=True, metavar="DIR", help="where the results go")
    parser.add_argument(
        "--strength", type=float, metavar="PERCENT", help="one strength for the whole routine"
    )
    parser.add_argument(
        "--deliver", action="append", metavar="PRESET",
        help="full, print, web, proof, or a JSON file; repeatable (default: what the routine names, else full)",
    )  # fmt: skip
    parser.add_argument(
        "--save-edits", action="store_true", help="write each edit beside its result"
    )
    parser.add_argument(
        "--workers", type=int, metavar="N", help="processes (default: as many as fit this machine)"
    )
    parser.add_argument(
        "--scheduler", default="", metavar="ADDRESS", help="a Dask scheduler, tcp://…"
    )
    parser.add_argument("--resume", action="store_true", help="go on with the run that is there")
    parser.add_argument(
        "--watch", action="store_true", help="wait for new files, until Ctrl+C; each is done once"
    )
    parser.add_argument("--json", action="store_true", help="a line of JSON for each picture")
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command; returns the exit status."""
    parser = build_parser()
    options = parser.parse_args(argv)
    if options.workers is not None and not 1 <= options.workers <= 64:
        parser.error("--workers goes from 1 to 64.")
    if options.strength is not None and not 0 <= options.strength <= 100:
        parser.error("--strength goes from 0 to 100.")
    with loading():
        from retouch.cli.batching import run

    try:
        return EXIT_OK if run(options) else EXIT_BAD_INPUT
    except RetouchError as error:
        print(f"batch: {error}", file=sys.stderr)
        return EXIT_BAD_INPUT
    except KeyboardInterrupt:
        print("batch: stopped; --resume goes on.", file=sys.stderr)
        return _STOPPED


if __name__ == "__main__":
    sys.exit(main())
