"""Carrying out an order: the whole way of one picture, in any process that has this core."""

from __future__ import annotations

import hashlib
import os
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

from retouch.edit import Edit
from retouch.edit.model import Pass
from retouch.errors import EditError, PictureError
from retouch.face import Analysis, analyse, load, save
from retouch.forms.form import from_data, to_data
from retouch.forms.routines import routine_from_data
from retouch.memory import Memory
from retouch.natural import readings
from retouch.natural.check import of_run
from retouch.passes.elsewhere import pictures_of
from retouch.picture import Output, Picture, Pyramid
from retouch.picture.proof import Conversion
from retouch.picture.read import file_bytes, read_bytes
from retouch.picture.write import save as save_bytes
from retouch.render import as_passes_made, render_whole
from retouch.render.delivered import Border, Outcome, below
from retouch.render.developing import development_of
from retouch.render.layered import openraster_file
from retouch.runs.orders import Deliver, Made, Order
from retouch.runs.telling import Tell, teller
from retouch.work import Bench, Refused, perform
from retouch.work.bench import bench_for
from retouch.work.hints import hints_of
from retouch.work.marks import decided
from retouch.work.operations import ApplyRoutine
from retouch.work.travelling import known_of, with_decisions

# What one picture keeps of views while it is worked on.
_KEPT_BYTES = 200_000_000
# Refusals that leave a picture as it is: there is nothing for the routine to do on it.
_NOTHING = ("no_face", "nothing_here")


def carry_out(order: Order) -> Made:
    """Retouch one picture as ordered, telling how far it is where the order says.

    Raises
    ------
    RetouchError
        In plain words, where the picture or the order can't be used.
    """
    order.check()
    tell = teller(order.told)
    seconds: dict[str, float] = {}
    with _timed(seconds, "read"):
        raw = order.data if order.data is not None else file_bytes(Path(order.original))
        order.checked(raw)
        edit = from_data(order.edit) if order.edit is not None else Edit()
        if pictures_of(edit):
            raise EditError("This portrait takes from other pictures; a run can't carry those.")
        picture = read_bytes(raw, development_of(edit))
    with _timed(seconds, "faces"):
        tell(0.05, "Looking at the faces")
        analysis, kept = _faces(
            order, picture, edit, lambda share, doing: tell(0.05 + 0.35 * share, doing)
        )
    bench = bench_for(Pyramid(picture), analysis, Memory(_KEPT_BYTES))
    with _timed(seconds, "routine"):
        tell(0.4, "Retouching")
        edit, _ = with_decisions(edit, bench, [known_of(k) for k in order.known])
        edit, label, note = _retouched(order, edit, bench)
    made = Made(order.key, to_data(edit), label, note, len(analysis.faces), analysis=kept)
    files, whole = [], None
    with _timed(seconds, "deliver"):
        for n, one in enumerate(order.deliver):
            tell(0.45 + 0.4 * n / len(order.deliver), "Writing files")
            if whole is None and one.output.get("format") != "ora":
                # Once for all files.
                whole = render_whole(bench.renderer, edit)
            files.append(_delivered(one, edit, bench, whole, order.carried))
    with _timed(seconds, "readings"):
        tell(0.85, "Checking that it looks natural")
        made = _measured(made, edit, bench, whole)
    return replace(made, files=tuple(files), seconds=seconds)


@contextmanager
def _timed(seconds: dict[str, float], name: str) -> Iterator[None]:
    begun = time.perf_counter()
    yield
    seconds[name] = round(time.perf_counter() - begun, 3)


def _faces(order: Order, picture: Picture, edit: Edit, tell: Tell) -> tuple[Analysis, bytes]:
    """The analysis of the picture, and its file where that is carried."""
    path = Path(order.analysis) if order.analysis else None
    if path is not None and path.exists():
        try:
            return load(path), b""
        except PictureError:
            # Cut short, or of another version: made anew.
            path.unlink(missing_ok=True)
    found = analyse(picture, hints_of(edit), tell)
    if order.carried:
        with tempfile.TemporaryDirectory() as folder:
            save(found, Path(folder) / "a.npz")
            return found, (Path(folder) / "a.npz").read_bytes()
    if path is not None:
        path.parent.mkdir(parents=True, exist_ok=True)
        save(found, path)
    return found, b""


def _retouched(order: Order, edit: Edit, bench: Bench) -> tuple[Edit, str, str]:
    """The edit with the routine, what was done, and what needs eyes."""
    assert bench.analysis is not None
    note = "" if bench.analysis.faces else "No face was found."
    if order.routine is None:
        label = "As it was"
    else:
        own, left = routine_from_data(order.routine)
        if left:
            raise EditError(f"A step of the routine can't be used: {left[0]}")
        try:
            wish = ApplyRoutine(own=own, strength=order.strength, spots_from=order.spots_from)
            done = perform(edit, wish, bench)
            edit, label = done.edit, done.label
        except Refused as refusal:
            if refusal.code not in _NOTHING:
                raise
            label, note = "Nothing to do", note or str(refusal)
    if edit.needs_faces or bench.analysis.faces:
        edit = replace(edit, analysis=bench.analysis.key)
    return edit, label, note


def _measured(made: Made, edit: Edit, bench: Bench, whole: Picture | None) -> Made:
    """With readings of the result; ``whole``: the rendered picture, where there is one."""
    analysis, renderer = bench.analysis, bench.renderer
    assert analysis is not None
    result = None
    if whole is not None and as_passes_made(renderer, edit, whole):
        result = Pyramid(whole).crop
    faces = range(len(analysis.faces))
    found = [r for n in faces for r in readings(renderer, edit, analysis, n, result)]
    told = of_run(renderer, edit, analysis, result)
    return replace(
        made,
        asked=sum(d.decision == "ask" and not d.cleared for d in decided(analysis, edit)),
        healed=sum(len(p.touches) for p in edit.passes if _heals(p)),
        texture=round(min(r.texture for r in found), 1) if found else None,
        colour=round(max(r.change for r in found), 2) if found else None,
        beyond=tuple(dict.fromkeys(f.title for f in told if f.amber)),
    )


def _heals(one: Pass) -> bool:
    return one.kind == "heal"


def _delivered(
    wanted: Deliver, edit: Edit, bench: Bench, whole: Picture | None, carried: bool
) -> tuple[str, int, bytes | None]:
    output, outcome, most = output_of(wanted.output), *outcome_of(wanted.outcome)
    if output.format == "ora":
        data = openraster_file(bench.renderer, edit, outcome.of)
    else:
        assert whole is not None
        data = below(outcome.of(whole), output, most)
    if carried:
        return wanted.path, len(data), data
    os.makedirs(os.path.dirname(wanted.path) or ".", exist_ok=True)
    save_bytes(data, wanted.path)
    return wanted.path, len(data), None


def output_of(data: dict[str, Any]) -> Output:
    """An `Output` from plain data; `PictureError` where it is none."""
    try:
        return Output(**data)
    except TypeError:
        raise PictureError("This isn't a way to write a file.") from None


def outcome_of(data: dict[str, Any]) -> tuple[Outcome, int | None]:
    """An `Outcome` and the most bytes of a file, from plain data.

    ``convert`` is (profile, intent, black point), ``border`` (per cent, CIELAB).
    """
    convert, border = data.get("convert"), data.get("border")
    return Outcome(
        bool(data.get("srgb", False)), data.get("long_side"), data.get("sharpen", "none"),
        Conversion(*convert) if convert else None, data.get("megapixels"),
        Border(border[0], tuple(border[1])) if border else None,
    ), data.get("most_bytes")  # fmt: skip


def content_of(path: Path) -> str:
    """The SHA-256 of a file, read in parts."""
    digest = hashlib.sha256()
    with open(path, "rb") as file:
        while block := file.read(1 << 20):
            digest.update(block)
    return digest.hexdigest()
