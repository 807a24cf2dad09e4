"""The Log: what would explain the readings, what each would do, what to read next."""

from collections.abc import Iterable
from dataclasses import dataclass

from returnpath.diagnosis import Candidate, Defect, Diagnosis, Given, edits_of
from returnpath.errors import BadInput
from returnpath.readings import figure_of, reading_kinds
from returnpath.site import Installation, apply, name_of

from ..address import Address
from ..log.models import LoggedReading
from ..solved import SolvedSite, solve
from .change import OLD_PAGE, Change

LEAST_SHOWN, LEAST_WORKED_OUT = 0.01, 0.05
MOST_WORKED_OUT, MOST_SHOWN = 2, 6


@dataclass(frozen=True)
class WhyRow:
    """A defect that would explain the readings; ``does`` what it would do, ``key`` and ``size``
    what *Try* tries."""

    share: str
    width: int
    words: str
    does: str
    map_href: str
    key: str
    size: str
    same: bool


@dataclass(frozen=True)
class NextReading:
    """What to read next, and what each answer would mean."""

    words: str
    href: str
    answers: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class WhyView:
    """What would explain the readings, and what to read next; ``unread`` what they cannot tell."""

    rows: tuple[WhyRow, ...]
    next: NextReading | None
    tied: str
    used: int
    slips: tuple[str, ...]
    unread: str
    unused: tuple[str, ...]


#: Two readings of one thing agree within so many times the meter's own error.
AGREE, MOST_REPEATS = 2.0, 2


def with_repeats(newest: list[LoggedReading], kept: Iterable[LoggedReading]) -> list[LoggedReading]:
    """The newest readings, and the earlier ones that they confirm: what was read twice is no slip.
    The oldest first."""
    last = {(r.kind, r.place): r for r in newest}
    more: dict[tuple[str, str], list[LoggedReading]] = {}
    for r in sorted(kept, key=lambda r: (r.at, r.pk), reverse=True):
        one = last.get((r.kind, r.place))
        if one is None or one.pk == r.pk:
            continue
        share, least = r.error or (
            reading_kinds()[r.kind].error_share,
            reading_kinds()[r.kind].error_abs,
        )
        if abs(r.value - one.value) <= AGREE * (share * one.value + least):
            more.setdefault((r.kind, r.place), []).append(r)
    repeats = [r for found in more.values() for r in found[:MOST_REPEATS]]
    return sorted([*newest, *repeats], key=lambda r: (r.at, r.pk))


def why_view(solved: SolvedSite, newest: list[LoggedReading], kept: Iterable[LoggedReading],
             address: Address, names: dict[str, str]) -> WhyView | None:  # fmt: skip
    """The defects that the newest reading of each kind and place would be explained by; ``kept``
    all readings of the job."""
    if not newest or not solved.study.states:
        return None
    rows = with_repeats(newest, kept)
    given = [Given(r.kind, r.place, r.value, r.error) for r in rows]
    found = solved.diagnoser.diagnose(given)
    used = len(given) - len(found.unused)
    if not used:
        return None
    first = found.candidates[0]
    shown = [c for c in found.candidates if c is first or _is_told(c, found.candidates)]
    tied = [c.words for c in shown if c.key in first.same]
    return WhyView(
        rows=tuple(_row(solved, c, n, first, address) for n, c in enumerate(shown[:MOST_SHOWN])),
        next=_next(found.next_reading, address, names),
        tied="; ".join(tied),
        used=used,
        slips=tuple(f"{names[rows[n].place]}: {rows[n].figure}" for n in found.slips),
        unread=unread_words(found, names),
        unused=tuple(f"{names[rows[n].place]}: {rows[n].kind_words}" for n in found.unused_at),
    )


def unread_words(found: Diagnosis, names: dict[str, str]) -> str:
    """The circuits that none of the readings went to, and how likely what is wrong is there."""
    if not found.unread:
        return ""
    count, share = len(found.unread), found.unread_share
    where = names[found.unread[0]] if count == 1 else f"{count} circuits"
    chance = "Under 1%" if share < 0.01 else f"{share:.0%}"
    there = "it" if count == 1 else "one of them"
    return (f"Not read at: {where}. {chance} that something is wrong at {there}:"
            " no reading elsewhere shows what is loose or open in a circuit.")  # fmt: skip


def _is_told(c: Candidate, among: tuple[Candidate, ...]) -> bool:
    """Not too unlikely, and no pair whose one half alone is likelier: that adds nothing."""
    halves = {d.key for d in c.defect.both}
    return c.share >= LEAST_SHOWN and not any(o.key in halves and o.share > c.share for o in among)


def _row(solved: SolvedSite, c: Candidate, n: int, first: Candidate, address: Address) -> WhyRow:
    edits = edits_of(solved.site, c.defect)
    is_worked_out = n < MOST_WORKED_OUT and c.share >= LEAST_WORKED_OUT and edits
    words_ = _unbroken(c.words[:1].upper() + c.words[1:])
    return WhyRow(
        share="over 99%" if c.share > 0.99 else f"{c.share:.0%}",
        width=max(round(c.share * 240), 2),
        words=words_,
        does=_does(solved, c, edits) if is_worked_out else "",
        map_href=address.to(at=c.element, show="", q="", stage="buildings") if c.element else "",
        key=c.key if edits else "",
        size=" ".join(f"{d.size:g}" for d in c.defect.both or (c.defect,)),
        same=c.key in first.same,
    )


def _unbroken(words: str) -> str:
    """A figure and its ohms stay on one line."""
    return words.replace(" Ω", "\u00a0Ω")


def _does(solved: SolvedSite, c: Candidate, edits) -> str:
    """What it would do: the worst verdict that turns, amperes on metal."""
    try:
        site = solved.site
        for edit in edits:
            site = apply(site, edit)
        after = solve(site)
    except BadInput:
        return ""
    said = []
    turned = [
        (f.place_name, f.verdict)
        for place, f in after.study.loops.items()
        if f.verdict != getattr(solved.study.loops.get(place), "verdict", None)
    ]
    own = [t for t in turned if solved.site.elements().get(c.element) is not None
           and t[0] == name_of(solved.site.elements()[c.element])]  # fmt: skip
    for name, verdict in (own or turned)[:1]:
        more = f", and {len(turned) - 1} more" if len(turned) > 1 else ""
        said.append(f"{name} {verdict.value}{more}")
    amps = _on_metal(after)
    if amps >= _on_metal(solved) + 0.1:
        said.append(f"{amps:.2g} A of load on metal")
    return "; ".join(said) or "no verdict turns"


def _on_metal(solved: SolvedSite) -> float:
    return max((s.amps for load in solved.study.loads.values() for s in load.strays), default=0.0)


def _next(proposal, address: Address, names: dict[str, str]) -> NextReading | None:
    if proposal is None:
        return None
    kind = reading_kinds()[proposal.kind]
    typed = f"{names[proposal.place]} {kind.typed} "
    return NextReading(
        words=proposal.words,
        href=address.to(at="", q=typed) + "#reading",
        answers=tuple(
            (figure_of(proposal.kind, float(f"{v:.2g}")), _unbroken(said))
            for said, v in proposal.answers
        ),
    )


def suppose(request, site: Installation, path: str, text: str) -> Change:
    """*Try*: a defect that would explain the readings, as if it were there."""
    diagnoser = solve(site).diagnoser
    try:
        sizes = [float(part) for part in text.split()][:2]
    except ValueError:
        raise BadInput(OLD_PAGE) from None
    keys = path.split(" + ")[:2]
    found = [[d for d in diagnoser.defects if d.key == key] for key in keys]
    if not all(found) or len(sizes) != len(keys):
        raise BadInput(OLD_PAGE)
    edits = [e for some, size in zip(found, sizes, strict=True)
             for e in edits_of(site, _nearest(some, size))]  # fmt: skip
    if not edits:
        raise BadInput("That cannot be tried: the job has no words for it.")
    return Change(tuple(edits))


def _nearest(some: list[Defect], size: float) -> Defect:
    return min(some, key=lambda d: abs(d.size - size))
