"""What is left of a line: its name, and the words that are neither name nor fact."""

import difflib
import re

from ... import tables
from .line import Line

#: Words that carry no fact: they join the others.
FILLERS = frozenset(
    "a an the to for of on with w/ and & + is its at in by runs run running goes going feeds feed"
    " feeding fed serves serving serve circuit ckt cct breaker brkr bkr cb wire wires wiring cable"
    " conductor conductors line lines long about from amp amps awg size gauge - – — , ; : . ( ) via"
    " using through which that each homerun it this there are has have one way 1 copper".split()
)  # fmt: skip
_MORE = (
    "lights light lighting receptacles receptacle recs rec outlets outlet plugs plug pump heater"
    " water well sump furnace boiler disposal fridge refrigerator freezer fan smoke alarms alarm"
    " detectors doorbell welder saw bench compressor charger attic stairs entry north south east"
    " west left right front back upper lower upstairs downstairs floor room rooms counter island"
    " island small appliance general spare opener door septic gate fountain sign bar"
    " exhaust bath heat hood door opener pantry nook utility mechanical storage studio loft shop"
    " master guest first second third main hp backfeed solar pv inverter unit office lamp post pole"
    " well house barn addition new old existing".split()
)
_KEYWORDS = (
    "copper", "aluminum", "ground", "grounded", "ungrounded", "breaker", "conduit", "underground",
    "subpanel", "panel", "generator", "neutral", "bonded", "gauge", "without", "feet", "double",
    "single", "gfci", "afci", "overhead", "buried", "plastic", "aluminium", "corrugated", "apart",
)  # fmt: skip
_STOREYS = ("floor", "level", "storey", "story", "flr")
#: Words as people write them that are near a keyword and are none.
_NOT_SLIPS = frozenset("grounds round feel feed double-wide single bonded bond panels".split())


def lexicon() -> frozenset[str]:
    """Words known to be of a name: places, loads, and what is on circuits."""
    words = set(_MORE)
    for table in ("place_words", "load_words"):
        for row in tables.rows(table):
            words |= set(re.split(r"[\s/-]+", row["words"]))
    words |= {w + "s" for w in list(words)}
    return frozenset(words)


def take_name(line: Line, may_have_any: bool = True) -> tuple[str, list[str]]:
    """(the name, the words that were not used) of what nobody has read.

    The name is the run of words that the lexicon knows best, the first of equals; other runs join
    it where all their words are known ones, and are not used where they are not.
    """
    known = lexicon()
    runs: list[list[tuple[int, str]]] = []
    end = -1
    for start, word in line.left():
        if runs and not _read_between(line, end, start):
            runs[-1].append((start, word))
        else:
            runs.append([(start, word)])
        end = start + len(word)
    runs = [r for run in runs if (r := _trimmed(run))]
    unused: list[str] = []
    kept: list[list[tuple[int, str]]] = []
    for run in runs:
        good, bad = _checked(line, run, known)
        unused += bad
        if good:
            kept.append(good)
    if not kept or not may_have_any:
        return "", unused + [w for run in kept for _, w in run]
    best = max(kept, key=lambda r: (_known_share(r, known), -kept.index(r)))
    names = []
    for run in kept:
        if run is best or all(_plain(w) in known or _plain(w) in FILLERS for _, w in run):
            names.append(" ".join(w for _, w in run))
        else:
            unused += [w for _, w in run]
    name = " ".join(names).strip(" ,;:-–—.()[]\"'")[:80]
    return name[:1].upper() + name[1:], unused


def _known_share(run, known) -> float:
    return sum(_plain(w) in known for _, w in run) / len(run)


def _read_between(line: Line, start: int, end: int) -> bool:
    return any(line.read[start:end])


def _plain(word: str) -> str:
    return word.lower().strip(",;:.()[]\"'“”-–—#/&+")


def _trimmed(run):
    while run and (_plain(run[0][1]) in FILLERS or not _plain(run[0][1])):
        run = run[1:]
    while run and (_plain(run[-1][1]) in FILLERS or not _plain(run[-1][1])):
        run = run[:-1]
    return run


def _checked(line: Line, run, known):
    """(the words that can be of a name, those that cannot): figures without a meaning, slips."""
    good, bad = [], []
    for place, (start, word) in enumerate(run):
        plain = _plain(word)
        if re.fullmatch(r"\d{1,2}(?:st|nd|rd|th)", plain):
            good.append((start, word))
        elif line.is_number_word(start) and place == 0 and len(run) > 1:
            bad.append((start, word))  # a figure that nothing took; after a word it is a name's
        elif re.search(r"\d", plain):
            after_word = place > 0 and re.fullmatch(r"#?\d{1,2}", plain) and int(plain.strip("#")) <= 12
            hp = re.fullmatch(r"\d(?:[/.]\d)?", plain) and place + 1 < len(run) and _plain(run[place + 1][1]) == "hp"
            (good if after_word or hp else bad).append((start, word))
        elif plain == "ground" and place + 1 < len(run) and _plain(run[place + 1][1]) in _STOREYS:
            good.append((start, word))
        elif plain not in known and plain not in _NOT_SLIPS and _is_slip(plain):
            bad.append((start, word))
        else:
            good.append((start, word))
    return _trimmed(good), [w for _, w in bad]


def _is_slip(word: str) -> bool:
    """Whether a word looks like one that would have meant something."""
    if word in _KEYWORDS:
        return True  # what it means was not found where it stands
    if len(word) < 4:
        return False
    return bool(difflib.get_close_matches(word, _KEYWORDS, 1, 0.82))
