"""The one thing to do next: a danger first, then the missing fact, then what is only assumed."""

from collections.abc import Iterable
from dataclasses import dataclass

from ..site import Installation, field_info
from ..study import SiteStudy, Verdict
from ..vocabulary import FactPath
from .finding import Finding
from .questions import Question, deciding_question

_ASK = {
    "bond": "Look in the panel: is the main bond (screw, strap or wire) in?",
    "egc": "what is the fault path: an EGC, a steel raceway, or nothing?",
    "rating_a": "read the breaker's rating.",
}


@dataclass(frozen=True, slots=True)
class NextStep:
    """What to do, in one line; ``place`` the element it is about, ``question`` if it is one."""

    text: str
    place: str = ""
    question: Question | None = None


def next_step(
    site: Installation, site_study: SiteStudy, found: Iterable[Finding], at: str = ""
) -> NextStep:
    """The next thing for this site; ``at`` prefers questions about the chosen circuit."""
    found = list(found)
    for finding in found:
        if finding.level == "danger":
            return NextStep(f"{finding.place_name}: {finding.do}", finding.place)
    if not site.circuits:
        return NextStep("Type the first circuit as it reads on the sheath.")
    if lack := _missing(site, site_study):
        return lack
    loops = site_study.loops
    for circuit_id in sorted(loops, key=lambda c: c != at):
        if question := deciding_question(site_study.assumed, loops[circuit_id]):
            return NextStep(question.text, circuit_id, question)
    for finding in found:
        if finding.level in ("fix", "check"):
            return NextStep(f"{finding.place_name}: {finding.do}", finding.place)
    return NextStep("Measure the loop at each receptacle and compare it with these ohms.")


def _missing(site: Installation, site_study: SiteStudy) -> NextStep | None:
    """The absent fact that most loops wait for."""
    counts: dict[FactPath, int] = {}
    for study in site_study.loops.values():
        if study.verdict is Verdict.NOT_KNOWN:
            for path in study.lacks:
                counts[path] = counts.get(path, 0) + 1
    if not counts:
        return None
    path = max(counts, key=lambda p: counts[p])
    element = site.elements()[path.element]
    ask = _ASK.get(path.leaf)
    if path.leaf == "kva" and site_study.why_not:
        return NextStep(site_study.why_not, path.element)
    if ask is None:
        return NextStep(f"Enter {field_info(element, path.fact).label}.", path.element)
    if path.leaf == "bond":
        return NextStep(ask, path.element)
    name = getattr(element, "name", None) or "The circuit"
    return NextStep(f"{name}: {ask}", path.element)
