"""Break and mend: read, say what it is, see how the engine would have gone."""

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST, require_safe

from returnpath.diagnosis.defects import name_of_defect, priors
from returnpath.errors import BadInput
from returnpath.learn import GRADES, HiddenPlace, cost_of, hidden_place, is_named
from returnpath.learn.hidden import KINDS, MINUTES
from returnpath.readings import figure_of, predict, reading_kinds
from returnpath.readings.reading import TypedReading
from returnpath.site import Circuit, name_of

from ..pages import show
from .drawn import drawn
from .models import Round

OPEN_IT = "open-neutral"
MOST_ROUNDS = 500


@dataclass(frozen=True)
class ReadRow:
    """A reading of a round, beside what the place as it is told would read."""

    place: str
    kind: str
    figure: str
    band: str
    minutes: int


@dataclass(frozen=True)
class ToldRow:
    """A circuit as it is told."""

    name: str
    line: str
    panel: str


@dataclass(frozen=True)
class RoundPage:
    """A round."""

    round: Round
    left: int
    minutes: int
    rows: tuple[ReadRow, ...]
    places: tuple[tuple[str, str], ...]
    kinds: tuple[tuple[str, str], ...]
    claims: tuple[tuple[str, str], ...]
    count: int
    truth: tuple[str, ...]
    par: str
    said: str
    called: str
    picture: str
    circuits: tuple[ToldRow, ...]


@require_POST
def begin_round(request):
    """A new round: a grade, and a seed that two people may share."""
    grade, seed = request.POST.get("grade", ""), request.POST.get("seed", "")
    if not (grade.isdecimal() and int(grade) in GRADES and seed.isdecimal() and len(seed) < 6):
        messages.error(request, "Choose a grade, and a number of up to five digits for the place.")
        return redirect("learn")
    if Round.objects.filter(who=request.user).count() >= MOST_ROUNDS:
        Round.objects.filter(who=request.user).order_by("at").first().delete()
    made = Round.objects.create(who=request.user, seed=int(seed), grade=int(grade))
    return redirect("round", number=made.pk)


@require_safe
def show_round(request, number: int):
    """The place as it is told, what was read, what may be said."""
    one = get_object_or_404(Round, who=request.user, pk=number)
    place = hidden_place(one.seed, one.grade)
    names = {i: name_of(e) for i, e in place.site.elements().items()}
    readable = [*(c.id for c in place.site.circuits), *(p.id for p in place.site.panels)]
    done = bool(one.end)
    par = place.par if done else None
    page = RoundPage(
        one, place.minutes - one.spent, place.minutes, _rows(place, one, names),
        tuple((i, names[i]) for i in readable),
        tuple((k, f"{reading_kinds()[k].label}, {m} min") for k, m in MINUTES.items()),
        _claims(place) if not done and not one.named else (), len(place.hidden),
        tuple(_named(place, d) for d in place.hidden) if done or one.named else (),
        f"{len(par.readings)} readings, {par.minutes} min" + ("" if par.named else ", not sure")
        if par else "",
        one.said, names[place.called_for], drawn(place.ready.study, place.called_for),
        tuple(ToldRow(names[c.id], _line(c), names[c.panel]) for c in place.site.circuits),
    )  # fmt: skip
    return show(request, "learn/round.html", page)


def _line(c: Circuit) -> str:
    return f"{c.breaker.rating_a:g} A, {c.line_size} AWG {c.method}, {c.length_ft:g} ft"


def _named(place: HiddenPlace, defect) -> str:
    return name_of_defect(place.ready.study, defect)


def _rows(place: HiddenPlace, one: Round, names: dict[str, str]) -> tuple[ReadRow, ...]:
    found = []
    for kind, at, value, minutes in one.readings:
        band = predict(place.ready.study, TypedReading("", kind, at, names[at], 0.0))
        words = f"{band.low:.3g} to {band.high:.3g}" if band and band.high < 1e6 else ""
        found.append(ReadRow(names[at], reading_kinds()[kind].label, figure_of(kind, value), words,
                             minutes))  # fmt: skip
    return tuple(found)


def _claims(place: HiddenPlace) -> tuple[tuple[str, str], ...]:
    """Everything that could be hidden in this grade, a class once."""
    seen: dict[str, str] = {}
    for d in place.ready.defects:
        if d.kind in KINDS[place.grade] and d.key not in seen:
            element = place.site.elements().get(d.element)
            says = priors()[d.kind][1]
            seen[d.key] = f"{name_of(element)}: {says}" if element is not None else says
    return tuple(sorted(seen.items(), key=lambda kv: kv[1]))


@require_POST
def play(request, number: int):
    """Read something, open something, or say what it is."""
    one = get_object_or_404(Round, who=request.user, pk=number)
    place = hidden_place(one.seed, one.grade)
    try:
        _play(request, one, place)
    except BadInput as error:
        messages.error(request, error.sentence)
    return redirect("round", number=one.pk)


def _play(request, one: Round, place: HiddenPlace) -> None:
    post: Any = request.POST
    if one.end:
        raise BadInput("This round has ended.")
    if post.get("do") == OPEN_IT:
        one.end = "shock"
    elif post.get("do") == "say" and not one.named:
        claims = dict(_claims(place))
        said = [k for k in post.getlist("claim") if k in claims][:3]
        if len(said) != len(place.hidden):
            raise BadInput(f"Say {len(place.hidden)}: that many are hidden.")
        one.said = "; ".join(claims[k] for k in said)[:80]
        one.end = "" if is_named(place, said) else "wrong"
        one.named = not one.end
    else:
        _read(one, place, str(post.get("kind", ""))[:20], str(post.get("place", ""))[:12])
    one.save()


def _prove(one: Round, place: HiddenPlace, kind: str, at: str) -> None:
    """It is mended: one reading where it was wrong, that fits, ends the round."""
    wrong = {d.element for d in place.hidden}
    circuit = place.site.elements().get(at)
    if at not in wrong and getattr(circuit, "panel", None) not in wrong:
        raise BadInput("Prove it where it was wrong, or at a circuit behind it.")
    value = place.mended.read(kind, at)
    one.readings = [*one.readings, [kind, at, value, cost_of(place, kind, at, "")]]
    one.end = "right"


def _read(one: Round, place: HiddenPlace, kind: str, at: str) -> None:
    if kind not in MINUTES or at not in place.site.elements():
        raise BadInput("Choose what to read, and where.")
    if one.named:  # no clock runs while a thing is mended
        _prove(one, place, kind, at)
        return
    was = one.readings[-1][1] if one.readings else ""
    cost = cost_of(place, kind, at, was)
    if one.spent + cost > place.minutes:
        raise BadInput(f"That takes {cost} minutes; {place.minutes - one.spent} are left. Say it.")
    value = place.meter.read(kind, at)
    one.readings = [*one.readings, [kind, at, value, cost]]
    one.spent += cost
