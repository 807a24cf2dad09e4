"""A page in the words of its job's rule set: text between tags, and what is read aloud of them.

Templates are written in the United States' words; ``tables/words.csv`` has the metric set's beside
each. Boxes and their contents stay: what somebody typed is theirs.
"""

import re

from returnpath.site import Installation
from returnpath.site.speech import names_in, rule_set_of
from returnpath.words import RuleSet, spoken, words

#: What marks a text that is no sentence: an example to type, a unit's own name.
KEPT = ' translate="no"'
_PIECES = re.compile(r"(<(?:script|style|textarea)\b.*?</(?:script|style|textarea)>|<[^>]*>)", re.S)
_READ_ALOUD = re.compile(r'(?<=\s)((?:aria-label|title|placeholder)=")([^"]*)(")')


def speak(page: str, site: Installation) -> str:
    """The page as it stands for the United States' rules, else each term in the set's own words."""
    rule_set = rule_set_of(site)
    if rule_set is RuleSet.US:
        return page
    names = names_in(site)

    def aloud(found: re.Match[str]) -> str:
        return found[1] + spoken(found[2], rule_set, names) + found[3]

    labels = words("label", rule_set)
    pieces, kept = _PIECES.split(page), False
    for n, piece in enumerate(pieces):
        if n % 2:
            if "label=" in piece or "title=" in piece or "placeholder=" in piece:
                pieces[n] = _READ_ALOUD.sub(aloud, piece)
            kept = KEPT in piece
        elif not kept and (plain := piece.strip()):
            if plain.endswith("…") and any(name.startswith(plain[:-1]) for name in names):
                continue  # a name that a drawing had no room for is still a person's own
            said = labels.get(plain) or spoken(plain, rule_set, names)
            pieces[n] = piece if said == plain else piece.replace(plain, said)
    return "".join(pieces)
