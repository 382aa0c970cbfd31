"""What ``render`` does: an edit rendered, given spots healed, a routine applied."""

from __future__ import annotations

import argparse
import hashlib
import math
from dataclasses import replace
from pathlib import Path

from retouch.cli.outcomes import outcome_of
from retouch.cli.signing import signer_of
from retouch.compiled import get_ready
from retouch.edit import Edit, Touch
from retouch.errors import EditError, FacesMissing
from retouch.face import Analysis, analyse, load, save
from retouch.forms.form import completed_touch, dumps, loads
from retouch.heal.order import outside_in
from retouch.memory import shared
from retouch.passes import registry
from retouch.passes.elsewhere import Others
from retouch.picture import Output, Picture, Pyramid, format_of, read
from retouch.picture.read import file_bytes
from retouch.picture.write import encode
from retouch.picture.write import save as save_bytes
from retouch.processors import begin
from retouch.render import render_whole
from retouch.render.developing import development_of
from retouch.render.layered import openraster_file
from retouch.work import Bench, perform
from retouch.work.bench import bench_for, with_touches
from retouch.work.hints import hints_of
from retouch.work.looks import LOOKS, look
from retouch.work.operations import AddPass, AddTouch, ApplyLook, ApplyRoutine, NewTouch
from retouch.work.ready import ready_routines, routine
from retouch.work.sources import sourced


def run(options: argparse.Namespace) -> None:
    """Carry out the command; raises `RetouchError` with a plain sentence if it can't be."""
    output = Output(
        format_of(options.out), options.quality, options.subsampling, options.bits,
        keep_metadata=not options.strip, packing=options.packing, keep_place=options.keep_place,
    )  # fmt: skip
    if options.routine and routine(options.routine) is None:
        names = ", ".join(r.name for r in ready_routines())
        raise EditError(f"There is no routine called {options.routine!r}. There are {names}.")
    if options.look and look(options.look) is None:
        names = ", ".join(one.name for one in LOOKS)
        raise EditError(f"There is no look called {options.look!r}. There are {names}.")
    if not 0 <= options.look_strength <= 100:
        raise EditError("--look-strength goes from 0 to 100.")
    if options.bright and not options.routine:
        raise EditError("--bright goes with --routine.")
    outcome, per_inch = outcome_of(options)
    sign = signer_of(options, output.format)
    output = replace(output, per_inch=per_inch)
    begin(get_ready)
    spots = [_spot(text) for text in options.heal]
    edit = loads(_read_text(options.edit)) if options.edit else Edit()
    pyramid = Pyramid(read(options.photo, development_of(edit)))
    analysis = _faces(options, edit, pyramid.picture)
    bench = bench_for(pyramid, analysis, shared(), _others(options.others))
    if options.save_faces and analysis is not None:
        save(analysis, Path(options.save_faces))
    edit = with_sources(bench, edit)
    if spots:
        edit = heal_spots(bench, edit, spots, options.softness)
    if options.routine:
        edit = perform(edit, ApplyRoutine(options.routine, bright=options.bright), bench).edit
    if options.look:
        edit = perform(edit, ApplyLook(options.look, options.look_strength), bench).edit

    if output.format == "ora":
        save_bytes(openraster_file(bench.renderer, edit, outcome.of), options.out)
    else:
        data = encode(outcome.of(render_whole(bench.renderer, edit)), output)
        save_bytes(data if sign is None else sign(data, edit, bench), options.out)
    if options.save_edit:
        try:
            with open(options.save_edit, "w", encoding="utf-8") as file:
                file.write(dumps(edit) + "\n")
        except OSError as error:
            raise EditError(f"The edit can't be saved: {error.strerror}.") from None


def _others(paths: list[str]) -> Others:
    """Other pictures that an edit takes from, by their content."""
    found: dict[str, str] = {}
    for path in paths:
        found[hashlib.sha256(file_bytes(Path(path))).hexdigest()] = path
    opened: dict[str, Pyramid] = {}

    def other(content: str) -> Pyramid:
        if content not in found:
            raise EditError(
                f"This edit takes from another picture (SHA-256 {content[:16]}…). Give it with --with PHOTO."
            )
        if content not in opened:
            opened[content] = Pyramid(read(found[content]))
        return opened[content]

    return other


def _faces(options: argparse.Namespace, edit: Edit, picture: Picture) -> Analysis | None:
    """The analysis of the faces: given as a file, made here, or None where nothing asks for it.

    An edit that names its analysis gets that one or none, unless another is asked for.
    """
    how = options.faces
    if how == "off":
        return None
    if how not in (None, "auto"):
        return load(Path(how))
    if how is None and not (edit.needs_faces or options.routine or options.save_faces):
        return None
    found = analyse(picture, hints_of(edit), marks_later=True)
    if how is None and edit.needs_faces and edit.analysis not in ("", found.key):
        raise FacesMissing(
            "This edit was made on another analysis of the faces than the one found here. Give that "
            "with --faces FILE, or take the one found here with --faces auto."
        )
    return found


def _spot(text: str) -> tuple[float, float, float]:
    try:
        x, y, r = (float(part) for part in text.split(","))
    except ValueError:
        raise EditError(f"--heal wants three numbers X,Y,R, not {text!r}.") from None
    if not all(math.isfinite(v) for v in (x, y, r)):
        raise EditError(f"--heal wants finite numbers, not {text!r}.")
    return x, y, r


def _read_text(path: str) -> str:
    try:
        with open(path, encoding="utf-8") as file:
            return file.read()
    except FileNotFoundError:
        raise EditError(f"There is no file {path!r}.") from None
    except (OSError, UnicodeDecodeError):
        raise EditError(f"{path!r} can't be read as a text file.") from None


def with_sources(bench: Bench, edit: Edit) -> Edit:
    """The edit with a source for every touch that needs one and has none yet, in order."""
    for n, one in enumerate(edit.passes):
        for m, touch in enumerate(one.touches):
            if touch.source is None and touch.enabled:
                # What lies above it isn't asked.
                below = replace(edit.passes[n], touches=edit.passes[n].touches[:m])
                so_far = replace(edit, passes=(*edit.passes[:n], below))
                found = sourced(bench, so_far, below, touch)
                if found is not touch:
                    touches = edit.passes[n].touches
                    edit = with_touches(edit, n, (*touches[:m], found, *touches[m + 1 :]))
    return edit


def heal_spots(
    bench: Bench, edit: Edit, spots: list[tuple[float, float, float]], softness: float
) -> Edit:
    """The edit with one more pass that heals the spots (x, y, radius), sources chosen."""
    taken = {p.id for p in edit.passes} | {t.id for p in edit.passes for t in p.touches}
    ident = next(f"heal-{n}" for n in range(1, len(taken) + 2) if f"heal-{n}" not in taken)
    bounds = bench.renderer.bounds
    kind = registry.kind("heal")
    edit = AddPass(kind.name, id=ident, name="Spots").perform(edit, bench).edit
    for n in outside_in(spots):
        x, y, r = spots[n]
        where = f"--heal {x:g},{y:g},{r:g}"
        values = {"radius_px": r, "softness": softness}
        touch = completed_touch(Touch(f"{ident}-{n + 1}", ((x, y),), values), kind, where)
        if kind.touches is not None and kind.touches.writes(touch, bounds).empty:
            raise EditError(
                f"{where} lies outside of the picture ({bounds.width} x {bounds.height})."
            )
        new = NewTouch(touch.path, touch.id, touch.values)
        edit = AddTouch(kind.name, new, pass_id=ident).perform(edit, bench).edit
    return edit
