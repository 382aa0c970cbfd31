"""Broken files by the thousand: ``python -m retouch.tests.fuzz [--count N] [--seed S]``; not a part of the tests.

Whole files of each format are changed at random: bits turned, bytes set to extremes, parts cut out,
doubled or exchanged. Each is read in a process of its own making, so that a crash of a decoder is seen.
What fails is written to ``fuzz-failures/``; what was mended lies in ``retouch/tests/corpus`` and is a test.
"""

from __future__ import annotations

import argparse
import multiprocessing
import random
import resource
import sys
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path

import numpy as np

from retouch.errors import RetouchError
from retouch.picture import Output, Picture, encode, read_bytes
from retouch.picture.profile import srgb

_ROOT = Path(__file__).resolve().parents[2]
_LONGEST_S, _MEMORY = 20.0, 3 << 30
_EXTREMES = (0, 1, 0x7F, 0x80, 0xFE, 0xFF)


def seeds() -> Iterator[tuple[str, bytes]]:
    """Whole small files of each format that is read, by name."""
    rng = np.random.default_rng(3)
    pixels = rng.integers(0, 255, (48, 64, 3), np.uint8)
    picture = Picture(pixels, icc=srgb())
    deep = Picture((pixels.astype(np.uint16) << 8) | pixels, icc=srgb())
    for form in ("jpeg", "png", "tiff", "webp", "avif", "jxl"):
        yield form, encode(picture, Output(form))  # type: ignore[arg-type]
    for packing in ("deflate", "lzw", "zstd"):
        yield f"tiff {packing}", encode(deep, Output("tiff", packing=packing))  # type: ignore[arg-type]
    yield "png 16", encode(deep, Output("png"))
    yield "raw", (_ROOT / "demo" / "portraits" / "kofi-raw.dng").read_bytes()


def changed(data: bytes, rng: random.Random) -> bytes:
    """A file with a few of its bytes or parts changed; more often near its beginning, where sizes stand."""
    out = bytearray(data)
    for _ in range(rng.choice((1, 1, 2, 4, 16))):
        if not out:
            break
        reach = len(out) if rng.random() < 0.5 else min(len(out), 512)
        at, size = rng.randrange(reach), rng.randint(1, 40)
        what = rng.randrange(6)
        if what == 0:
            out[at] ^= 1 << rng.randrange(8)
        elif what == 1:
            out[at] = rng.choice(_EXTREMES)
        elif what == 2:
            del out[at : at + size]
        elif what == 3:
            out[at:at] = out[at : at + size]
        elif what == 4:
            out[at : at + 4] = rng.choice(
                (b"\xff" * 4, b"\0" * 4, b"\x7f\xff\xff\xff", b"\0\0\0\x80")
            )
        else:
            del out[rng.randrange(reach) :]
    return bytes(out)


def judged(data: bytes) -> str:
    """What is wrong with how a file is read; empty where it is read, or refused in words."""
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY, _MEMORY))
    start = time.monotonic()
    try:
        picture = read_bytes(data)
        _ = picture.space
    except RetouchError:
        pass
    except MemoryError:
        return "more memory than a small file may take"
    except Exception as error:
        return f"{type(error).__name__}: {error}"
    spent = time.monotonic() - start
    return f"{spent:.0f} s" if spent > _LONGEST_S else ""


def main() -> int:
    """Run for so many files; the exit status tells whether something fell."""
    parser = argparse.ArgumentParser(prog="fuzz", description=__doc__.splitlines()[0])
    parser.add_argument("--count", type=int, default=3000)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    rng = random.Random(options.seed)
    whole = list(seeds())
    context = multiprocessing.get_context("spawn")
    pool = ProcessPoolExecutor(1, context)
    failed = 0
    for n in range(options.count):
        name, data = whole[n % len(whole)]
        made = changed(data, rng)
        try:
            wrong = pool.submit(judged, made).result(10 * _LONGEST_S)
        except BrokenProcessPool:
            wrong, pool = "the reader crashed", ProcessPoolExecutor(1, context)
        except TimeoutError:
            wrong = "it never ended"
            for process in pool._processes.values():
                process.kill()
            pool = ProcessPoolExecutor(1, context)
        if wrong:
            failed += 1
            folder = Path("fuzz-failures")
            folder.mkdir(exist_ok=True)
            (folder / f"{options.seed}-{n}").write_bytes(made)
            print(f"{name}, file {n}: {wrong}", flush=True)
    print(f"{options.count} files, {failed} failed")
    pool.shutdown()
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
