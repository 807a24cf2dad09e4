"""The shell around a stage: the rail, *Next*, what is known, assumed and missing."""

from dataclasses import dataclass

from returnpath.rules import Question, next_step
from returnpath.site import name_of
from returnpath.site.speech import rule_set_of
from returnpath.vocabulary import GRAVE
from returnpath.words import RuleSet, words

from ..address import GROUPS, STAGES, Address
from ..solved import SolvedSite
from .fields import Typed, count_known, fact_href, fact_hrefs, one_field

LISTS_OF_STAGE = {
    "survey": ("supplies", "services", "buildings", "panels", "feeders", "electrodes", "metals",
               "circuits", "arrays"),
    "service": ("supplies", "services", "electrodes"),
    "panels": ("panels", "circuits"),
    "earth": ("electrodes", "metals"),
    "buildings": ("buildings", "panels", "feeders", "electrodes", "metals"),
    "array": ("arrays", "joints"),
}  # fmt: skip
MOST_PLACES = 4
#: Stages that are about elements of their own.
OWN_STAGES = ("service", "panels", "earth", "buildings", "array")
#: Findings at a circuit that the face of its panel shows.
OF_SPACES = ("space-conflict", "tandem-breaker", "shared-neutral-same-leg")


@dataclass(frozen=True)
class NextLine:
    """The one thing to do next: its words, where it is done, the question that settles it."""

    text: str
    href: str = ""
    question: Question | None = None


@dataclass(frozen=True)
class RailStage:
    """A stage of the rail, with what waits in it."""

    key: str
    group: str
    label: str
    count: int
    words: str
    href: str
    current: bool
    n: int


@dataclass(frozen=True)
class Tally:
    """What is known, assumed and missing in a stage."""

    known: int
    assumed: int
    missing: int
    questions: list["OpenQuestion"]
    assumptions: list["AssumedRow"]


@dataclass(frozen=True)
class AssumedRow:
    """A figure that stands in for a fact."""

    place: str
    label: str
    words: str
    why: str
    href: str


@dataclass(frozen=True)
class OpenQuestion:
    """A fact that checks need, and where it is asked."""

    fact: str
    text: str
    level: str
    places: list["QuestionPlace"]
    more: int
    count: int
    answers: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class QuestionPlace:
    """A place where it is asked."""

    name: str
    href: str


def rail(solved: SolvedSite, found, address: Address) -> list[RailStage]:
    """The stages with what waits in each."""
    site = solved.site
    homes = {f.id for f in (*site.feeders, *site.buildings)}
    homes |= {p.id for p in site.panels if p.id != site.panel.id}
    bad = [f for f in found if f.level in GRAVE]
    service = {site.supply.id, site.service.id, site.panel.id, site.electrode.id}
    panels = {p.id for p in site.panels}
    earthed, arrays = {e.id for e in site.electrodes}, {a.id for a in site.arrays}
    waiting = {
        "panels": sum(f.place in panels or f.id in OF_SPACES for f in bad),
        "service": sum(f.place in service for f in bad),
        "earth": sum(f.place in earthed for f in bad),
        "array": sum(f.place in arrays for f in bad),
        "buildings": sum(f.place in homes for f in bad),
        "prove": len(solved.unproven),
        "fix": len(bad),
    }
    words = {"prove": "not proven", "fix": "to mend"}
    return [
        RailStage(
            key=key,
            group=GROUPS.get(key, ""),
            label=label,
            count=waiting.get(key, 0),
            words=words.get(key, "found here"),
            href=address.to(stage=key, show="", q="", more=""),
            current=key == address.stage,
            n=n if n < 10 else 0 if n == 10 else 99,  # the digit that leads there
        )
        for n, (key, label) in enumerate(stages_of(site, address.stage).items(), 1)
    ]


def stages_of(site, current: str = "") -> dict[str, str]:
    """The stages a job has something for, and where one stands: no Array without one."""
    return {k: v for k, v in STAGES.items() if k != "array" or site.arrays or k == current}


def next_line(solved: SolvedSite, found, address: Address) -> NextLine:
    """The one thing to do next in this stage; where nothing is left, the stage that has it."""
    site = solved.site
    own = _own_findings(site, found, address.stage)
    if not site.circuits and address.stage != "survey":
        step = next_step(site, solved.study, own)
        href = address.to(stage="survey")
        return NextLine(step.text, href)
    if address.stage in OWN_STAGES:
        if grave := next((f for f in own if f.level in GRAVE), None):
            href = address.to(at=grave.place, tab="findings")
            return NextLine(f"{grave.place_name}: {grave.do}", href)
        step = next_step(site, solved.study, own)
        if step.place in _ids(site, address.stage) and not step.question:
            href = address.to(at=step.place, tab="facts")
            return NextLine(step.text, href)
        if fact := next((f for f in _open_here(solved, address) if f.places), None):
            path, name = fact.places[0]
            href = fact_href(site, address, path)
            return NextLine(f"{name}: {fact.question}", href)
        return _elsewhere(solved, found, address)
    step = next_step(site, solved.study, own, at=address.loop or address.at)
    place = step.place if step.place in site.elements() else ""
    href = address.to(at=place) if place and place != address.at and not step.question else ""
    return NextLine(step.text, href, step.question)


def _own_findings(site, found, stage: str) -> list:
    """The findings that a stage is about."""
    if stage in OWN_STAGES:
        ids = _ids(site, stage)
        return [f for f in found if f.place in ids]
    if stage == "survey":  # what is to mend waits in the fix list
        return [f for f in found if f.level == "danger"]
    return list(found)


def _ids(site, stage: str) -> set[str]:
    """The elements that a stage is about."""
    ids = {e.id for name in LISTS_OF_STAGE[stage] for e in getattr(site, name)}
    return ids | {site.panel.id} if stage == "service" else ids


def _open_here(solved: SolvedSite, address: Address) -> list:
    lists = LISTS_OF_STAGE[address.stage]
    return [f for f in solved.open_facts if f.list_name in lists]


def _elsewhere(solved: SolvedSite, found, address: Address) -> NextLine:
    """Nothing is left here: which stage has the next thing."""
    for stage in rail(solved, found, address):
        if stage.count and not stage.current:
            text = f"Nothing is left here. {stage.label}: {stage.count} {stage.words}."
            return NextLine(text, stage.href)
    return NextLine("Nothing is left here.", "")


def tally(solved: SolvedSite, address: Address) -> Tally:
    """What is known, assumed and missing in a stage, and the questions that fill it."""
    lists = LISTS_OF_STAGE.get(address.stage, LISTS_OF_STAGE["survey"])
    site = solved.site
    elements = site.elements()
    ids = {e.id for name in lists for e in getattr(site, name)}
    known = sum(count_known(e) for name in lists for e in getattr(site, name))
    assumed = [a for a in solved.study.assumed.assumptions if a.path.element in ids]
    asked = [_question(solved, one, address) for one in solved.open_facts if one.list_name in lists]
    return Tally(
        known=known,
        assumed=len(assumed),
        missing=sum(len(q.places) or 1 for q in asked),
        questions=asked,
        assumptions=[
            AssumedRow(place=name_of(elements[a.path.element]), label=a.label,
             words=a.words, why=a.why, href=address.to(at=a.path.element, tab="facts"))
            for a in assumed[:60]
        ],
    )  # fmt: skip


def _question(solved: SolvedSite, one, address: Address) -> OpenQuestion:
    """A fact that checks need: its question, its places, and buttons where choices are few."""
    answers = ()
    if one.places:
        field = one_field(solved, one.places[0][0], Typed())
        if field.is_buttons:
            answers = tuple((value, label) for value, label, _ in field.choices)
    else:
        answers = (("metal", "yes, metal"), ("plastic", "plastic"), ("none", "none here"))
    href = fact_hrefs(solved.site, address)
    return OpenQuestion(
        fact=one.fact,
        text=one.question,
        level=one.level,
        places=[
            QuestionPlace(name=name, href=href(path))
            for path, name in one.places[:MOST_PLACES]
        ],
        more=max(len(one.places) - MOST_PLACES, 0),
        count=len(one.places),
        answers=answers,
    )  # fmt: skip


def practice_words(site) -> str:
    """Edition and clearing criterion in a few words."""
    practice = site.practice
    arc = f", {practice.arc_v} V arc" if practice.arc_v else ""
    if rule_set_of(site) is RuleSet.METRIC:
        return f"IEC 60364, judged by its disconnection times, {practice.touch_v} V touch{arc}"
    return f"rules of {practice.edition}, judged by “{words('judged by')[practice.clearing]}”{arc}"
