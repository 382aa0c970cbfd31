"""Copies of all data while the studio is in use, and back from one."""

from __future__ import annotations

import fcntl
import hashlib
import json
import os
import shutil
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.conf import settings

from studio.errors import Problem

_DATABASE, _ABOUT, _LOCK = "mellow-glass.sqlite3", "backup.json", "lock"
_FORMAT, _VERSION = "mellow-glass-backup", 1
# Besides database and originals: what can't be made again.
_SMALL = ("secret-key", "credentials")
Tell = Callable[[str], None]


@dataclass(frozen=True)
class Told:
    """What a copy holds: portraits, files copied now, and originals that weren't there to be copied."""

    portraits: int
    copied: int
    missing: tuple[str, ...]


@contextmanager
def in_use(folder: Path) -> Iterator[None]:
    """Hold a data folder for a server; `Problem` where another one has it."""
    folder.mkdir(parents=True, exist_ok=True)
    with open(folder / _LOCK, "a") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise Problem(
                409, "in_use", f"A studio that runs already uses the data folder {folder}."
            ) from None
        yield


def backup(target: Path, tell: Tell = lambda said: None) -> Told:
    """Copy all data to a folder, which may hold an earlier copy: only new originals are copied then.

    The database is copied as of one moment (SQLite's backup), and then the originals that it names,
    which never change; each is checked by its SHA-256.

    Raises
    ------
    Problem
        In plain words: no room, a folder that can't be written, a database that is damaged.
    """
    data = Path(settings.DATA_DIR)
    target = target.resolve()
    if target == data or data in target.parents or target in data.parents:
        raise Problem(422, "bad_folder", "A backup needs a folder outside of the data folder.")
    try:
        target.mkdir(parents=True, exist_ok=True)
        target.chmod(0o700)
        part = target / f"{_DATABASE}.part"
        part.unlink(missing_ok=True)
        source = Path(str(settings.DATABASES["default"]["NAME"]))
        with closing(_looked_at(source)) as live, closing(sqlite3.connect(part)) as copy:
            live.backup(copy)
        _check(part)
        rows = _originals(part)
        tell(f"Database copied: {len(rows)} portraits")
        copied, missing = 0, []
        for ident, name, digest in rows:
            there = target / "originals" / ident / name
            if there.is_file() and _digest(there) == digest:
                continue
            here = Path(settings.ORIGINALS_DIR) / ident / name
            if not here.is_file() or _digest(here) != digest:
                missing.append(ident)
                continue
            _copy(here, there)
            copied += 1
        for name in _SMALL:
            _copy_small(data / name, target / name)
        _put(part, target / _DATABASE)
        about = {"format": _FORMAT, "version": _VERSION, "portraits": len(rows), "missing": missing}
        _write(target / _ABOUT, json.dumps(about, indent=1).encode())
    except OSError as error:
        raise Problem(
            507, "no_room", f"The backup can't be written: {error.strerror or error}."
        ) from None
    except sqlite3.Error as error:
        raise Problem(422, "damaged", f"The database can't be copied: {error}.") from None
    return Told(len(rows), copied, tuple(missing))


def restore(source: Path, replace: bool = False, tell: Tell = lambda said: None) -> Told:
    """Bring the data of a backup into the data folder, which has to be empty or to be replaced.

    All is checked before anything is put in its place. What was there is kept beside it, in
    ``before-restore``.

    Raises
    ------
    Problem
        In plain words; nothing is changed then.
    """
    data = Path(settings.DATA_DIR)
    try:
        about = json.loads((source / _ABOUT).read_text())
        known = about["format"] == _FORMAT and about["version"] == _VERSION
    except (OSError, ValueError, KeyError, TypeError):
        known = False
    if not known:
        raise Problem(422, "no_backup", f"{source} holds no backup that was finished.")
    with in_use(data):
        if (data / _DATABASE).exists() and not replace:
            raise Problem(
                409, "not_empty", "There are data in the data folder. --replace puts them aside."
            )
        try:
            _check(source / _DATABASE)
            rows = _originals(source / _DATABASE)
            missing = []
            for ident, name, digest in rows:
                path = source / "originals" / ident / name
                if not path.is_file() or _digest(path) != digest:
                    missing.append(ident)
            bad = set(missing) - set(about.get("missing", []))
            if bad:
                raise Problem(
                    422,
                    "damaged",
                    f"The backup is damaged: {len(bad)} originals are missing or changed.",
                )
            tell(f"Checked: {len(rows)} portraits")
            fresh = data / "restoring"
            shutil.rmtree(fresh, ignore_errors=True)
            for ident, name, _ in rows:
                if ident not in missing:
                    _copy(source / "originals" / ident / name, fresh / "originals" / ident / name)
            for small in _SMALL:
                _copy_small(source / small, fresh / small)
            _copy(source / _DATABASE, fresh / _DATABASE)
            _exchange(data, fresh)
        except OSError as error:
            raise Problem(
                507, "no_room", f"The data can't be written: {error.strerror or error}."
            ) from None
        except sqlite3.Error as error:
            raise Problem(422, "damaged", f"The backup's database is damaged: {error}.") from None
    return Told(len(rows), len(rows) - len(missing), tuple(missing))


def _exchange(data: Path, fresh: Path) -> None:
    """Put what was restored in the place of what was there."""
    old = data / "before-restore"
    shutil.rmtree(old, ignore_errors=True)
    old.mkdir()
    # The log of the old database belongs to it alone.
    for name in (
        _DATABASE,
        f"{_DATABASE}-wal",
        f"{_DATABASE}-shm",
        "originals",
        "analyses",
        "cache",
        *_SMALL,
    ):
        if (data / name).exists():
            os.replace(data / name, old / name)
    for path in fresh.iterdir():
        os.replace(path, data / path.name)
    fresh.rmdir()


def _looked_at(database: Path) -> sqlite3.Connection:
    return sqlite3.connect(f"{database.resolve().as_uri()}?mode=ro", uri=True)


def _originals(database: Path) -> list[tuple[str, str, str]]:
    with closing(_looked_at(database)) as copy:
        found = copy.execute("SELECT id, file_name, sha256 FROM portraits_portrait ORDER BY id")
        return [(str(a), str(b), str(c)) for a, b, c in found]


def _check(database: Path) -> None:
    with closing(sqlite3.connect(database)) as copy:
        said = copy.execute("PRAGMA integrity_check").fetchone()[0]
        if said != "ok":
            raise sqlite3.DatabaseError(str(said)[:200])
        # One file, without a log beside it.
        copy.execute("PRAGMA journal_mode=DELETE")


def _digest(path: Path) -> str:
    with open(path, "rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _copy(source: Path, target: Path) -> None:
    """A file's copy, whole or not at all."""
    target.parent.mkdir(parents=True, exist_ok=True)
    part = target.with_name(f"{target.name}.part")
    with open(source, "rb") as file, open(part, "wb") as out:
        shutil.copyfileobj(file, out, 1 << 20)
        out.flush()
        os.fsync(out.fileno())
    os.replace(part, target)


def _copy_small(source: Path, target: Path) -> None:
    if source.is_file():
        _copy(source, target)
    elif source.is_dir():
        for path in source.rglob("*"):
            if path.is_file():
                _copy(path, target / path.relative_to(source))


def _put(part: Path, target: Path) -> None:
    with open(part, "rb") as file:
        os.fsync(file.fileno())
    os.replace(part, target)


def _write(target: Path, data: bytes) -> None:
    part: Any = target.with_name(f"{target.name}.part")
    part.write_bytes(data)
    _put(part, target)
