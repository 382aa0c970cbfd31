"""What a worker is told about one picture, and what it gives back: plain data that goes over any wire."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from typing import Any

from retouch.errors import EditError, PictureError, RetouchError
from retouch.face.analysis import VERSION as ANALYSIS_VERSION

# Counts changes of what orders hold, and with it the analyses that belong to this core.
VERSION = f"1.{ANALYSIS_VERSION}"


class Mismatch(RetouchError):
    """A worker of another version."""


@dataclass(frozen=True)
class Deliver:
    """A file to write: where, and how (fields of `Output` and `Outcome`, as plain data)."""

    path: str
    output: dict[str, Any]
    outcome: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Order:
    """One picture to retouch.

    Parameters
    ----------
    key : str
        The picture's name among those of its run.
    original : str
        Path of the file on storage that the worker sees.
    content : str
        SHA-256 that the file has to have; "": whatever it has.
    data : bytes, optional
        The file itself, for workers without that storage.
    edit : mapping, optional
        An edit to begin with, as plain data.
    routine : mapping, optional
        A routine as plain data; None: nothing is added to the edit.
    strength : float, optional
        The one strength of the routine's passes, per cent; None: they stand by themselves.
    spots_from : float, optional
        From so much confidence on marks are healed, instead of as the routine says.
    analysis : str
        Path where the analysis of the faces is or is to be kept; "": nowhere.
    known : tuple of mappings
        Faces of the session's other pictures with decisions about their marks (`retouch.work.travelling`).
    deliver : tuple of Deliver
        Files to write from the result.
    carried : bool
        Whether files and the analysis come back in the answer instead of being written.
    told : str
        Path of the file in which the worker notes how far it is (`telling.teller`); "": nowhere.
    """

    key: str
    original: str
    content: str = ""
    data: bytes | None = None
    edit: dict[str, Any] | None = None
    routine: dict[str, Any] | None = None
    strength: float | None = None
    spots_from: float | None = None
    analysis: str = ""
    known: tuple[dict[str, Any], ...] = ()
    deliver: tuple[Deliver, ...] = ()
    carried: bool = False
    told: str = ""
    version: str = VERSION

    def check(self) -> None:
        """`Mismatch` where it is of another version than this core."""
        if self.version != VERSION:
            raise Mismatch(
                f"This worker is of version {VERSION}, the order of {self.version}: "
                "all machines need the same version."
            )

    def checked(self, data: bytes) -> bytes:
        """The bytes of the original, if they are those that are meant."""
        if self.content and hashlib.sha256(data).hexdigest() != self.content:
            raise PictureError("The original has changed since it was taken in.")
        return data


@dataclass(frozen=True)
class Made:
    """What became of a picture.

    Attributes
    ----------
    edit : mapping
        The whole edit, as plain data.
    label : str
        What was done, in words.
    note : str
        What needs eyes, in words; "": nothing special.
    faces, asked, healed : int
        Faces found, marks that are still asked about, spots healed.
    texture : float, optional
        The least part of skin's texture that is left in a zone, per cent.
    colour : float, optional
        The most that a zone's colour has moved, CIEDE2000.
    beyond : tuple of str
        What the natural check tells beyond its limits, in words; grain is told by ``texture``.
    seconds : mapping
        How long each part took.
    files : tuple of (path, size, bytes or None)
        Files that were written, or that are carried.
    analysis : bytes
        The analysis, where it is carried.
    """

    key: str
    edit: dict[str, Any]
    label: str
    note: str = ""
    faces: int = 0
    asked: int = 0
    healed: int = 0
    texture: float | None = None
    colour: float | None = None
    beyond: tuple[str, ...] = ()
    seconds: dict[str, float] = field(default_factory=dict)
    files: tuple[tuple[str, int, bytes | None], ...] = ()
    analysis: bytes = b""

    @property
    def worry(self) -> float:
        """How much it needs eyes, for sorting: the higher the sooner.

        Nobody found first, then what the natural check tells, what lost most texture or moved its colour most, then open marks.
        """
        texture = max(0.0, 100 - self.texture) if self.texture is not None else 0.0
        return (
            (1000.0 if self.note else 0.0) + (500.0 if not self.faces else 0.0)
            + 100 * len(self.beyond) + 2 * texture + 5 * (self.colour or 0.0) + min(self.asked, 40)
        )  # fmt: skip


def in_words(error: BaseException) -> str:
    """Why a picture failed, for who isn't a programmer."""
    if isinstance(error, (RetouchError, EditError)):
        return str(error)[:500]
    if isinstance(error, MemoryError):
        return "There isn't enough memory for this picture."
    if isinstance(error, FileNotFoundError):
        return "The file is gone."
    if isinstance(error, OSError):
        return f"A file couldn't be read or written: {error.strerror or error}."[:500]
    return "It couldn't be retouched; the program's log says more."
