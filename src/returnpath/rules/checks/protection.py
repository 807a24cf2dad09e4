"""Ground-fault and arc-fault protection by place and edition (210.8, 210.12, 680)."""

from collections.abc import Iterator
from dataclasses import dataclass

from ... import tables
from ...site import Circuit, Set
from ...site.serves import is_lighting, places_in, places_of
from ..finding import LOCAL, RULE, Authority
from ..registry import Evidence, Yielded, check
from .old_work import year_of

FAMILY = "directory"
GFCI, AFCI = "GFCI", "AFCI"
#: Replaced receptacles take what the edition of their replacement asks for, since then.
REPLACED_SINCE = {GFCI: 1993, AFCI: 2014}
#: Hard-wired equipment has no receptacle; only these name the equipment itself.
EQUIPMENT = ("dishwasher", "hvac", "boat hoist", "pool pump", "pool light", "spa", "sump",
             "heated floor", "range", "dryer", "microwave")  # fmt: skip


def asked_for(circuit: Circuit, protection: str) -> list[dict[str, str]]:
    """The rows of the table that speak of a circuit, the oldest first."""
    places = places_of(circuit)
    rating, poles = circuit.breaker.rating_a, circuit.poles or 1
    found = []
    for row in tables.rows("protection_by_place"):
        place = row["place"]
        if row["protection"] != protection or place not in places:
            continue
        if poles > int(row["poles_to"]) or (rating or 0) > float(row["max_a"]):
            continue
        no_receptacle = is_lighting(circuit) or circuit.feeds == "fixed equipment"
        if protection == GFCI and place not in EQUIPMENT and no_receptacle:
            continue
        found.append(row)
    return sorted(found, key=lambda r: int(r["from_edition"]))


@dataclass(frozen=True)
class AskedFor:
    """What the edition in force asks of a circuit: the place in words, what is excepted, the
    section, since which edition; when the circuit was run, whether its receptacles were renewed
    since; whether the rule holds for it (an older circuit may remain as it is)."""

    words: str
    remark: str
    section: str
    is_sure: bool
    since: int
    year: int | None
    renewed: int | None
    in_force: bool


def asked_now(s: Evidence, circuit: Circuit, protection: str) -> AskedFor | None:
    """What the job's edition asks of a circuit; None where it asks nothing."""
    rows = [r for r in asked_for(circuit, protection) if int(r["from_edition"]) <= s.edition]
    if not rows or s.filled.supply.system.is_metric:
        return None
    row, year, replaced = rows[0], year_of(s, circuit), circuit.replaced_year
    said, _, remark = row["words"].partition("; ")
    since = int(row["from_edition"])
    renewed = replaced is not None and replaced >= max(since, REPLACED_SINCE[protection])
    return AskedFor(
        f"{said[:1].upper()}{said[1:]}", remark, row["section"], row["sure"] == "yes",
        since, year, replaced if renewed else None, year is None or year >= since or renewed,
    )  # fmt: skip


def _look(s: Evidence, protection: str, fact: str) -> Iterator[Yielded]:
    if s.filled.supply.system.is_metric:
        return
    for circuit in s.filled.circuits:
        given = getattr(circuit, fact)
        if given == "yes":
            continue
        asked = asked_now(s, circuit, protection)
        if asked is None:
            yield from _by_local_requirement(s, circuit, protection, fact, given)
            continue
        except_for = f" ({asked.remark})" if asked.remark else ""
        words, since, year, in_force = asked.words, asked.since, asked.year, asked.in_force
        renewed, replaced, path = asked.renewed, asked.renewed, f"{circuit.id}.{fact}"
        authority = Authority(RULE, f"{asked.section} ({s.edition})", not asked.is_sure)
        if given is None:
            if in_force:
                yield s.ask(
                    circuit, path, f"{words}: is there {protection} protection?{except_for}"
                )
        elif in_force and (year is not None or renewed or asked.is_sure):
            by = f"run in {year}" if year is not None else f"rules of {s.edition}"
            by = f"replaced in {replaced}" if renewed else by
            yield s.found(
                circuit,
                f"{words} without {protection} protection ({by}; asked for since"
                f" {since}){except_for}.",
                _cure(protection),
                fix=(Set(path=path, value="yes"),),
                parts=(f"{protection} breaker",),
                authority=authority,
            )
        elif in_force:
            yield s.found(
                circuit,
                f"{words} without {protection} protection.",
                "Ask the local office whether it is asked for here.",
                level="check",
                authority=authority,
            )
        else:
            yield s.found(
                circuit,
                f"{words} without {protection} protection: existing ({year}), may remain; asked"
                f" for since {since}, and when a receptacle is replaced.",
                f"{_an(protection)} breaker costs little.",
                level="note",
                authority=authority,
            )


def _by_local_requirement(
    s: Evidence, circuit: Circuit, protection: str, fact: str, given: str | None
) -> Iterator[Yielded]:
    """A local requirement that names the protection and a place: “GFCI in the laundry”."""
    for one in s.practice.requirements:
        asked = set(places_in(one.text)) & set(places_of(circuit))
        if protection not in one.text.upper() or not asked:
            continue
        path = f"{circuit.id}.{fact}"
        if given is None:
            yield s.ask(circuit, path, f"{one.text}: is there {protection} protection?")
            return
        yield s.found(
            circuit,
            f"Without {protection} protection, which is asked for here: {one.text}.",
            _cure(protection),
            fix=(Set(path=path, value="yes"),),
            parts=(f"{protection} breaker",),
            authority=Authority(LOCAL, f"{one.who}, {one.when}".strip(", ")),
        )
        return


def _cure(protection: str) -> str:
    """What is installed."""
    breaker, receptacle = _an(protection), _an(protection, False)
    return f"{breaker} breaker, or {receptacle} receptacle first on the circuit."


def _an(protection: str, first: bool = True) -> str:
    """With its article: a GFCI, an AFCI; ``first`` in its sentence."""
    article = "an" if protection == AFCI else "a"
    return f"{article.capitalize() if first else article} {protection}"


NEEDS = (
    "buildings.permit",
    "buildings.wired_year",
    "circuits.breaker.rating_a",
    "circuits.feeds",
    "circuits.places",
    "circuits.poles",
    "circuits.replaced_year",
    "circuits.year",
    "practice.requirements",
    "supplies.system",
)


@check(
    "ground-fault-protection-by-place",
    "fix",
    looks="A place where ground-fault protection is asked for, by edition, has none.",
    why="A few milliamperes through a wet hand kill, and no breaker sees them.",
    topic="gfci_place",
    needs=(*NEEDS, "circuits.gfci"),
)
def ground_fault_protection_by_place(s: Evidence) -> Iterator[Yielded]:
    yield from _look(s, GFCI, "gfci")


@check(
    "arc-fault-protection-by-place",
    "fix",
    looks="A place where arc-fault protection is asked for, by edition, has none.",
    why="A loose or cut wire arcs for hours without a breaker noticing.",
    topic="afci_place",
    needs=(*NEEDS, "circuits.afci"),
)
def arc_fault_protection_by_place(s: Evidence) -> Iterator[Yielded]:
    yield from _look(s, AFCI, "afci")
