"""The secret key: made on first start, kept beside the data and outside of git."""

from __future__ import annotations

import os
import secrets
from contextlib import suppress
from pathlib import Path

# A key that is shorter was cut off.
_LEAST = 64


def secret_key(folder: Path) -> str:
    """Read the key from ``folder``, or make one there (readable by its owner only)."""
    path = folder / "secret-key"
    known = _read(path)
    if known:
        return known
    folder.mkdir(parents=True, exist_ok=True)
    # Whole or not at all: written beside it, then put in its place, unless another process was first.
    beside = folder / f"secret-key.{os.getpid()}.{secrets.token_hex(4)}"
    handle = os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    try:
        with os.fdopen(handle, "w") as file:
            file.write(secrets.token_urlsafe(64))
            file.flush()
            os.fsync(file.fileno())
        if path.exists():
            # Cut short by something: nobody's sessions can be read with it.
            os.replace(beside, path)
        else:
            with suppress(FileExistsError):
                os.link(beside, path)
    finally:
        beside.unlink(missing_ok=True)
    return _read(path)


def _read(path: Path) -> str:
    """The key in a file; empty where there is none, or not a whole one."""
    try:
        key = path.read_text().strip()
    except FileNotFoundError:
        return ""
    return key if len(key) >= _LEAST else ""
