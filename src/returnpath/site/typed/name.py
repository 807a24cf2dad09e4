"""What is left of a line: its name, and the words that are neither name nor fact."""

import difflib
import re
from functools import cache

from ... import tables
from .line import Line


def _words(use: str) -> frozenset[str]:
    """The words of one use (``tables/line_words.csv``)."""
    return frozenset(r["word"] for r in tables.rows("line_words") if r["use"] == use)


#: Words that carry no fact: they join the others.
FILLERS = _words("filler")
#: Words that would have meant something: one that is left, or near one, was not understood.
KEYWORDS = tuple(sorted(_words("keyword")))
_NOT_SLIPS, _STOREYS = _words("not a slip"), _words("storey")
#: Things that are told apart by a number of any size; other words by a small one.
_NUMBERED = _words("numbered")


@cache
def lexicon() -> frozenset[str]:
    """Words known to be of a name: places, loads, and what is on circuits."""
    words = set(_words("name"))
    for table in ("place_words", "load_words"):
        for row in tables.rows(table):
            words |= set(re.split(r"[\s/-]+", row["words"]))
    words |= {w + "s" for w in list(words)}
    return frozenset(words)


def take_name(
    line: Line, may_have_any: bool = True, allowed: frozenset[str] = frozenset()
) -> tuple[str, list[str]]:
    """(the name, the words that were not used) of what nobody has read.

    The name is the run of words that the lexicon knows best, the first of equals; other runs join
    it where all their words are known ones, and are not used where they are not.
    """
    known = lexicon() | allowed
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
        if (
            re.fullmatch(r"\d{1,2}(?:st|nd|rd|th)|[34]-way", plain)
            or (
                line.is_number_word(start) and re.match(r"\s+way\b", line.text[start + len(word) :])
            )
            or (_MARK.fullmatch(word) and _BEFORE_MARK.search(line.text[:start]))
            or (
                re.fullmatch(r"[1-9]|1[0-2]", word)
                and "breaker.rating_a" in line.facts
                and _BEFORE_MARK.search(line.text[:start])
            )
        ):
            good.append((start, word))
        elif line.is_number_word(start) and place == 0 and len(run) > 1:
            bad.append((start, word))  # a figure that nothing took; after a word it is a name's
        elif re.search(r"\d", plain):
            after_word = place > 0 and _numbers(_plain(run[place - 1][1]), plain)
            hp = (
                re.fullmatch(r"\d(?:[/.]\d)?", plain)
                and place + 1 < len(run)
                and _plain(run[place + 1][1]) == "hp"
            )
            (good if after_word or hp else bad).append((start, word))
        elif plain == "ground" and place + 1 < len(run) and _plain(run[place + 1][1]) in _STOREYS:
            good.append((start, word))
        elif plain not in known and plain not in _NOT_SLIPS and _is_slip(plain):
            bad.append((start, word))
        else:
            good.append((start, word))
    return _trimmed(good), [w for _, w in bad]


#: What a panel is marked: “panel A2”, “sub-panel LP1”. Elsewhere such a word is a slip.
_MARK = re.compile(r"[A-Z]{1,3}-?\d{1,3}")
_BEFORE_MARK = re.compile(r"(?i)\b(?:panel|subpanel|board)\s+$")


def _numbers(before: str, figure: str) -> bool:
    """Whether a figure after a word is its number: “bath 2”, “room 14”, never “kitchen 85”."""
    match = re.fullmatch(r"#?(\d{1,3})", figure)
    return match is not None and (before in _NUMBERED or int(match[1]) <= 12)


def _is_slip(word: str) -> bool:
    """Whether a word looks like one that would have meant something."""
    if word in KEYWORDS:
        return True  # what it means was not found where it stands
    if len(word) < 4:
        return False
    return bool(difflib.get_close_matches(word, KEYWORDS, 1, 0.82))
