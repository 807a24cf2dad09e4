"""Learn: the list, an experiment, a question of sizes, a learner's page."""

import random
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.contrib.auth import get_user_model
from django.http import Http404
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_safe

from returnpath.learn import (
    BOXES,
    GRADES,
    METRIC_TOPICS,
    Measured,
    before,
    experiments,
    next_box,
    outcome,
    question,
    topics,
)

from ..files import attached_csv
from ..pages import show
from .drawn import drawn
from .models import Card, Round

#: Four ready lessons, an hour each: title, experiments, topics of sizes.
LESSONS = (
    ("Which way home", ("goes-to-earth", "least-resistance", "rod-clears", "no-main-bond",
                        "one-ohm", "breaker-protects"), ("egc",)),
    ("One bond, no more", ("bonding-twice", "subpanel-screw", "screw-proves", "same-anyway",
                           "spare-neutral", "bootleg-neutral-lost"),
     ("jumper", "neutral", "building")),
    ("Prove it", ("tester-proves", "shows-nothing", "main-off", "white-never-hot",
                  "gfci-no-ground", "double-breaker"), ("gec", "gec-cap")),
    ("IEC 60364: whose earth", ("armour-only-shields", "ring-works", "bonding-alone",
                                "export-earth", "tt-breaker", "rcd-limits"),
     ("protective", "earthing", "main-bonding", "metric-line")),
)  # fmt: skip


@dataclass(frozen=True)
class ListRow:
    """An experiment in the list."""

    key: str
    believed: str
    state: str


@dataclass(frozen=True)
class LearnPage:
    """The first page."""

    rows: tuple[ListRow, ...]
    metric_rows: tuple[ListRow, ...]
    topics: tuple[tuple[str, str, str], ...]
    metric_topics: tuple[tuple[str, str, str], ...]
    lessons: tuple[tuple[int, str, int], ...]
    due: tuple[tuple[str, str], ...]
    grades: tuple[tuple[int, str], ...]
    seed: int


def _state(card: Card | None) -> str:
    if card is None:
        return ""
    if card.box == len(BOXES) - 1:
        return "known"
    return "wrong last time" if card.box == 0 and card.wrong else "comes back"


@require_safe
def learn(request):
    """What there is, what comes back today."""
    cards = {(c.kind, c.key): c for c in Card.objects.filter(who=request.user)}
    today = timezone.localdate()
    due = [c for c in cards.values() if c.due <= today and (c.wrong or c.right)]
    names = {("experiment", k): e.believed for k, e in experiments().items()}
    names |= {("size", k): words for k, words in topics().items()}
    rows = [(e.is_metric, ListRow(k, e.believed, _state(cards.get(("experiment", k)))))
            for k, e in experiments().items()]  # fmt: skip
    sizes = [(k, words, _state(cards.get(("size", k)))) for k, words in topics().items()]
    page = LearnPage(
        tuple(row for is_metric, row in rows if not is_metric),
        tuple(row for is_metric, row in rows if is_metric),
        tuple(s for s in sizes if s[0] not in METRIC_TOPICS),
        tuple(s for s in sizes if s[0] in METRIC_TOPICS),
        tuple((n, title, len(some) + len(sizes))
              for n, (title, some, sizes) in enumerate(LESSONS, 1)),
        tuple((_href(c), names.get((c.kind, c.key), c.key)) for c in due[:6]),
        tuple((g, f"{count} hidden, {minutes} min") for g, (count, minutes) in GRADES.items()),
        random.SystemRandom().randrange(1, 9999),
    )  # fmt: skip
    return show(request, "learn/list.html", page)


def _href(card: Card) -> str:
    return f"/learn/try/{card.key}" if card.kind == "experiment" else f"/learn/sizes/{card.key}"


def keep_answer(user, kind: str, key: str, right: bool) -> Card:
    """A card moves on, or back."""
    card, _ = Card.objects.get_or_create(who=user, kind=kind, key=key)
    card.box, days = next_box(card.box, right)
    card.due = timezone.localdate() + timedelta(days=days)
    card.right += right
    card.wrong += not right
    card.at = timezone.now()
    card.save()
    return card


@dataclass(frozen=True)
class TryPage:
    """An experiment: the question, then what happened."""

    one: Any
    options: tuple[tuple[str, str], ...]
    chosen: str
    right: bool
    said: tuple[str, ...]
    map: str
    back_in: int
    next: str


@require_http_methods(["GET", "HEAD", "POST"])
def attempt(request, key: str):
    """Say what will happen, then see it happen."""
    one = experiments().get(key)
    if one is None:
        raise Http404
    chosen = request.POST.get("say", "")[:20] if request.method == "POST" else ""
    said: tuple[str, ...] = ()
    site, back_in = before(one), 0
    right = chosen == one.right
    if chosen in one.options:
        found = outcome(one)
        said, site = found.said, found.site
        card = keep_answer(request.user, "experiment", key, right)
        back_in = BOXES[card.box]
    keys = list(experiments())
    after = keys[(keys.index(key) + 1) % len(keys)]
    page = TryPage(
        one, tuple(one.options.items()), chosen if chosen in one.options else "", right, said,
        drawn(Measured(site).study, one.circuit), back_in, f"/learn/try/{after}",
    )  # fmt: skip
    return show(request, "learn/try.html", page, site=site)


@dataclass(frozen=True)
class SizesPage:
    """A question of sizes, then its answer with the working."""

    topic: str
    words: str
    seed: int
    ask: str
    options: tuple[str, ...]
    chosen: str
    right: str
    working: tuple[str, ...]
    again: str


@require_http_methods(["GET", "HEAD", "POST"])
def sizes(request, topic: str):
    """One question of a topic; the same seed is the same question."""
    if topic not in topics():
        raise Http404
    asked = request.POST if request.method == "POST" else request.GET
    text = asked.get("seed", "")
    seed = (
        int(text) if text.isdecimal() and len(text) < 7 else random.SystemRandom().randrange(9999)
    )
    one = question(topic, seed)
    chosen = request.POST.get("say", "")[:80] if request.method == "POST" else ""
    if chosen in one.options:
        keep_answer(request.user, "size", topic, chosen == one.right)
    page = SizesPage(
        topic, topics()[topic], seed, one.ask, one.options,
        chosen if chosen in one.options else "", one.right, one.working, f"/learn/sizes/{topic}",
    )  # fmt: skip
    return show(request, "learn/sizes.html", page)


@dataclass(frozen=True)
class LessonPage:
    """A lesson: an hour, on one sheet."""

    title: str
    experiments: tuple[Any, ...]
    topics: tuple[tuple[str, str], ...]


@require_safe
def lesson(request, number: int):
    """A ready lesson, printable."""
    if not 1 <= number <= len(LESSONS):
        raise Http404
    title, some, of = LESSONS[number - 1]
    page = LessonPage(title, tuple(experiments()[k] for k in some),
                      tuple((k, topics()[k]) for k in of))  # fmt: skip
    return show(request, "learn/lesson.html", page)


@dataclass(frozen=True)
class KnownRow:
    """A card as a learner's page shows it."""

    who: str
    words: str
    state: str
    due: Any
    right: int
    wrong: int


@dataclass(frozen=True)
class KnownPage:
    """What is known, what comes back when; of everybody for whom that is to be seen."""

    rows: tuple[KnownRow, ...]
    rounds: tuple[Round, ...]
    is_foreman: bool


def _known(request) -> tuple[list[Card], list[Round]]:
    """One's own; an administrator of the firm sees their people's."""
    people = [request.user.pk]
    if request.user.is_staff:
        people = list(get_user_model().objects.filter(is_active=True).values_list("pk", flat=True))
    cards = Card.objects.filter(who__in=people).select_related("who").order_by("who", "due")
    rounds = Round.objects.filter(who__in=people).exclude(end="").select_related("who")
    return list(cards[:2000]), list(rounds[:100])


def _rows(cards: list[Card]) -> tuple[KnownRow, ...]:
    names = {("experiment", k): e.believed for k, e in experiments().items()}
    names |= {("size", k): words for k, words in topics().items()}
    return tuple(
        KnownRow(c.who.get_username(), names.get((c.kind, c.key), c.key), _state(c), c.due, c.right,
                 c.wrong)
        for c in cards
    )  # fmt: skip


@require_safe
def known(request):
    """A learner's page."""
    cards, rounds = _known(request)
    page = KnownPage(_rows(cards), tuple(rounds), request.user.is_staff)
    return show(request, "learn/known.html", page)


@require_safe
def known_csv(request):
    """The same as CSV."""
    cards, _ = _known(request)
    heading = ("who", "what", "state", "due", "right", "wrong")
    rows = ((r.who, r.words, r.state, r.due.isoformat(), r.right, r.wrong) for r in _rows(cards))
    return attached_csv(heading, rows, "just-loop-learned.csv")
