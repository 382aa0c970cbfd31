"""``./run bench``: measure, print a table, and with --write put it into docs/benchmarks.md."""

from __future__ import annotations

import argparse
import os
import platform
from collections.abc import Mapping
from pathlib import Path

from benchmarks import (
    attacked,
    evening,
    face_variants,
    faces,
    features,
    fills,
    finishing,
    framed,
    geometry,
    healers,
    latency,
    long_day,
    mattes,
    moving,
    natural,
    people,
    running,
    scoring,
    shaping,
    sliders,
    smoothers,
    soak,
    speed,
    strands,
    stretched,
    taken_away,
)

# Radius in pixels below which a spot is small.
SMALL = 7.0
PAGE = Path(__file__).resolve().parent.parent / "docs" / "benchmarks.md"
_BEGIN, _END = "<!-- measured: begin -->", "<!-- measured: end -->"


def heal_table() -> str:
    """Tone and texture errors of every healer on every person."""
    people = [scoring.load(name) for name in scoring.PEOPLE]
    rows = {
        "untouched": healers.untouched,
        **healers.INPAINTERS,
        **healers.COPIERS,
        "**Mellow Glass**": healers.ours,
        "**Mellow Glass**, patch": healers.patch,
    }
    lines = [
        "| tone / texture | " + " | ".join(f"{p.name} ({len(p.spots)})" for p in people) + " |",
        "|---" * (len(people) + 1) + "|",
    ]
    for name, heal in rows.items():
        cells = []
        for person in people:
            tone, texture = scoring.score_all(person, heal)
            cells.append(f"{tone:.2f} / {texture:.3f}")
        lines.append(f"| {name} | " + " | ".join(cells) + " |")
        print(lines[-1], flush=True)
    return "\n".join([*lines, "", *_small_heals(rows)])


def _small_heals(rows: Mapping[str, scoring.Healer]) -> list[str]:
    """The same of small spots alone, of all people together."""
    everyone = [scoring.small_of(scoring.load(name), SMALL) for name in scoring.EVERYONE]
    with_some = [p for p in everyone if p.spots]
    count = sum(len(p.spots) for p in with_some)
    lines = [
        f"| spots with a radius below {SMALL:.0f} px, nine people ({count}) | tone | texture |",
        "|---|---|---|",
    ]
    for name, heal in rows.items():
        each = [(len(p.spots), scoring.score_all(p, heal)) for p in with_some]
        tone, texture = (sum(n * s[k] for n, s in each) / count for k in range(2))
        lines.append(f"| {name} | {tone:.2f} | {texture:.3f} |")
        print(lines[-1], flush=True)
    return lines


def fill_table() -> str:
    """Holes over four kinds of places, filled by us and by the libraries."""
    found = fills.measure()
    lines: list[str] = []
    for place in fills.PLACES:
        lines += [
            "",
            f"| {place}: tone / texture / SSIM | "
            + " | ".join(f"{s} px" for s in fills.SIZES)
            + " | time at 120 px |",
            "|---" * (len(fills.SIZES) + 2) + "|",
        ]
        for name in fills.FILLERS:
            cells = []
            for size in fills.SIZES:
                one = found.get((name, place, size))
                cells.append(f"{one[0]:.2f} / {one[1]:.3f} / {one[2]:.3f}" if one else "–")
            timed = found.get((name, place, 120))
            cells.append(f"{timed[3]:.2f} s" if timed else "–")
            lines.append(f"| {name} | " + " | ".join(cells) + " |")
    print("\n".join(lines), flush=True)
    return "\n".join(lines[1:])


def speed_table() -> str:
    """A heal of 20 px on 24 megapixels beside cv2.seamlessClone."""
    t = speed.measure()
    lines = [
        "| a spot of 20 px radius, 24 megapixels | median ms | ours / it |",
        "|---|---|---|",
        f"| **Mellow Glass**, source search included | {t['ours']:.1f} | 1 |",
        f"| cv2.seamlessClone, given source, into the cut-out patch of 160 px | {t['patch']:.1f} "
        f"| {t['ours'] / t['patch']:.2f} |",
        f"| cv2.seamlessClone, given source, into the picture | {t['picture']:.1f} "
        f"| {t['ours'] / t['picture']:.2f} |",
    ]
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


def latency_table() -> str:
    """From event to painted pixels in Chromium, with 60 and with 504 touches."""
    few, many = latency.measure(10), latency.measure(84)
    lines = [
        "| 24 megapixels, 10 passes, Chromium 1280x800 | median ms | 95 % | with 504 touches "
        "| 95 % | aim |",
        "|---|---|---|---|---|---|",
    ]
    for text, key, aim in (
        ("pointer-up of a heal to new pixels painted", "heal", 100),
        ("zoom or pan to sharp pixels", "move", 120),
    ):
        a, b = latency.median_and_95(few[key]), latency.median_and_95(many[key])
        lines.append(f"| {text} | {a[0]:.0f} | {a[1]:.0f} | {b[0]:.0f} | {b[1]:.0f} | {aim} |")
    lines.append(
        f"| longest time between two frames meanwhile | {few['frame']:.0f} | "
        f"| {many['frame']:.0f} | | |"
    )
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


def slider_table() -> str:
    """Sliders and painted masks with twelve masked passes."""
    t = sliders.measure()
    lines = [
        "| 24 megapixels, 12 passes with masks, Chromium 1280x800 | median ms | 95 % | aim |",
        "|---|---|---|---|",
    ]
    rows = [
        ("a slider moved to new pixels painted, whole picture", t["fit"], 100),
        ("the same at 1:1", t["close"], 80),
        *(
            (
                f"a stroke on a mask let go to its exact result, brush of {r} px, {text}",
                t[name][r],
                120,
            )
            for name, text in (("top", "pass on top"), ("lowest", "lowest pass, under 80 heals"))
            for r in sliders.BRUSHES
        ),
    ]
    for text, times, aim in rows:
        half, most = latency.median_and_95(times)
        lines.append(f"| {text} | {half:.0f} | {most:.0f} | {aim} |")
    lines.append(f"| longest time between two frames while painting | {t['frame']:.0f} | | |")
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


_PARTS = {
    "heal": heal_table,
    "fill": fill_table,
    "zones": faces.zone_table,
    "marks": faces.mark_table,
    "variants": face_variants.table,
    "smooth": smoothers.table,
    "even": evening.table,
    "analysis": faces.large_table,
    "speed": speed_table,
    "latency": latency_table,
    "sliders": slider_table,
    "moving": moving.table,
    "geometry": geometry.table,
    "features": features.table,
    "taken_away": taken_away.table,
    "shape": lambda: f"{shaping.table()}\n\n{stretched.table()}",
    "strands": strands.table,
    "finish": finishing.speed_table,
    "mattes": mattes.table,
    "framed": framed.table,
    "people": people.table,
    "runs": running.table,
    "long_day": long_day.table,
    "soak": soak.table,
    "attacked": attacked.table,
    "natural": natural.table,
}


def main() -> None:
    parser = argparse.ArgumentParser(prog="bench", description="Measure Mellow Glass.")
    parser.add_argument(
        "--write", action="store_true", help="put the tables into docs/benchmarks.md"
    )
    parser.add_argument("--only", choices=list(_PARTS), help="one part")
    options = parser.parse_args()
    tables = [run() for name, run in _PARTS.items() if options.only in (None, name)]
    if options.write:
        text = PAGE.read_text()
        head, tail = text.split(_BEGIN)[0], text.split(_END)[1]
        machine = f"Measured with {os.cpu_count()} cores, Python {platform.python_version()}."
        body = "\n\n".join([_BEGIN, machine, *tables, _END])
        PAGE.write_text(head + body + tail)


if __name__ == "__main__":
    main()
