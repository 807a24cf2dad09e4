"""What a circuit serves, read from its name until somebody says: places and kind of load.

The words are data (``tables/place_words.csv``, ``load_words.csv``, ``dwelling_words.csv``): a
phrase in a name stands for a place, a kind of load, or a part of the dwelling's load. The longest
phrase wins, and its words are then used up.
"""

import re
from functools import cache, lru_cache

from .. import tables
from ..errors import BadInput
from .circuits import Circuit


@cache
def places() -> dict[str, str]:
    """Every place a circuit can serve, with the trade's word for it."""
    return {r["place"]: r["label"] for r in tables.rows("places")}


COLUMNS = {
    "place_words": "place",
    "load_words": "load_kind",
    "dwelling_words": "counted",
    "continuous_words": "kind",
}


@cache
def _phrases(table: str) -> tuple[tuple[re.Pattern[str], str], ...]:
    """(phrase, what it stands for), the longest first."""
    column = COLUMNS[table]
    found = sorted(tables.rows(table), key=lambda r: -len(r["words"]))
    return tuple(
        (re.compile(rf"(?i)(?<![a-z0-9]){r['words']}(?:s|es)?(?![a-z0-9])"), r[column])
        for r in found
    )


def _read(name: str, table: str) -> tuple[str, ...]:
    left, found = name, []
    for phrase, meaning in _phrases(table):
        if match := phrase.search(left):
            left = left[: match.start()] + " # " + left[match.end() :]
            if meaning and meaning not in found:
                found.append(meaning)
    return tuple(found)


@lru_cache(maxsize=2048)
def places_in(name: str) -> tuple[str, ...]:
    """The places that a circuit's name speaks of, "" for none: ``Kitchen counter``."""
    found = _read(name, "place_words")
    return tuple(p for p in places() if p in found)


@lru_cache(maxsize=2048)
def load_kind_in(name: str) -> str | None:
    """The kind of load that a circuit's name speaks of."""
    return next(iter(_read(name, "load_words")), None)


@lru_cache(maxsize=2048)
def continuous_kind_in(name: str) -> str | None:
    """The kind of load lasting for hours that a circuit's name speaks of."""
    return next(iter(_read(name, "continuous_words")), None)


@lru_cache(maxsize=2048)
def dwelling_words_in(name: str) -> tuple[str, ...]:
    """How the dwelling's load counts what a name speaks of: heating, appliance, small appliance."""
    return _read(name, "dwelling_words")


def places_of(circuit: Circuit) -> tuple[str, ...]:
    """What a circuit serves: as given, else as its name says."""
    if circuit.places is not None:
        return split_places(circuit.places)
    return places_in(circuit.name or "")


def split_places(text: str) -> tuple[str, ...]:
    """The places in a list written with commas."""
    return tuple(p for p in (w.strip() for w in text.split(",")) if p and p != NOWHERE)


#: What a person says who takes the last place away: none of those that ask for protection.
NOWHERE = "none of these"


def known_places(text: str) -> str:
    """``text`` as a list of known places; BadInput naming the one that is not."""
    by_word = {**{p.lower(): p for p in places()}, **{v.lower(): k for k, v in places().items()}}
    found = []
    for word in (w.strip() for w in text.split(",")):
        if not word:
            continue
        if word.lower() == NOWHERE:
            found.append(NOWHERE)
            continue
        place = by_word.get(word.lower()) or next(iter(places_in(word)), None)
        if place is None:
            listed = ", ".join(places().values())
            raise BadInput(f"“{word[:40]}” is not a place known here; {listed} are.")
        if place not in found:
            found.append(place)
    return ", ".join(found)


#: Protection by place speaks of receptacles: lighting alone is not meant, but for arc faults.
_LIGHTING = re.compile(r"(?i)\b(light|lights|lighting|lamps?|fan|smoke|alarm)\b")
_RECEPTACLE = re.compile(r"(?i)\b(rec|recs|recep|receps|receptacles?|outlets?|plugs?)\b")


def is_lighting(circuit: Circuit) -> bool:
    """Whether a circuit feeds lights alone, by its name."""
    name = circuit.name or ""
    return bool(_LIGHTING.search(name)) and not _RECEPTACLE.search(name)
