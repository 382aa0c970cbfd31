"""The natural check of a portrait: made when it is asked for, kept while nothing changes."""

from __future__ import annotations

import threading
from collections import OrderedDict

from retouch.errors import FacesMissing
from retouch.natural.check import Finding, of_edit
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, desk

_MOST = 64

_kept: OrderedDict[tuple[str, int, str], tuple[Finding, ...]] = OrderedDict()
_lock = threading.Lock()
# One at a time: views come first.
_turn = threading.Lock()


def checked(portrait: Portrait) -> tuple[Finding, ...]:
    """All readings of the portrait as it stands."""
    one = desk.open_desk(portrait)
    try:
        analysis = analysing.waited_for(portrait, one.edit, 60.0)
    except FacesMissing as error:
        raise Problem(422, "faces_missing", str(error)) from None
    key = portrait.id, portrait.revision, analysis.key if analysis is not None else ""
    with _lock:
        if key in _kept:
            return _kept[key]
    with _turn:
        found = of_edit(one.renderer, one.edit, analysis)
    with _lock:
        _kept[key] = found
        while len(_kept) > _MOST:
            _kept.popitem(last=False)
    return found
