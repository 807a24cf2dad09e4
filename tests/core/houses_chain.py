"""The houses of ``tests/houses_chain``: what stands ahead of the branch circuit."""

import copy
import fnmatch
import json
from functools import cache
from pathlib import Path
from typing import Any

import yaml

from returnpath.rules import LEVELS, Finding, findings
from returnpath.site import Installation, loads
from returnpath.study import study

FOLDER = Path(__file__).parents[1] / "houses_chain"
FIRST = 100  # the number of the first element a story adds
LETTER = {"supplies": "u", "services": "s", "panels": "p", "feeders": "f", "electrodes": "e",
          "circuits": "c", "arrays": "a", "metals": "m", "buildings": "b"}  # fmt: skip


@cache
def stories() -> tuple[dict[str, Any], ...]:
    """Every story."""
    return tuple(yaml.safe_load((FOLDER / "stories.yaml").read_text("utf-8")))


def built(story: dict[str, Any]) -> Installation:
    """The base with what a story adds and sets."""
    data = json.loads((FOLDER / "base.json").read_text("utf-8"))
    site = data["site"]
    for n, added in enumerate(story.get("add", ())):
        facts = copy.deepcopy(added)
        kind = facts.pop("to")
        if "end" in facts:
            facts["to"] = facts.pop("end")
        site.setdefault(kind, []).append({"id": f"{LETTER[kind]}{FIRST + n}", **facts})
    for n in range(story.get("units", 0)):
        _unit(site, 200 + 2 * n)
    for path, value in story.get("set", {}).items():
        _set(site, path, value)
    site["last_id"] = 999
    return loads(json.dumps(data))


def _unit(site: dict[str, Any], number: int) -> None:
    """One more main behind the meter stack."""
    main = {"rating_a": 100, "lo": 5, "hi": 10}
    site["panels"].append({"id": f"p{number}", "name": f"Unit {number}", "kind": "service",
                           "main": main, "bond": "in", "ground_bar": "on case"})  # fmt: skip
    site["feeders"].append(
        {"id": f"f{number + 1}", "source": "p100", "to": f"p{number}", "poles": 2, "method": "PVC",
         "length_ft": 5, "line_size": "2", "line_material": "aluminium", "neutral": "yes",
         "neutral_size": "2", "egc": "none"}
    )  # fmt: skip


def _set(site: dict[str, Any], path: str, value: Any) -> None:
    """One fact; a device set to “none” is said to be none."""
    id_, *names = path.split(".")
    element = next(e for part in site.values() if isinstance(part, list)
                   for e in part if e.get("id") == id_)  # fmt: skip
    if value == "none" and names in (["breaker"], ["main"]):
        element[names[0]] = {"kind": "none"}
        return
    for name in names[:-1]:
        element = element.setdefault(name, {})
    if value is None:
        element.pop(names[-1], None)
    else:
        element[names[-1]] = value


def fits(want: str, found: Finding) -> bool:
    """Whether a finding is what a story means: ``ids@level#places?fact``."""
    want, _, asks = want.partition("?")
    want, _, places = want.partition("#")
    ids, _, level = want.partition("@")
    known = any(fnmatch.fnmatchcase(found.id, "*" if i == "any" else i) for i in ids.split("|"))
    grave = LEVELS.index(found.level) <= LEVELS.index(level or "note")
    here = not places or found.place.split(".")[0] in places.split("|")
    return known and grave and here and asks in ("", found.asks)


@cache
def found_at(number: int) -> tuple[Finding, ...]:
    """What is found in the house of a story: several tests look at it."""
    site = built(stories()[number])
    return findings(site, study(site))
