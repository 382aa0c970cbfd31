"""Ways to what is needed, ranked by the words that they share with the need.

Words are weighed by how few of the ways have them (inverse document frequency; K. Spärck Jones, Journal of
Documentation 28, 1972) and saturate as in BM25 (S. Robertson and H. Zaragoza, Foundations and Trends in Information
Retrieval 3, 2009), with weights by field. They are stemmed by Snowball's English stemmer (M. F. Porter).
"""

from __future__ import annotations

import difflib
import math
import re
import tomllib
from collections import Counter
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import snowballstemmer

from retouch.passes import registry

_WORDS = Path(__file__).parent / "words.toml"
# What a word counts in a title, in what people say, in a meaning, in the titles of settings.
_TITLE, _SAY, _MEANING, _SETTING = 3.0, 2.5, 1.0, 0.7
# BM25's saturation.
_K = 1.2
# A phrase that is said as a whole counts so much more for each of its words.
_PHRASE = 2.5
# A word that nobody has is taken for the one so alike, which then counts by so much.
_ALIKE, _TYPO = 0.8, 0.8
_MOST_LETTERS = 200
# Words that every need has.
_EMPTY = frozenset(
    re.findall(
        r"\w+",
        "a an the is are was were be been am i my me we our us you your he his him she her it its they them their of in on"
        " at to from for with and or so too as by this that these those there here has have had do does did can could"
        " would should want wants need needs please make makes made get gets some any very more really just not no who"
        " which how look looks looking like bit little much lot picture photo image portrait",
    )
)


@dataclass(frozen=True)
class Way:
    """Where a need is served.

    Attributes
    ----------
    go : str
        ``pass:KIND``, ``pass:KIND.SETTING``, ``hand:NAME``, ``panel:STAGE/NAME``, ``routine:NAME``, ``action:NAME``,
        ``page:PATH``.
    title, meaning, stage : str
    panel : str
        The panel, as STAGE/NAME, that is to be opened for it; empty: none.
    """

    go: str
    title: str
    meaning: str
    stage: str
    panel: str = ""


@dataclass(frozen=True)
class _Entry:
    way: Way
    weights: dict[str, float]
    phrases: tuple[frozenset[str], ...]


def ways_for(need: str, most: int = 8) -> list[Way]:
    """The ways that serve a need, the best first; none where no word of it is known.

    Parameters
    ----------
    need : str
        In plain words; what is longer than 200 letters isn't read.
    most : int
    """
    entries, rarity = _index()
    asked = _stems(need[:_MOST_LETTERS])
    words: dict[str, float] = {}
    for word in asked:
        if word in rarity:
            words[word] = 1.0
        else:
            alike = difflib.get_close_matches(word, rarity, 1, _ALIKE)
            if alike:
                words[alike[0]] = max(words.get(alike[0], 0.0), _TYPO)
    scored = [(_score(e, words, rarity), n) for n, e in enumerate(entries)]
    best = sorted((s for s in scored if s[0] > 0), key=lambda s: (-s[0], s[1]))[:most]
    return [entries[n].way for _, n in best]


def _score(entry: _Entry, words: dict[str, float], rarity: dict[str, float]) -> float:
    score = 0.0
    for word, part in words.items():
        weight = entry.weights.get(word, 0.0)
        score += part * rarity[word] * weight * (_K + 1) / (weight + _K)
    said = frozenset(words)
    for phrase in entry.phrases:
        if phrase <= said:
            score += _PHRASE * sum(rarity[w] for w in phrase) * (len(phrase) > 1 or len(said) == 1)
    return score


@cache
def _index() -> tuple[list[_Entry], dict[str, float]]:
    entries = [_entry(way, say) for way, say in _declared()]
    counts = Counter(word for e in entries for word in e.weights)
    rarity = {w: math.log(1 + (len(entries) - n + 0.5) / (n + 0.5)) for w, n in counts.items()}
    return entries, rarity


def _declared() -> list[tuple[Way, str]]:
    """All ways: those of the file, with what kinds declare of themselves, and the kinds that it doesn't name."""
    told = tomllib.loads(_WORDS.read_text("utf-8"))["way"]
    out: list[tuple[Way, str]] = []
    named = set()
    for one in told:
        what, _, name = one["go"].partition(":")
        kind = registry.find(name.partition(".")[0]) if what == "pass" else None
        if kind is not None and "." not in name:
            named.add(kind.name)
        title = one.get("title") or (kind.title if kind is not None else name)
        meaning = one.get("meaning") or (kind.meaning if kind is not None else "")
        panel = one.get("panel", name if what == "panel" else "")
        stage = one.get("stage") or (
            str(kind.stage) if kind is not None else panel.partition("/")[0]
        )
        out.append((Way(one["go"], title, meaning, stage, panel), one["say"]))
    for kind in registry.all_kinds():
        # What is done by a hand has that hand.
        if kind.name not in named and not kind.guide and kind.touches is None:
            out.append((Way(f"pass:{kind.name}", kind.title, kind.meaning, str(kind.stage)), ""))
    return out


def _entry(way: Way, say: str) -> _Entry:
    weights: dict[str, float] = {}

    def count(text: str, weight: float) -> None:
        for word in set(_stems(text)):
            weights[word] = weights.get(word, 0.0) + weight

    phrases = [p for p in say.split(",") if p.strip()]
    count(way.title, _TITLE)
    count(say, _SAY)
    count(way.meaning, _MEANING)
    what, _, name = way.go.partition(":")
    kind = registry.find(name) if what == "pass" else None
    if kind is not None:
        count(" ".join(s.title for s in kind.settings), _SETTING)
    whole = (frozenset(_stems(p)) for p in [*phrases, way.title])
    return _Entry(way, weights, tuple(p for p in dict.fromkeys(whole) if p))


@cache
def _stemmer() -> snowballstemmer.stemmer:
    return snowballstemmer.stemmer("english")


def _stems(text: str) -> list[str]:
    words = re.findall(
        r"[a-z0-9&]+", text.lower().replace("’", "'").replace("'s", "").replace("'", "")
    )
    kept = [w for w in words if w not in _EMPTY]
    return list(_stemmer().stemWords(kept))
