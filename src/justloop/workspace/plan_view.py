"""The Plan stage: procedures that fit, the service change, parts, dates, visits."""

from dataclasses import dataclass

from django.urls import reverse

from returnpath.errors import BadInput
from returnpath.plan import ServiceChange, forms, offers, service_change
from returnpath.rules import Evidence
from returnpath.site.speech import rule_set_of
from returnpath.words import RuleSet

from ..accounts.guests import is_guest
from ..address import Address
from ..planning.dates import DatesView, dates_view
from ..planning.models import Work
from ..planning.money import PartsView, parts_view
from ..planning.visits import VisitsView, visits_view
from ..planning.work import added_forms
from ..solved import SolvedSite, solve
from .change import OLD_PAGE, Change

TABS = {"": "Procedures", "service": "Service change", "parts": "Parts", "dates": "Dates",
        "visits": "Visits"}  # fmt: skip
USUAL_A = 200.0
RATINGS = ("100", "125", "150", "200", "225", "300", "400")


@dataclass(frozen=True)
class PlanTab:
    """A tab of the stage."""

    label: str
    href: str
    current: bool


@dataclass(frozen=True)
class OfferRow:
    """A procedure that fits, with the schools that are chosen at its start."""

    key: str
    subject: str
    title: str
    place: str
    why: str
    asked: bool
    choices: tuple


@dataclass(frozen=True)
class WorkRow:
    """A procedure under way."""

    id: int
    title: str
    done: int
    who: str
    ended: bool


@dataclass(frozen=True)
class PlanPage:
    """The Plan stage."""

    tabs: tuple[PlanTab, ...]
    show: str
    works: tuple[WorkRow, ...]
    asked: tuple[OfferRow, ...]
    others: tuple[OfferRow, ...]
    own: tuple[tuple[str, str], ...]
    ours: tuple[tuple[str, str], ...]
    change: ServiceChange | None
    change_error: str
    target: str
    ratings: tuple[str, ...]
    parts: PartsView | None
    dates: DatesView | None
    visits: VisitsView | None


def plan_page(job, solved: SolvedSite, found, aside: dict, address: Address, user) -> PlanPage:
    """Only what its open tab shows."""
    show = address.show if address.show in TABS else ""
    evidence = solved.evidence
    own = [] if is_guest(user) else added_forms()
    rows = _offers(evidence, found, job, own) if not show else ()
    change, error, target = None, "", address.q or f"{USUAL_A:g}"
    rules = rule_set_of(solved.site).value
    tabs = {k: v for k, v in TABS.items() if rules == RuleSet.US or k != "service"}
    if show == "service" and show in tabs:
        try:
            change = service_change(evidence, float(target))
        except BadInput as bad:
            error = bad.sentence
        except ValueError:
            error = f"“{target}” is no rating in A."
    return PlanPage(
        tabs=tuple(
            PlanTab(label, address.to(show=key, q="", open=""), key == show)
            for key, label in tabs.items()
        ),
        show=show,
        works=tuple(_work(w) for w in job.works.prefetch_related("ticks__who")) if not show else (),
        asked=tuple(r for r in rows if r.asked),
        others=tuple(r for r in rows if not r.asked),
        own=tuple((f.key, f.name) for f in own),
        ours=_ours(rules),
        change=change, change_error=error, target=target, ratings=RATINGS,
        parts=parts_view(solved, aside, user) if show == "parts" else None,
        dates=dates_view(job, user) if show == "dates" else None,
        visits=visits_view(job) if show == "visits" else None,
    )  # fmt: skip


def _ours(rules: str) -> tuple[tuple[str, str], ...]:
    """(key, name) of our procedures that a rule set has."""
    own = {k: f.name for k, f in forms().items() if f.rules in (rules, "both")}
    return tuple((k, name.split(":")[0].split("{")[0].strip()) for k, name in own.items())


def next_of_plan(job, page: PlanPage) -> tuple[str, str]:
    """(the one thing to do next, where): a date at risk, the work under way, what is asked for."""
    risk = next((d for d in page.dates.rows if d.risk), None) if page.dates else None
    if risk is not None:
        return f"{risk.kind} of {risk.day:%d %b}: {risk.risk}.", ""
    work = next((w for w in page.works if not w.ended), None)
    if work is not None:
        return f"{work.title}: go on.", reverse("work", args=[job.pk, work.id])
    if page.asked:
        one = page.asked[0]
        return f"{one.title}: {one.place}. {one.why}", ""
    return "Begin a procedure that fits, or enter the dates.", ""


def _offers(evidence: Evidence, found, job, own) -> tuple[OfferRow, ...]:
    running = {(w.form, w.subject) for w in job.works.filter(ended=None)}
    rows = []
    for offer in offers(evidence, found):
        if (offer.key, offer.subject) in running:
            continue
        form = forms()[offer.key]
        title = form.name.split("{")[0].strip(" :") or form.name
        rows.append(OfferRow(offer.key, offer.subject, title, offer.name, offer.why, offer.asked,
                             form.choices))  # fmt: skip
    site = evidence.site
    for form in own:
        if form.adds_to:
            continue
        rows.append(OfferRow(form.key, site.panel.id, form.name.replace("{panel}", "").strip(" :"),
                             "the firm’s own", form.what, False, form.choices))  # fmt: skip
    return tuple(rows)


def _work(w: Work) -> WorkRow:
    ticks = list(w.ticks.all())
    last = ticks[-1].who if ticks else w.by
    return WorkRow(w.pk, w.title, len({t.step for t in ticks}), last.get_username() if last else "",
                   w.ended is not None)  # fmt: skip


def service(request, site, path: str, text: str) -> Change:
    """*Try it*: the service change, on the whole job."""
    try:
        target = float(text)
    except ValueError:
        raise BadInput(OLD_PAGE) from None
    found = service_change(solve(site).evidence, target)
    if not found.edits:
        raise BadInput("Nothing of the job changes by it.")
    return Change(found.edits)
