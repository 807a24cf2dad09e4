"""A site in one paragraph, in the trade's words."""

from collections import Counter

from ..study import SiteStudy, Verdict
from ..working import figures
from .finding import Finding

_COUNT = {0: "no", 1: "one", 2: "two", 3: "three", 4: "four", 5: "five", 6: "six"}


def _count(number: int, word: str) -> str:
    plural = word if number == 1 else f"{word}s"
    return f"{_COUNT.get(number, number)} {plural}"


def summary(study: SiteStudy, found: tuple[Finding, ...]) -> str:
    """What is there, what it does at its weakest, what was found."""
    site = study.assumed.site
    supply, panel = site.supply, site.panel
    rating = f"{panel.main.rating_a:g} A " if panel.main.rating_a else ""
    run = site.service.run or "service"
    parts = [
        f"A {rating}{run} service from a {supply.kva:g} kVA transformer"
        if supply.kva
        else f"A {rating}{run} service",
        f"{_count(len(site.panels), 'panel')}, {_count(len(site.circuits), 'circuit')}"
        + (f", {_count(len(site.buildings), 'building')}" if site.buildings else ""),
    ]
    text = f"{parts[0]}: {parts[1]}."
    verdicts = Counter(loop.verdict for loop in study.loops.values())
    said = [f"{verdicts[v]} {v}" for v in Verdict if verdicts[v]]
    if said:
        text += f" Line to enclosure: {'; '.join(said)}."
    known = [loop for loop in study.loops.values() if loop.multiple is not None]
    if known:
        weak = min(known, key=lambda loop: loop.multiple)
        text += (
            f" The weakest is {weak.place_name}, {figures(weak.lowest_a)} A,"
            f" {figures(weak.multiple)} × its breaker."
        )
    levels = Counter(f.level for f in found)
    if found:
        listed = ", ".join(f"{levels[x]} {x}" for x in ("danger", "fix", "check") if levels[x])
        text += f" Found: {listed or 'notes only'}."
    else:
        text += " Nothing was found."
    return text
