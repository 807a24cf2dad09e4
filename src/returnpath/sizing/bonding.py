"""Bonds to pipes, structure, communications, buildings and pools; array EGCs. NEC 250.104,
250.94, 250.32, 680.26, 690.45."""

from .. import tables, working
from ..errors import BadInput, number_in
from ..working import Working
from .equipment import smallest_egc
from .service import capped, jumper_like, smallest_gec

WATER_CAP = {"copper": "3/0", "aluminium": "250"}
WATER_CAP_FROM = 2020
BONDING_TABLE_FROM = 2014
INTERSYSTEM, POOL_GRID, EXPOSED, CORRUGATED = "6", "8", "6", "6"
ARRAY_FACTOR = 1.56


def water_bond(
    line: str, line_material: str, sets: int = 1, material: str = "copper", edition: int = 2023
) -> Working:
    """The least bond of a metal water pipe: the electrode table before 2014, the bonding table
    since; from 2020 not over 3/0 copper or 250 aluminium."""
    if edition < BONDING_TABLE_FROM:
        return smallest_gec(line, line_material, sets, material=material, edition=edition)
    title = "Smallest bond of a metal water pipe"
    found = jumper_like(line, line_material, sets, material, edition, title, "water_bond")
    cap = WATER_CAP[material]
    if edition >= WATER_CAP_FROM and tables.area(found.value) > tables.area(cap):
        return capped(found, cap)
    return found


def pipe_bond(device_a: float, material: str = "copper", edition: int = 2023) -> Working:
    """Gas and other pipe likely to be energised: the EGC table by that circuit's device."""
    return smallest_egc(device_a, material=material, edition=edition)


def gas_bond(
    device_a: float | None, corrugated: bool, material: str = "copper", edition: int = 2023
) -> Working:
    """Gas pipe: by the device of the circuit that may make it live (its appliance's own ground
    wire may serve). Corrugated tube: not under 6 AWG copper by its manufacturer's instructions.

    ``device_a`` None where the circuit is not known: then only corrugated tube has an answer.
    """
    if device_a is None:
        if not corrugated:
            raise BadInput("The circuit that may make the gas pipe live decides its bond.")
        return working.of("Gas pipe bond", CORRUGATED, "AWG", _manufacturers_step())
    found = pipe_bond(device_a, material, edition)
    if not corrugated or tables.area(found.value) >= tables.area(CORRUGATED):
        return found
    return working.of("Gas pipe bond", CORRUGATED, "AWG", *found.steps(), _manufacturers_step())


def _manufacturers_step():
    return working.note(
        "corrugated tube: 6 AWG copper at least, by its manufacturer's instructions"
    )


def structure_bond(
    line: str, line_material: str, sets: int = 1, material: str = "copper", edition: int = 2023
) -> Working:
    """Structural metal: as the water pipe of that edition."""
    return water_bond(line, line_material, sets, material, edition)


def _fixed(title: str, size: str, text: str, topic: str, edition: int) -> Working:
    return working.of(title, size, "AWG", working.rule(text, topic, edition))


def intersystem(edition: int = 2023) -> Working:
    """The conductor to the intersystem bonding termination."""
    text = "not smaller than 6 AWG copper, three terminals"
    return _fixed("Intersystem bonding conductor", INTERSYSTEM, text, "intersystem", edition)


def pool_grid(edition: int = 2023) -> Working:
    """The equipotential bonding of a pool or spa."""
    text = "8 AWG copper, solid"
    return _fixed("Pool bonding conductor", POOL_GRID, text, "pool_bond", edition)


def building_gec(
    line: str,
    line_material: str,
    sets: int = 1,
    electrode: str | None = None,
    edition: int = 2023,
) -> Working:
    """A separate building's electrode conductor: the table by the feeder's lines."""
    return smallest_gec(line, line_material, sets, electrode=electrode, edition=edition)


def smallest_array_egc(
    isc_a: float,
    strings: int = 1,
    device_a: float | None = None,
    exposed: bool = False,
    edition: int = 2023,
) -> Working:
    """The array's EGC: by its device, or by 1.56 × Isc where there is none.

    Never grown for voltage drop; 14 AWG at least, 6 AWG where exposed to damage. NEC 690.45.
    """
    number_in(isc_a, "Short-circuit current", 0, 1000, "A", above_low=True)
    number_in(strings, "Strings", 1, 100)
    rating = device_a if device_a is not None else ARRAY_FACTOR * isc_a * strings
    found = smallest_egc(rating, edition=edition)
    steps = list(found.steps())
    if device_a is None:
        sums = f"{ARRAY_FACTOR:g} × {isc_a:g} A × {strings} = {rating:.1f} A, no device"
        steps.insert(0, working.formula(sums, "690.45 and 690.9"))
    size = found.value
    if exposed and tables.area(size) < tables.area(EXPOSED):
        size = EXPOSED
        steps.append(working.rule("6 AWG where exposed", "gec_protected", edition))
    return working.of("Smallest array EGC", size, "AWG", *steps)
