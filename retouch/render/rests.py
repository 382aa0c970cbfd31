"""What the touches of an edit rest on: where each writes, what it reads, and its fingerprint."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from retouch.edit.model import Pass
from retouch.geometry import EMPTY, Rect, union_all
from retouch.passes import registry
from retouch.passes.ways import Values


@dataclass(frozen=True)
class _Below:
    """Of one pass, what a touch looks at: its touches, by number, and where."""

    touches: list[int]
    where: list[Rect]


@dataclass(frozen=True)
class Sameness:
    """How far two edits agree from the lowest pass up.

    ``upto`` is the first pass that differs; ``mask_only``: it does so by its mask alone.
    """

    upto: int
    mask_only: bool = False


@dataclass(frozen=True)
class Wanted:
    """What takes part in some rectangles.

    ``touches``, per pass, are those that write into its rectangle or where one of the
    ``missing`` looks: those among them that have to be made.
    """

    touches: list[set[int]]
    missing: list[tuple[int, int]]


class Rests:
    """The passes that act, with what is known of their touches.

    Parameters
    ----------
    digest : str
        Fingerprint of the picture.
    passes : list of Pass
        Those that act, with no touch that is switched off, lowest first.
    bounds : Rect
        The whole picture.
    zones : str
        Fingerprint of the zones that masks name.
    extent : callable, optional
        Where a pass without touches can act, by its number; without it, everywhere.
    before : Rests, optional
        Of another edit: what is known of passes that are the same is taken from it.
    """

    def __init__(
        self,
        digest: str,
        passes: list[Pass],
        bounds: Rect,
        zones: str,
        extent: Callable[[int], Rect] | None = None,
        before: Rests | None = None,
    ) -> None:
        self.digest = digest
        self.passes = passes
        self.bounds = bounds
        self._zones = zones
        self._extent = extent or (lambda i: bounds)
        self.kinds = [registry.kind(p.kind) for p in passes]
        known = {} if before is None or before._zones != zones else before._told()
        self.values: list[Values] = []
        self.signatures: list[str] = []
        for one, kind in zip(passes, self.kinds, strict=True):
            values, signature = known.get(id(one)) or (kind.values(one), "")
            self.values.append(values)
            self.signatures.append(signature or self._signature(len(self.signatures), one.mask.key))
        # … and with some strokes of its mask only.
        self._parts: dict[tuple[int, str], str] = {}
        self._keys: dict[tuple[int, int], str] = {}
        self._reading: dict[tuple[int, int], list[_Below]] = {}
        self._writes: list[NDArray[np.int64] | None] = [None] * len(passes)

    def _told(self) -> dict[int, tuple[Values, str]]:
        """What each pass is computed with, and its signature, by the pass itself."""
        told = zip(self.passes, self.values, self.signatures, strict=True)
        return {id(one): (values, signature) for one, values, signature in told}

    def _signature(self, i: int, mask: str) -> str:
        """Fingerprint of a pass without its touches, for a mask of that fingerprint."""
        one = self.passes[i]
        zones = self._zones if one.mask.zones else ""
        parts = [one.kind, dict(self.values[i]), mask, zones, one.share, one.blend]
        return json.dumps(parts, sort_keys=True)

    def take_over(self, before: Rests) -> Sameness:
        """What is known of equal passes and touches at the bottom, and how far they agree."""
        found = None
        for i, (old, new) in enumerate(zip(before.passes, self.passes, strict=False)):
            same = 0
            for a, b in zip(old.touches, new.touches, strict=False):
                if a is not b and a != b:
                    break
                same += 1
            alike = before.values[i] == self.values[i] and old.kind == new.kind
            for j in range(same if alike else 0):
                # What a touch looks at doesn't hang on masks and strengths below it; its key does.
                if (i, j) in before._reading:
                    self._reading[i, j] = before._reading[i, j]
                if found is None and (i, j) in before._keys:
                    self._keys[i, j] = before._keys[i, j]
            if same < max(len(old.touches), len(new.touches)):
                return found or Sameness(i)
            self._writes[i] = before._writes[i]
            if found is None and before.signatures[i] != self.signatures[i]:
                found = Sameness(i, mask_only=alike)
            if not alike:
                break
        return found or Sameness(min(len(before.passes), len(self.passes)))

    def _written(self, i: int) -> NDArray[np.int64]:
        """What each touch of a pass writes: rows of x0, y0, x1, y1."""
        known = self._writes[i]
        if known is None:
            kind = self.kinds[i].touches
            assert kind is not None
            rects = [kind.writes(t, self.bounds).as_tuple() for t in self.passes[i].touches]
            known = self._writes[i] = np.array(rects, np.int64).reshape(-1, 4)
        return known

    def writes(self, i: int) -> Rect:
        """The rectangle that all touches of a pass write into."""
        written = self._written(i)
        if not len(written):
            return EMPTY
        x0, y0 = written[:, :2].min(0).tolist()
        x1, y1 = written[:, 2:].max(0).tolist()
        return Rect(x0, y0, x1, y1)

    def meeting(self, i: int, upto: int, rects: list[Rect]) -> list[int]:
        """Which of the first ``upto`` touches of a pass write into any of the rectangles."""
        written = self._written(i)[:upto]
        found = np.zeros(len(written), np.bool_)
        for r in rects:
            found |= (
                (written[:, 0] < r.x1)
                & (written[:, 2] > r.x0)
                & (written[:, 1] < r.y1)
                & (written[:, 3] > r.y0)
            )
        return [int(j) for j in np.flatnonzero(found)]

    def reads(self, i: int, j: int) -> list[Rect]:
        """The pixels that a touch looks at."""
        kind = self.kinds[i].touches
        assert kind is not None
        return kind.reads(self.passes[i].touches[j], self.values[i], self.bounds)

    def _direct(self, i: int, j: int) -> list[_Below]:
        """What a touch looks at, per pass from its own down to the lowest."""
        known = self._reading.get((i, j))
        if known is None:
            known = self._reading[i, j] = self._looking(i, j, self.reads(i, j))
        return known

    def _looking(self, i: int, j: int, where: list[Rect]) -> list[_Below]:
        """What lies below touch ``j`` of pass ``i``, on it or the passes down to the lowest."""
        out = []
        for k in range(i, -1, -1):
            if self.kinds[k].touches is None:
                out.append(_Below([], where))
                reach = self.kinds[k].reach(self.values[k])
                where = [r.grow(reach) for r in where] if reach else where
            else:
                upto = j if k == i else len(self.passes[k].touches)
                out.append(_Below(self.meeting(k, upto, where), where))
        return out

    def below(self, i: int, j: int, done: Callable[[int, int], bool]) -> list[tuple[int, int]]:
        """All touches that a touch rests on, lowest first, without those that are done."""
        found: set[tuple[int, int]] = set()
        open_ones = [(i, j)]
        while open_ones:
            a, b = open_ones.pop()
            for k, seen in zip(range(a, -1, -1), self._direct(a, b), strict=True):
                for m in seen.touches:
                    if (k, m) not in found and not done(k, m):
                        found.add((k, m))
                        open_ones.append((k, m))
        return sorted(found)

    def wanted(self, rects: list[Rect], has: Callable[[int, int], bool]) -> Wanted:
        """The touches of the lowest passes that take part in a rectangle for each of them."""
        touches: list[set[int]] = []
        for i, rect in enumerate(rects):
            one = self.passes[i]
            found = (
                [] if self.kinds[i].touches is None else self.meeting(i, len(one.touches), [rect])
            )
            touches.append(set(found))
        open_ones = [(i, j) for i, row in enumerate(touches) for j in row if not has(i, j)]
        missing = []
        while open_ones:
            a, b = open_ones.pop()
            missing.append((a, b))
            for k, seen in zip(range(a, -1, -1), self._direct(a, b), strict=True):
                new = [m for m in seen.touches if m not in touches[k]]
                touches[k].update(new)
                open_ones += [(k, m) for m in new if not has(k, m)]
        return Wanted(touches, missing)

    def in_rows(self, i: int, touches: list[int]) -> list[list[int]]:
        """Touches of a pass in rows to be made one after the other; none in a row reads another."""
        row: dict[int, int] = {}
        out: list[list[int]] = []
        for j in touches:
            row[j] = 1 + max(
                (row[m] for m in self._direct(i, j)[0].touches if m in row), default=-1
            )
            if row[j] == len(out):
                out.append([])
            out[row[j]].append(j)
        return out

    def key(self, i: int, j: int) -> str:
        """Fingerprint of everything that can influence a touch's change."""
        known = self._keys.get((i, j))
        if known is not None:
            return known
        for k, m in self.below(i, j, lambda k, m: (k, m) in self._keys):
            self._keys[k, m] = self._fingerprint(k, m)
        key = self._keys[i, j] = self._fingerprint(i, j)
        return key

    def ground_key(self, i: int, j: int, rect: Rect) -> str:
        """Fingerprint of the picture that touch ``j`` of pass ``i`` sees in a rectangle."""
        seen = self._looking(i, j, [rect])
        for k, below in zip(range(i, -1, -1), seen, strict=True):
            for m in below.touches:
                self.key(k, m)
        return _digest([self.digest, self._all_below(i, seen)])

    def _all_below(self, i: int, seen: list[_Below]) -> list[Any]:
        """What is below a touch of pass ``i``, by fingerprints that are known.

        Passes that don't act where it looks, and painting on a mask elsewhere, leave what is there as it is.
        """
        out: list[Any] = [[self._keys[i, m] for m in seen[0].touches]]
        for k, below in zip(range(i - 1, -1, -1), seen[1:], strict=True):
            if self.kinds[k].touches is None:
                acting = self._extent(k)
                if any(r.meets(acting) for r in below.where):
                    out.append(self._near(k, union_all(below.where)))
            elif below.touches:
                out.append(self._near(k, union_all(below.where)))
                out.append([self._keys[k, m] for m in below.touches])
        return out

    def _near(self, k: int, rect: Rect) -> str:
        """The signature of a pass as far as a rectangle goes."""
        one = self.passes[k]
        mask = one.mask.key_within(rect)
        if mask == one.mask.key:
            return self.signatures[k]
        if (k, mask) not in self._parts:
            self._parts[k, mask] = self._signature(k, mask)
        return self._parts[k, mask]

    def _fingerprint(self, i: int, j: int) -> str:
        one, touch = self.passes[i], self.passes[i].touches[j]
        parts = [
            self.digest,
            one.kind,
            dict(self.values[i]),
            touch.path,
            dict(touch.values),
            touch.source,
            touch.spare,
            touch.elsewhere and [touch.elsewhere.picture, touch.elsewhere.pins],
            self._all_below(i, self._direct(i, j)),
        ]
        return _digest(parts)


def agreeing(old: list[Pass], new: list[Pass]) -> tuple[int, int]:
    """How far two rows of passes agree from the lowest up: passes, then touches of the next one."""
    for i, (a, b) in enumerate(zip(old, new, strict=False)):
        if a is b or a == b:
            continue
        same = 0
        for s, t in zip(a.touches, b.touches, strict=False):
            if s is not t and s != t:
                break
            same += 1
        return i, same if a.id == b.id else -1
    return min(len(old), len(new)), 0


def _digest(parts: list[Any]) -> str:
    text = json.dumps(parts, separators=(",", ":"))
    return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()
