"""The deciding question: the one assumption that could flip a verdict, as a threshold.

Nobody measures lengths. Where a circuit's length is assumed and some plausible length would
flip the clearing criterion or the heat check, it becomes one question with the figure in it.
"""

from dataclasses import dataclass

from ..assume import Assumed
from ..device import rule
from ..site import Provenance, Set, field_info
from ..site.installation import name_of
from ..study import FaultStudy, SiteStudy, Verdict
from ..study.longest import whole_feet
from ..vocabulary import FactPath

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
    path = FactPath.of(study.circuit.id, "length_ft")
    if assumed.find(path) is None or study.longest_run_ft is None:
        return None
    answered = assumed.site.sources.get(path)
    threshold = whole_feet(study.longest_run_ft)
    if not 1 <= threshold <= PLAUSIBLE_FT:
        return None
    if answered is not None and _settled(answered, threshold):
        return None

    def answer(kind: str, bound: float | None) -> Set:
        return Set(path=path, value=None, source=Provenance(kind=kind, bound=bound))

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


def _settled(answered: Provenance, threshold: float) -> bool:
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
    counts: dict[FactPath, int] = {}
    found: list[Asked] = []
    for study in site_study.loops.values():
        for path in study.lacks:
            counts[path] = counts.get(path, 0) + 1
        if question := deciding_question(site_study.assumed, study):
            found.append(Asked(question.text, question.path, 1, question))
    elements = site_study.assumed.site.elements()
    for path, count in counts.items():
        element = elements[path.element]
        label = field_info(element, path.fact).label
        found.append(Asked(f"{name_of(element)}: what is the {label}?", path, count))
    return tuple(sorted(found, key=lambda a: -a.settles))


@dataclass(frozen=True, slots=True)
class CurveQuestion:
    """One question for every breaker whose magnetic trip is assumed and decides its verdict."""

    text: str
    places: tuple[str, ...]
    answers: tuple[tuple[str, tuple[Set, ...]], ...]


def curve_question(site_study: SiteStudy) -> CurveQuestion | None:
    """Do the manufacturers say that these breakers trip instantaneously by 10 × their rating?

    Asked once for all of them: a house mostly has breakers of one kind. “No” is entered as a
    trip that may begin anywhere up to 20 ×; None where no verdict waits for it.
    """
    waiting = [
        study
        for study in (*site_study.loops.values(), *site_study.protected_enclosures.values())
        if study.verdict is Verdict.AT_ONCE_IF_ASSUMED and study.device is not None
    ]
    devices = dict.fromkeys(s.device_at for s in waiting if s.device.is_assumed)
    sources = site_study.assumed.site.sources
    devices = [d for d in devices if FactPath.of(d, "hi") not in sources]
    if not devices:
        return None
    lo, hi, late = rule("assumed_lo"), rule("assumed_hi"), rule("unproved_hi")

    def both(top: float) -> tuple[Set, ...]:
        told = Provenance(kind="told")
        return tuple(
            Set(path=FactPath.of(device, end), value=value, source=told)
            for device in devices
            for end, value in (("lo", lo), ("hi", top))
        )

    cannot = tuple(
        Set(path=FactPath.of(device, "hi"), value=None, source=Provenance(kind="cannot tell"))
        for device in devices
    )
    what = "this breaker trips" if len(devices) == 1 else f"these {len(devices)} breakers trip"
    return CurveQuestion(
        f"Do their manufacturers' sheets say {what} instantaneously by {hi:g} × the rating?",
        tuple(devices),
        (("No", both(late)), ("Yes", both(hi)), ("Can't tell", cannot)),
    )


def is_proven(site_study: SiteStudy, study: FaultStudy) -> bool:
    """Whether it trips instantaneously, and no plausible length or curve would change that."""
    if study.verdict is not Verdict.AT_ONCE:
        return False
    return study.circuit is None or deciding_question(site_study.assumed, study) is None


def unproven(site_study: SiteStudy) -> tuple[str, ...]:
    """The circuits that are not proven yet, by id."""
    return tuple(c for c, study in site_study.loops.items() if not is_proven(site_study, study))
