"""Sizes that follow the service conductors: GEC, main bonding jumper, neutral, lines."""

from .. import tables, working
from ..errors import BadInput, number_in
from ..tables import metal_name
from ..working import Working
from .lines import ampacity

JUMPER_SHARE_ABOVE_TABLE = 0.125
SOLE_CONNECTION_THROUGH = 2014


def _row_by_area(table: str, prefix: str, area_cmil: float, material: str) -> dict[str, str]:
    """The row of a table by the largest line conductor (or the sum of parallel ones)."""
    column = f"{prefix}_{'cu' if material == 'copper' else 'al'}_to"
    for row in tables.rows(table):
        if not row[column] or area_cmil <= tables.area(row[column]):
            return row
    raise AssertionError(table)  # pragma: no cover - the last row is open


def _total(line: str, material: str, sets: int) -> float:
    tables.known_material(material)
    if line not in tables.sizes(material):
        tables.conductor(line)
        raise BadInput(f"{tables.size_name(line)} is not made in {metal_name(material)}.")
    return tables.area(line) * number_in(sets, "Parallel sets", 1, 12)


def _times(sets: int) -> str:
    """``"2 × "`` before the size of parallel sets, nothing before a single one."""
    return f"{sets:d} × " if sets > 1 else ""


def electrode_kinds() -> dict[str, str]:
    """Electrode kinds a cap is kept for, with the trade's word for each."""
    return {r["electrode"]: r["label"] for r in tables.rows("gec_caps")}


def smallest_gec(
    line: str,
    line_material: str,
    sets: int = 1,
    electrode: str | None = None,
    material: str = "copper",
    edition: int = 2023,
    goes_on_to: tuple[str, ...] = (),
    ring: str | None = None,
) -> Working:
    """The smallest grounding electrode conductor (its size as text).

    ``line`` the service conductor of ``line_material``, ``sets`` of it in parallel;
    ``electrode`` the only kind it goes to ("rod", "plate", "concrete", "ring", "water"), or None
    for the full size; ``goes_on_to`` the kinds that the same conductor goes on to: through 2014
    any of them takes the cap away (“sole connection”), since then only one that needs more;
    ``ring`` the ring's own conductor, which its electrode conductor need not be larger than (2
    AWG, the least ring, where it is not known).
    Source: NEC 250.66.

    >>> smallest_gec("4/0", "aluminium", electrode="rod").value
    '6'
    """
    tables.known_material(material)
    total = _total(line, line_material, sets)
    row = _row_by_area("gec_by_service_conductor", "service", total, line_material)
    short = "cu" if material == "copper" else "al"
    size = row[f"gec_{short}"]
    steps = [
        working.table(
            f"Service of {_times(sets)}{line} {metal_name(line_material)}"
            f" ({total:,.0f} circular mils): {size} AWG {metal_name(material)}",
            f"{tables.section('gec_size', edition)} ({edition})",
        )
    ]
    if electrode is not None:
        cap = _cap(electrode, short)
        if electrode == "ring" and ring is not None and short == "cu":
            cap = _ring_cap(ring, cap)
        for kind in goes_on_to:
            onward = _cap(kind, short) if edition > SOLE_CONNECTION_THROUGH else ""
            cap = max(cap, onward, key=tables.area) if cap and onward else ""
            steps.append(
                working.rule(
                    f"the conductor goes on to a {electrode_kinds()[kind]}", "gec_cap", edition
                )
            )
        if cap and tables.area(cap) < tables.area(size):
            size = cap
            steps.append(
                working.rule(
                    f"goes only to a {electrode_kinds()[electrode]}: need not be larger than"
                    f" {cap} AWG {metal_name(material)}",
                    "gec_cap",
                    edition,
                )
            )
    return working.of("Smallest grounding electrode conductor", size, "AWG", *steps)


def _ring_cap(ring: str, least: str) -> str:
    """A ring's conductor caps its electrode conductor; under 2 AWG it is no ring."""
    if tables.area(ring) < tables.area(least):
        raise BadInput(f"A ring is at least {least} AWG, not {tables.size_name(ring)}.")
    return ring


def _cap(electrode: str, short: str) -> str:
    for row in tables.rows("gec_caps"):
        if row["electrode"] == electrode:
            return row[f"cap_{short}"]
    listed = ", ".join(electrode_kinds())
    raise BadInput(f"“{electrode}” is not an electrode kind here; {listed} are.")


def main_bonding_jumper(
    line: str, line_material: str, sets: int = 1, material: str = "copper", edition: int = 2023
) -> Working:
    """The smallest main bonding jumper of wire (its size as text). Source: NEC 250.28(D).

    Above the table 12.5 % of the area. A screw or strap made for the enclosure needs no size.
    """
    title = "Smallest main bonding jumper"
    return jumper_like(line, line_material, sets, material, edition, title, "main_bonding_jumper")


def supply_side_jumper(
    line: str, line_material: str, sets: int = 1, material: str = "copper", edition: int = 2023
) -> Working:
    """The smallest supply-side bonding jumper (its size as text). Source: NEC 250.102(C)."""
    title = "Smallest supply-side bonding jumper"
    return jumper_like(line, line_material, sets, material, edition, title, "supply_side_jumper")


def smallest_neutral(
    line: str, line_material: str, sets: int = 1, material: str | None = None, edition: int = 2023
) -> Working:
    """The least neutral brought to the service, whatever its load. Source: NEC 250.24."""
    material = material or line_material
    return jumper_like(
        line, line_material, sets, material, edition, "Least service neutral", "service_neutral"
    )


def capped(found: Working, cap: str) -> Working:
    """A size that need not be larger than ``cap``."""
    steps = (*found.steps(), working.note(f"need not be larger than {cap}"))
    return working.of(found.title, cap, found.unit, *steps)


def jumper_like(line, line_material, sets, material, edition, title, topic) -> Working:
    """A conductor of the bonding jumpers' table under its own title and section."""
    tables.known_material(material)
    total = _total(line, line_material, sets)
    row = _row_by_area("bonding_jumper_by_ungrounded", "ungrounded", total, line_material)
    size = row["jumper_cu" if material == "copper" else "jumper_al"]
    source = f"{tables.section(topic, edition)} ({edition})"
    if "percent" in size:
        total = _as_if_of(line, line_material, sets, material)
        wanted = total * JUMPER_SHARE_ABOVE_TABLE
        size = next(s for s in tables.sizes(material) if tables.area(s) >= wanted)
        metal = metal_name(material)
        text = f"12.5 % of {total:,.0f} circular mils = {wanted:,.0f}: {size} {metal}"
    else:
        text = (
            f"Service of {_times(sets)}{line} {metal_name(line_material)}"
            f" ({total:,.0f} circular mils): {size} AWG {metal_name(material)}"
        )
    return working.of(title, size, "AWG", working.table(text, source))


def _as_if_of(line: str, line_material: str, sets: int, material: str) -> float:
    """The lines' area, in circular mils; of another metal than the jumper's, as if they were of
    the jumper's metal with the same ampacity (note 2 of the table)."""
    if material == line_material:
        return _total(line, line_material, sets)
    amps = ampacity(line, line_material)
    made = tables.sizes(material)
    same = next((z for z in made if ampacity(z, material) >= amps), made[-1])
    return tables.area(same) * sets


def service_line(rating_a: float, material: str = "aluminium", edition: int = 2023) -> Working:
    """The smallest service conductor of a whole dwelling (its size as text).

    By the dwelling table; above 400 A or below 100 A there is none and BadInput says so.
    """
    number_in(rating_a, "Service rating", 0, 6000, "A", above_low=True)
    tables.known_material(material)
    column = "cu" if material == "copper" else "al"
    for row in tables.rows("dwelling_service_83pct"):
        if rating_a <= float(row["rating_a"]):
            break
    else:
        raise BadInput(
            f"The dwelling table ends at 400 A; {rating_a:g} A needs its conductors given."
        )
    size = row[column]
    source = f"{tables.section('dwelling_service', edition)} ({edition})"
    step = working.table(
        f"{row['rating_a']} A dwelling service: {size} {metal_name(material)}", source
    )
    return working.of("Smallest dwelling service conductor", size, "AWG", step)
