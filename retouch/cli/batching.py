"""What ``batch`` does: files become orders, results and failures are told and noted."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

from tqdm import tqdm

from retouch.edit.routine import Routine
from retouch.errors import EditError, RetouchError
from retouch.forms.routines import routine_loads, routine_to_data
from retouch.picture.write import save
from retouch.runs.folder import arriving, photographs
from retouch.runs.journal import Journal
from retouch.runs.orders import Made, Order, in_words
from retouch.runs.presets import Preset, preset
from retouch.runs.work import content_of
from retouch.runs.workers import crew_of, work_through
from retouch.work.ready import ready_routines, routine


def run(options: argparse.Namespace) -> bool:
    """Carry out the command; whether all is done. Raises `RetouchError` with a plain sentence."""
    folder, out = Path(options.folder), Path(options.out).resolve()
    if not folder.is_dir():
        raise EditError(f"There is no folder {options.folder!r}.")
    if out == folder.resolve():
        raise EditError("Results need a folder of their own: originals stay as they are.")
    one = _routine(options.routine)
    files = _presets(options.deliver or one.deliveries or ("full",))
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise EditError(f"{options.out!r} can't be made: {error.strerror}.") from None
    meant = json.dumps(
        [routine_to_data(one), options.strength, [f.key for f in files.values()]], sort_keys=True
    )
    journal = Journal(out, meant, options.resume)
    try:
        return _Batch(options, folder, out, one, files, journal).go()
    finally:
        journal.close()


def _routine(name: str) -> Routine:
    known = routine(name)
    if known is not None:
        return known
    path = Path(name)
    if not path.is_file():
        names = ", ".join(r.name for r in ready_routines())
        raise EditError(f"There is no routine called {name!r}. There are {names}, or a file.")
    one, left = routine_loads(path.read_bytes())
    if left:
        raise EditError(f"{name!r} can't be used whole: {' '.join(left)}")
    return one


def _presets(names: Sequence[str]) -> dict[str, Preset]:
    """The presets, by what tells their files apart: nothing where there is one."""
    if len(names) == 1:
        return {"": preset(names[0])}
    found = {f" {Path(name).stem}": preset(name) for name in names}
    if len(found) < len(names):
        raise EditError("Two presets of one name would write the same files.")
    return found


class _Batch:
    def __init__(
        self, options: argparse.Namespace, folder: Path, out: Path, one: Routine,
        files: dict[str, Preset], journal: Journal,
    ) -> None:  # fmt: skip
        self._options, self._folder, self._out = options, folder, out
        self._routine, self._files, self._journal = routine_to_data(one), files, journal
        self._failed = self._done = self._skipped = 0
        self._taken: set[str] = set()
        self._bar: tqdm[Any] | None = None

    def go(self) -> bool:
        found, others = photographs(self._folder, self._out)
        watch = self._options.watch
        if not found and not watch:
            raise EditError("There is no photograph in this folder.")
        if others:
            self._say(f"{others} other file{'s' if others > 1 else ''} left alone")
        crew = crew_of(self._options.scheduler, self._options.workers)
        if sys.stderr.isatty() and not self._options.json:
            self._bar = tqdm(total=None if watch else len(found), unit="portrait", file=sys.stderr)
        try:
            paths: Iterator[Path | None] = (
                arriving(self._folder, self._out, lambda: False) if watch else iter(found)
            )
            work_through(crew, self._orders(paths), self._ended, begun=self._begun)
        finally:
            crew.close()
            if self._bar is not None:
                self._bar.close()
        if self._options.json:
            told = {
                "done": self._done,
                "failed": self._failed,
                "before": self._skipped,
                "others": others,
            }
            print(json.dumps(told), flush=True)
        self._say(f"{self._done} done, {self._failed} failed, {self._skipped} done before")
        return self._failed == 0

    def _orders(self, paths: Iterator[Path | None]) -> Iterator[Order | None]:
        for path in paths:
            if path is None:
                yield None
                continue
            name = path.relative_to(self._folder).as_posix()
            try:
                content = content_of(path)
            except OSError as error:
                self._note(name, "", error)
                continue
            if self._journal.done(name, content):
                self._skipped += 1
                self._step()
                continue
            stem = self._stem(path.relative_to(self._folder))
            wire = bool(self._options.scheduler)
            yield Order(
                name, str(path), content, path.read_bytes() if wire else None,
                routine=self._routine, strength=self._options.strength,
                deliver=tuple(
                    one.to(stem.with_name(stem.name + mark)) for mark, one in self._files.items()
                ),
                carried=wire,
            )  # fmt: skip

    def _stem(self, relative: Path) -> Path:
        """The result's path without its ending; two pictures of one name get two."""
        stem, n = relative.with_suffix(""), 2
        made = stem
        # The same picture that comes again replaces its result.
        while (key := f"{made.as_posix().casefold()}") in self._taken:
            made, n = stem.with_name(f"{stem.name} {n}"), n + 1
        if not self._options.watch:
            self._taken.add(key)
        return self._out / made

    def _begun(self, order: Order) -> None:
        self._journal.begin(order.key, order.content, [d.path for d in order.deliver])

    def _ended(self, order: Order, result: Made | BaseException) -> None:
        if isinstance(result, BaseException):
            self._note(order.key, order.content, result)
            return
        try:
            for path, _, data in result.files:
                if data is not None:
                    Path(path).parent.mkdir(parents=True, exist_ok=True)
                    save(data, path)
            if self._options.save_edits:
                edit = (json.dumps(result.edit, indent=1) + "\n").encode()
                save(edit, Path(order.deliver[0].path).with_suffix(".edit.json"))
        except (OSError, RetouchError) as error:
            self._note(order.key, order.content, error)
            return
        self._done += 1
        told = {
            "files": [f[0] for f in result.files], "label": result.label, "note": result.note,
            "faces": result.faces, "healed": result.healed, "asked": result.asked,
            "texture": result.texture, "colour": result.colour, "seconds": result.seconds,
        }  # fmt: skip
        self._journal.end(order.key, order.content, "done", **told)
        self._tell(
            {"file": order.key, "state": "done", **told},
            f"{order.key}: {result.note or result.label}",
        )

    def _note(self, name: str, content: str, error: BaseException) -> None:
        """A picture that failed; the others go on."""
        self._failed += 1
        why = in_words(error)
        self._journal.end(name, content, "failed", message=why)
        self._tell({"file": name, "state": "failed", "message": why}, f"{name}: {why}")

    def _tell(self, line: dict[str, Any], words: str) -> None:
        if self._options.json:
            print(json.dumps(line), flush=True)
        else:
            self._say(words)
        self._step()

    def _step(self) -> None:
        if self._bar is not None:
            self._bar.update()

    def _say(self, words: str) -> None:
        if self._options.json:
            return
        if self._bar is not None:
            self._bar.write(words, file=sys.stderr)
        else:
            print(words, file=sys.stderr, flush=True)
