"""Show the owner: their house on a kitchen table, one danger at a time, in their words."""

from dataclasses import dataclass
from typing import Any

from django.utils.safestring import mark_safe
from django.views.decorators.http import require_safe

from returnpath.rules import Finding
from returnpath.study import FaultStudy
from returnpath.study.verdict import Verdict
from returnpath.vocabulary import GRAVE, Level

from ..address import address_of
from ..drawing.map import MapView, map_scene
from ..jobs.access import job_of
from ..pages import show
from ..solved import SolvedSite, solve, standing
from .report import family_of, owner_words

MOST_SLIDES = 12
HOUSE = (
    "This is how power comes to your house, and how it takes its way home when something goes"
    " wrong."
)
HAND = "A hand here could have been hurt."


@dataclass(frozen=True)
class Slide:
    """One picture and a sentence; ``state`` before, stands, after or the house."""

    state: str
    title: str
    text: str
    volts: str
    picture: str


@dataclass(frozen=True)
class WalkPage:
    """The whole walk."""

    job: Any
    slides: tuple[Slide, ...]
    back: str


@require_safe
def owner_walk(request, pk: int):
    """Full screen; arrows, swipe, or just scroll."""
    job = job_of(request, pk)
    latest = job.latest
    solved = solve(latest.site, latest.document)
    slides = [Slide("house", job.name, HOUSE, "", _picture(solved, None))]
    stand = [f for f in standing(solved, latest.aside) if f.level in GRAVE]
    first = job.revisions.order_by("number").first()
    if first is not None and first.pk != latest.pk:
        before = solve(first.site, first.document)
        now = {f.key for f in solved.findings}  # what is set aside is not mended
        gone = [f for f in before.findings if f.level in GRAVE and f.key not in now]
        for f in gone[: MOST_SLIDES // 2]:
            slides.append(_slide("before", f, before))
            slides.append(Slide("after", f.place_name, "It is mended.", "", _picture(
                solved, _loop(solved, f))))  # fmt: skip
    slides += [_slide("stands", f, solved) for f in stand[: MOST_SLIDES - 2]]
    if len(slides) == 1:
        slides.append(Slide("after", "Nothing is left to mend", "A fault finds its way home"
                            " quickly.", "", _picture(solved, None)))  # fmt: skip
    page = WalkPage(job, tuple(slides), address_of(job, "sign", {}).here)
    return show(request, "signing/owner.html", page, site=latest.site)


def _slide(state: str, f: Finding, solved: SolvedSite) -> Slide:
    loop = _loop(solved, f)
    words = owner_words()
    could = words.get(family_of(f.id), words["other"])[0]
    volts = ""
    if loop is not None and loop.lowest_a is not None:
        quick = loop.verdict in (Verdict.AT_ONCE, Verdict.AT_ONCE_IF_ASSUMED)
        volts = "" if quick else "does not trip at once"
    elif loop is not None:
        volts = "does not trip"
    text = f"{could} {HAND}" if f.level is Level.DANGER else could
    return Slide(state, f.place_name, text, volts, _picture(solved, loop))


def _loop(solved: SolvedSite, f: Finding) -> FaultStudy | None:
    study = solved.study
    return study.loops.get(f.place) or study.enclosures.get(f.place)


def _picture(solved: SolvedSite, loop: FaultStudy | None) -> str:
    href = dict.fromkeys([*solved.site.elements(), "prove"], "")
    view = MapView(solved.study, loop or next(iter(solved.study.loops.values()), None), href)
    drawn = map_scene(view).svg(links=False, words=False)  # no figures at a kitchen table
    return mark_safe(drawn)  # noqa: S308 - Scene escapes every text
