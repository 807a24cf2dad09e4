"""The deciding question: the one assumption that could flip a verdict, as a threshold.

Nobody measures lengths. Where a circuit's length is assumed and some plausible length would
flip the clearing criterion or the heat check, it becomes one question with the figure in it.
"""

from dataclasses import dataclass

from ..assume import Assumed
from ..site import Set, Source, field_info
from ..site.installation import name_of
from ..study import FaultStudy, SiteStudy
from ..study.longest import whole_feet

#: No branch circuit of a dwelling is longer: a threshold beyond it decides nothing.
PLAUSIBLE_FT = 400.0


@dataclass(frozen=True, slots=True)
class Question:
    """“Is the run longer than ``threshold_ft``?” with the Edit each answer makes."""

    path: str
    threshold_ft: float
    text: str
    answers: tuple[tuple[str, Set], ...]


def deciding_question(assumed: Assumed, study: FaultStudy) -> Question | None:
    """The length question of one circuit, or None where it is known or changes nothing."""
    path = f"{study.circuit.id}.length_ft"
    if assumed.find(path) is None or study.longest_run_ft is None:
        return None
    answered = assumed.site.sources.get(path)
    threshold = whole_feet(study.longest_run_ft)
    if not 1 <= threshold <= PLAUSIBLE_FT:
        return None
    if answered is not None and _settled(answered, threshold):
        return None

    def answer(kind: str, bound: float | None) -> Set:
        return Set(path=path, value=None, source=Source(kind=kind, bound=bound))

    name = study.circuit.name or "This circuit"
    return Question(
        path,
        threshold,
        f"{name}: is the run longer than {threshold:g} ft?",
        (
            ("No", answer("no more than", threshold)),
            ("Yes", answer("no less than", threshold)),
            ("Can't tell", answer("cannot tell", None)),
        ),
    )


def _settled(answered: Source, threshold: float) -> bool:
    """Whether an earlier answer still decides at today's threshold."""
    if answered.kind == "cannot tell" or answered.bound is None:
        return True
    if answered.kind == "no more than":
        return answered.bound <= threshold
    return answered.bound >= threshold


@dataclass(frozen=True, slots=True)
class Asked:
    """A question and how many loops' verdicts it settles."""

    text: str
    path: str
    settles: int
    question: Question | None = None


def deciding_questions(site_study: SiteStudy) -> tuple[Asked, ...]:
    """What to ask, the one that settles most verdicts first.

    Facts that are never assumed (returns, bonds) come as they are missing; lengths with the
    threshold that would flip their circuit.
    """
    counts: dict[str, int] = {}
    found: list[Asked] = []
    for study in site_study.loops.values():
        for path in study.lacks:
            counts[path] = counts.get(path, 0) + 1
        if question := deciding_question(site_study.assumed, study):
            found.append(Asked(question.text, question.path, 1, question))
    elements = site_study.assumed.site.elements()
    for path, count in counts.items():
        element_id, _, inner = path.partition(".")
        element = elements[element_id]
        label = field_info(element, inner).label
        found.append(Asked(f"{name_of(element)}: what is the {label}?", path, count))
    return tuple(sorted(found, key=lambda a: -a.settles))
