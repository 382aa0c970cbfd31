"""The secret key: made on first start, kept beside the data and outside of git."""

from __future__ import annotations

import os
import secrets
from pathlib import Path


def secret_key(folder: Path) -> str:
    """Read the key from ``folder``, or make one there (readable by its owner only)."""
    path = folder / "secret-key"
    try:
        return path.read_text().strip()
    except FileNotFoundError:
        pass
    folder.mkdir(parents=True, exist_ok=True)
    key = secrets.token_urlsafe(64)
    try:
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    except FileExistsError:  # another process was first
        return path.read_text().strip()
    with os.fdopen(handle, "w") as file:
        file.write(key)
    return key
