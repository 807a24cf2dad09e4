"""Prices and the list of parts: CSV in and out, totals in three columns, cuts."""

import csv
import io
from dataclasses import dataclass

from django.contrib import messages
from django.db import transaction
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from returnpath.cells import unguarded
from returnpath.errors import BadInput, number_in
from returnpath.plan import PartLine, cut, parts_of, total_of
from returnpath.plan.parts import hours_of, part_kinds
from returnpath.rules import Evidence, shopping_list
from returnpath.site import Set, apply

from ..accounts import audit
from ..accounts.guests import not_for_guests, of_the_firm
from ..accounts.models import Act
from ..address import address_of
from ..files import attached_csv, sent_text
from ..jobs.access import job_of
from ..solved import SolvedSite, solve, standing
from .models import Price

COLUMNS = ("first", "second", "third")
HEADING = ("item", *COLUMNS, "aisle", "on truck")
MOST_BYTES, MOST_ROWS = 500_000, 2000
SPOOL_FT = 250.0


@dataclass(frozen=True)
class PartRow:
    """A line of the list as it is shown."""

    what: str
    amount: str
    of: str
    note: str
    price: str
    aisle: str
    on_truck: bool
    cuts: str


@dataclass(frozen=True)
class FixTotal:
    """What one fix takes: its money in each column, its hours."""

    place: str
    found: str
    money: str
    hours: str


@dataclass(frozen=True)
class PartsView:
    """The list of a job."""

    groups: tuple[tuple[str, tuple[PartRow, ...]], ...]
    totals: tuple[str, ...]
    open: tuple[str, ...]
    hours: str
    fixes: tuple[FixTotal, ...]
    copper_only: tuple[str, ...]
    prices: int
    count: int
    protection: tuple[str, ...]


def parts_view(solved: SolvedSite, aside: dict, user) -> PartsView:
    """Everything that the standing findings take, with the firm's prices where ``user`` is of
    it."""
    found = standing(solved, aside)
    evidence = solved.evidence
    lines = parts_of(evidence, found)
    listed = {p.item.lower(): p for p in of_the_firm(Price.objects.all(), user)[:MOST_ROWS]}
    labels = {key: label for key, (_, label, _) in part_kinds().items()}
    groups: dict[str, list[PartRow]] = {}
    for line in _in_order(lines, listed):
        price = listed.get(line.key)
        name = price.aisle if price and price.aisle else labels[line.kind]
        groups.setdefault(name, []).append(_row(line, price))
    totals = [total_of(lines, _prices(listed, column)) for column in COLUMNS]
    fixes = [_fix(evidence, f, listed) for f in found if f.parts or f.fix]
    return PartsView(
        tuple((name, tuple(rows)) for name, rows in groups.items()),
        tuple(f"{t.money:,.2f}" for t, c in zip(totals, COLUMNS, strict=True)
              if any(getattr(p, c) is not None for p in listed.values())),
        totals[0].open, f"{hours_of(lines):g} h", tuple(x for x in fixes if x is not None),
        _copper_only(solved), len(listed), len(lines), _protection(solved, listed),
    )  # fmt: skip


def _in_order(lines, listed) -> list[PartLine]:
    """By aisle where the firm names one, in the list's own order."""
    aisles = list(dict.fromkeys(p.aisle for p in listed.values() if p.aisle))

    def place(line: PartLine) -> int:
        price = listed.get(line.key)
        return aisles.index(price.aisle) if price and price.aisle else len(aisles)

    return sorted(lines, key=place)


def _prices(listed, column: str) -> dict[str, float]:
    return {k: v for k, p in listed.items() if (v := getattr(p, column)) is not None}


def _row(line: PartLine, price: Price | None) -> PartRow:
    amount = f"{line.feet:g} ft" if line.feet else f"{line.count} ×" if line.count else ""
    if not line.length_known:
        amount = "length not known"
    money = ""
    if price is not None and price.first is not None and line.length_known:
        money = f"{price.first * (line.feet or line.count):,.2f}"
    return PartRow(
        line.what, amount, ", ".join(line.of[:3]) + (" …" if len(line.of) > 3 else ""), line.note,
        money, price.aisle if price else "", bool(price and price.on_truck), _cuts(line),
    )  # fmt: skip


def _cuts(line: PartLine) -> str:
    """The spools and what is cut of each."""
    if line.kind != "wire" or len(line.pieces) == 0:
        return ""
    try:
        found = cut(line.pieces, SPOOL_FT)
    except BadInput as error:
        return error.sentence
    said = [" + ".join(f"{p.feet:g}" for p in s) for s in found.spools]
    spools = f"{len(said)} spool{'s' if len(said) > 1 else ''} of {SPOOL_FT:g} ft"
    return f"{spools}: {'; '.join(said)}"


def _fix(evidence: Evidence, finding, listed) -> FixTotal | None:
    lines = parts_of(evidence, [finding])
    if not lines:
        return None
    total = total_of(lines, _prices(listed, "first"))
    money = f"{total.money:,.2f}" if total.money else ""
    if total.open and money:
        money = f"{money} and more"
    return FixTotal(finding.place_name, finding.found, money or "no price yet",
                    f"{hours_of(lines):g} h")  # fmt: skip


def _protection(solved: SolvedSite, listed: dict[str, Price]) -> tuple[str, ...]:
    """GFCI and AFCI that are missing, bought at the breaker or at the receptacle."""
    said = []
    for at, words in (("breaker", "at the breaker"), ("outlet", "at the receptacle")):
        site = apply(solved.site, Set(path="practice.gfci_at", value=at))
        other = solve(site)
        evidence = other.evidence
        bought = [p for panel in site.panels for p in shopping_list(evidence, panel.id)]
        if not bought:
            return ()
        items = "; ".join(f"{p.count} × {p.what}" for p in bought[:4])
        prices = [listed.get(p.what.lower()) for p in bought]
        known = [x.first * p.count for x, p in zip(prices, bought, strict=True)
                 if x is not None and x.first is not None]  # fmt: skip
        open_ones = len(bought) - len(known)
        money = f"{sum(known):,.2f}" if known else ""
        tail = f"{money}{f', {open_ones} without price' if open_ones else ''}".strip(", ")
        said.append(
            f"{words.capitalize()}: {items}{' and more' if len(bought) > 4 else ''} ({tail})"
        )
    return tuple(said)


def _copper_only(solved: SolvedSite) -> tuple[str, ...]:
    """Equipment that takes copper alone, said where its place is on the list."""
    return tuple(f.place_name for f in solved.findings if f.id == "aluminium-on-copper-only")


@require_safe
def parts_csv(request, pk: int):
    """The list as CSV."""
    job = job_of(request, pk)
    latest = job.latest
    view = parts_view(solve(latest.site, latest.document), latest.aside, request.user)
    audit.note(request, Act.EXPORT, "parts", job=job)
    heading = ("aisle", "what", "amount", "for", "note", "price", "on truck", "cuts")
    rows = (
        (name, r.what, r.amount, r.of, r.note, r.price, "yes" if r.on_truck else "", r.cuts)
        for name, some in view.groups
        for r in some
    )
    return attached_csv(heading, rows, f"just-loop-{job.pk}-parts.csv")


@require_safe
def prices_csv(request):
    """The firm's price list as CSV."""
    not_for_guests(request)
    rows = (
        (p.item, *(getattr(p, c) for c in COLUMNS), p.aisle, "yes" if p.on_truck else "")
        for p in Price.objects.all()
    )
    return attached_csv(HEADING, rows, "just-loop-prices.csv")


@require_POST
def prices_in(request, pk: int):
    """A price list takes the place of the firm's: all of it, or nothing and the row that is
    wrong."""
    not_for_guests(request)
    job = job_of(request, pk)
    try:
        rows = read_prices(sent_text(request, "a price list", MOST_BYTES))
        with transaction.atomic():
            Price.objects.all().delete()
            Price.objects.bulk_create(rows)
        messages.info(request, f"{len(rows)} prices read in.")
    except BadInput as error:
        messages.error(request, error.sentence)
    return redirect(address_of(job, "plan", {"show": "parts"}).here)


def read_prices(text: str) -> list[Price]:
    """The rows of a price list; BadInput names the row."""
    table = csv.DictReader(io.StringIO("\n".join(text.splitlines())))
    try:
        names = [(n or "").strip().lower() for n in table.fieldnames or ()]
    except csv.Error as error:
        raise BadInput(f"That is no CSV file: {error}.") from None
    if "item" not in names:
        raise BadInput("The first line needs the column item.")
    extra = [n for n in names if n not in HEADING]
    if extra:
        raise BadInput(f"There is no column “{extra[0]}”; {', '.join(HEADING)} are.")
    table.fieldnames = names
    found: dict[str, Price] = {}
    try:
        for n, cells in enumerate(table, 2):
            if n > MOST_ROWS:
                raise BadInput(f"At most {MOST_ROWS} prices in a list.")
            item = unguarded((cells.get("item") or "").strip())[:120]
            if not item:
                continue
            if item.lower() in found:
                raise BadInput(f"Row {n}: “{item}” stands there twice.")
            given = {c: _price(n, c, cells.get(c)) for c in COLUMNS}
            aisle = unguarded((cells.get("aisle") or "").strip())[:40]
            truck = (cells.get("on truck") or "").strip().lower() in ("yes", "true", "1", "x")
            found[item.lower()] = Price(item=item, aisle=aisle, on_truck=truck, **given)
    except csv.Error as error:
        raise BadInput(f"That is no CSV file: {error}.") from None
    if not found:
        raise BadInput("There is no price in that file.")
    return list(found.values())


def _price(n: int, column: str, cell: str | None) -> float | None:
    typed = (cell or "").strip().replace(",", "")
    if not typed:
        return None
    try:
        value = float(typed)
    except ValueError:
        raise BadInput(f"Row {n}: “{typed}” is no price.") from None
    return number_in(value, f"Row {n}: {column}", 0, 1e6)
