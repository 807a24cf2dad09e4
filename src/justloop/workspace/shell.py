"""The shell around a stage: the rail, *Next*, what is known, assumed and missing."""

from returnpath.rules import next_step
from returnpath.site import name_of
from returnpath.vocabulary import GRAVE

from .address import GROUPS, STAGES, Address
from .fields import Typed, count_known, fact_href, one_field
from .solved import SolvedSite

LISTS_OF_STAGE = {
    "survey": ("supplies", "services", "buildings", "panels", "feeders", "electrodes", "metals",
               "circuits", "arrays"),
    "service": ("supplies", "services", "electrodes"),
    "panels": ("panels", "circuits"),
    "buildings": ("buildings", "panels", "feeders", "electrodes", "metals"),
}  # fmt: skip
MOST_PLACES = 4
#: Findings at a circuit that the face of its panel shows.
OF_SPACES = ("space-conflict", "tandem-breaker", "shared-neutral-same-leg")


def rail(solved: SolvedSite, found, address: Address) -> list[dict]:
    """The stages with what waits in each."""
    site = solved.site
    homes = {f.id for f in (*site.feeders, *site.buildings)}
    homes |= {p.id for p in site.panels if p.id != site.panel.id}
    bad = [f for f in found if f.level in GRAVE]
    service = {site.supply.id, site.service.id, site.panel.id, site.electrode.id}
    panels = {p.id for p in site.panels}
    waiting = {
        "panels": sum(f.place in panels or f.id in OF_SPACES for f in bad),
        "service": sum(f.place in service for f in bad),
        "buildings": sum(f.place in homes for f in bad),
        "prove": len(solved.unproven),
        "fix": len(bad),
    }
    words = {"prove": "not proven", "fix": "to mend"}
    return [
        {
            "key": key,
            "group": GROUPS.get(key, ""),
            "label": label,
            "count": waiting.get(key, 0),
            "words": words.get(key, "found here"),
            "href": address.to(stage=key, show="", q="", more=""),
            "current": key == address.stage,
            "n": n,
        }
        for n, (key, label) in enumerate(STAGES.items(), 1)
    ]


def next_line(solved: SolvedSite, found, address: Address) -> dict:
    """The one thing to do next in this stage; where nothing is left, the stage that has it."""
    site = solved.site
    own = _own_findings(site, found, address.stage)
    if not site.circuits and address.stage != "survey":
        step = next_step(site, solved.study, own)
        href = address.to(stage="survey")
        return {"text": step.text, "href": href, "question": None}
    if address.stage in ("service", "panels", "buildings"):
        if grave := next((f for f in own if f.level in GRAVE), None):
            href = address.to(at=grave.place, tab="findings")
            return {"text": f"{grave.place_name}: {grave.do}", "href": href, "question": None}
        step = next_step(site, solved.study, own)
        if step.place in _ids(site, address.stage) and not step.question:
            href = address.to(at=step.place, tab="facts")
            return {"text": step.text, "href": href, "question": None}
        if fact := next((f for f in _open_here(solved, address) if f.places), None):
            path, name = fact.places[0]
            href = fact_href(site, address, path)
            return {"text": f"{name}: {fact.question}", "href": href, "question": None}
        return _elsewhere(solved, found, address)
    step = next_step(site, solved.study, own, at=address.loop or address.at)
    place = step.place if step.place in site.elements() else ""
    href = address.to(at=place) if place and place != address.at and not step.question else ""
    return {"text": step.text, "href": href, "question": step.question}


def _own_findings(site, found, stage: str) -> list:
    """The findings that a stage is about."""
    if stage in ("service", "panels", "buildings"):
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


def _elsewhere(solved: SolvedSite, found, address: Address) -> dict:
    """Nothing is left here: which stage has the next thing."""
    for stage in rail(solved, found, address):
        if stage["count"] and not stage["current"]:
            text = f"Nothing is left here. {stage['label']}: {stage['count']} {stage['words']}."
            return {"text": text, "href": stage["href"], "question": None}
    return {"text": "Nothing is left here.", "href": "", "question": None}


def tally(solved: SolvedSite, address: Address) -> dict:
    """What is known, assumed and missing in a stage, and the questions that fill it."""
    lists = LISTS_OF_STAGE.get(address.stage, LISTS_OF_STAGE["survey"])
    site = solved.site
    ids = {e.id for name in lists for e in getattr(site, name)}
    known = sum(count_known(e) for name in lists for e in getattr(site, name))
    assumed = [a for a in solved.study.assumed.assumptions if a.path.element in ids]
    asked = [_question(solved, one, address) for one in solved.open_facts if one.list_name in lists]
    return {
        "known": known,
        "assumed": len(assumed),
        "missing": sum(len(q["places"]) or 1 for q in asked),
        "questions": asked,
        "assumptions": [
            {"place": name_of(site.elements()[a.path.element]), "label": a.label,
             "words": a.words, "why": a.why, "href": address.to(at=a.path.element, tab="facts")}
            for a in assumed[:60]
        ],
    }  # fmt: skip


def _question(solved: SolvedSite, one, address: Address) -> dict:
    """A fact that checks need: its question, its places, and buttons where choices are few."""
    answers = ()
    if one.places:
        field = one_field(solved, one.places[0][0], Typed())
        if field.is_buttons:
            answers = tuple((value, label) for value, label, _ in field.choices)
    else:
        answers = (("metal", "yes, metal"), ("plastic", "plastic"), ("none", "none here"))
    return {
        "fact": one.fact,
        "text": one.question,
        "level": one.level,
        "places": [
            {"name": name, "href": fact_href(solved.site, address, path)}
            for path, name in one.places[:MOST_PLACES]
        ],
        "more": max(len(one.places) - MOST_PLACES, 0),
        "count": len(one.places),
        "answers": answers,
    }  # fmt: skip


def practice_words(site) -> str:
    """Edition and clearing criterion in a few words."""
    practice = site.practice
    words = {
        "instantaneous": "instantaneous trip",
        "five times": "five times",
        "timed": "timed",
        "one ohm": "one ohm",
    }
    arc = f", {practice.arc_v} V arc" if practice.arc_v else ""
    return f"rules of {practice.edition}, judged by “{words[practice.clearing]}”{arc}"
