"""What a run over a folder has done: lines of JSON, one for each picture, written as soon as it is done.

A stop at any moment loses no more than the line that was being written, and files are whole or not there: so a
run goes on where it was.
"""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any

from retouch.errors import EditError

NAME = "mellow-glass-run.jsonl"


class Journal:
    """The journal of a folder of results.

    Parameters
    ----------
    folder : Path
        Where results go.
    meant : str
        What is done to each picture, as text: a run goes on with the same only.
    resume : bool
        Whether to go on with what is there.

    Raises
    ------
    EditError
        Where a run is there and isn't to go on, or was another one.
    """

    def __init__(self, folder: Path, meant: str, resume: bool) -> None:
        self._path = folder / NAME
        self._begun: dict[str, dict[str, Any]] = {}
        self.ended: dict[str, dict[str, Any]] = {}
        known = self._lines() if self._path.exists() else []
        if known and not resume:
            raise EditError(
                f"A run is in {os.fspath(folder)!r} already. Go on with it by --resume, or choose another folder."
            )
        if known and known[0].get("meant") != meant:
            raise EditError("The run that is there was another one: its routine or files differ.")
        self._file = open(self._path, "a", encoding="utf-8")  # noqa: SIM115 (closed by close)
        if not known:
            self._write({"meant": meant})
        for line in known[1:]:
            place = self.ended if line.get("state") else self._begun
            place[str(line.get("file"))] = line

    def _lines(self) -> list[dict[str, Any]]:
        out = []
        for line in self._path.read_text("utf-8", "replace").splitlines():
            try:
                made = json.loads(line)
            except ValueError:
                # Cut short by a stop.
                continue
            if isinstance(made, dict):
                out.append(made)
        return out

    def begin(self, file: str, content: str, results: list[str]) -> None:
        """A picture is begun; how its results look before."""
        line = {"file": file, "content": content, "before": {r: _stamp(r) for r in results}}
        self._begun[file] = line
        self._write(line)

    def end(self, file: str, content: str, state: str, **more: Any) -> None:
        """A picture is done or failed."""
        self.ended[file] = line = {"file": file, "content": content, "state": state, **more}
        self._write(line)

    def done(self, file: str, content: str) -> bool:
        """Whether a picture of this content is done: by its line, or by its files, all written since it was begun."""
        ended = self.ended.get(file)
        if ended is not None and ended["content"] == content:
            return ended["state"] == "done"
        begun = self._begun.get(file)
        if begun is None or begun["content"] != content or not begun["before"]:
            return False
        if any(_stamp(r) in (None, was) for r, was in begun["before"].items()):
            return False
        self.end(file, content, "done", files=list(begun["before"]))
        return True

    def _write(self, line: dict[str, Any]) -> None:
        # A line that a stop cut short has no end.
        self._file.write(("" if self._whole() else "\n") + json.dumps(line) + "\n")
        self._file.flush()
        os.fsync(self._file.fileno())

    def _whole(self) -> bool:
        size = os.fstat(self._file.fileno()).st_size
        if not size:
            return True
        with open(self._path, "rb") as file:
            file.seek(size - 1)
            return file.read(1) == b"\n"

    def close(self) -> None:
        self._file.close()


def _stamp(path: str) -> int | None:
    try:
        return os.stat(path).st_mtime_ns
    except OSError:
        return None
