"""The equipment grounding conductor: by the device, and grown with upsized lines. method 9."""

from functools import lru_cache

from .. import tables, working
from ..errors import BadInput, number_in
from ..tables import metal_name
from ..working import Working
from .lines import smallest_run

#: Nominal areas are rounded: a shortfall of at most 0.1 % counts as met.
AREA_TOLERANCE = 0.001


def _by_device(device_a: float, material: str) -> tuple[str, str]:
    """(size, the row's device rating) of the EGC table."""
    number_in(device_a, "Device rating", 0, 6000, "A", above_low=True)
    for row in tables.rows("egc_by_ocpd"):
        if device_a <= float(row["ocpd_not_over_a"]):
            return row["cu" if material == "copper" else "al"], row["ocpd_not_over_a"]
    raise BadInput("The table of equipment grounding conductors ends at 6,000 A.")


@lru_cache(maxsize=4096)  # a site asks for few sizes, many times
def smallest_egc(
    device_a: float,
    line: str | None = None,
    material: str = "copper",
    line_material: str = "copper",
    line_needed: str | None = None,
    column_c: int = 75,
    edition: int = 2023,
    sets: int = 1,
    sets_needed: int = 1,
) -> Working:
    """The smallest wire-type equipment grounding conductor (its size as text).

    ``device_a`` rating of the device ahead; ``line`` the installed line conductor (None: not
    upsized) of ``line_material``; ``line_needed`` the least that would serve, worked out from
    the device at ``column_c`` when not given; ``sets`` and ``sets_needed`` of them in parallel.
    Each raceway of a parallel run holds the whole size. Source: NEC 250.122.

    >>> smallest_egc(20, line="8").value
    '8'
    """
    tables.known_material(material)
    base, row_a = _by_device(device_a, material)
    steps = [
        working.table(
            f"A device of {device_a:g} A (row “not over {row_a} A”): {base} AWG"
            f" {metal_name(material)}",
            f"{tables.section('egc_size', edition)} ({edition})",
        )
    ]
    size = base
    if line is not None:
        size, grown = _grown(
            base,
            device_a,
            (line, sets),
            material,
            line_material,
            (line_needed, sets_needed),
            column_c,
            edition,
        )
        steps += grown
    return working.of(
        f"Smallest equipment grounding conductor for {device_a:g} A", size, "AWG", *steps
    )


def _grown(base, device_a, installed, material, line_material, needed, column_c, edition):
    """(size, steps) after upsizing in proportion and the cap at the line's own size."""
    steps = []
    (line, sets), (line_needed, sets_needed) = installed, needed
    if line_needed is None:
        # A size that serves as parallel sets is a size that serves.
        least = smallest_run(device_a, line_material, column_c, edition, sets)
        line_needed, sets_needed = least.value, sets
        steps += least.steps()
    have, least_area = tables.area(line) * sets, tables.area(line_needed) * sets_needed
    ratio = have / least_area
    size = base
    if ratio > 1:
        wanted = tables.area(base) * ratio
        size = _next_size_up(wanted, material)
        steps.append(
            working.formula(
                f"{tables.area(base):,.0f} × {have:,} / {least_area:,}"
                f" = {wanted:,.0f} circular mils, so {size} AWG"
            )
        )
        steps.append(
            working.rule(
                f"lines are {line} where {line_needed} would serve: the equipment grounding"
                " conductor grows in the same proportion",
                "egc_upsized",
                edition,
            )
        )
    if material == line_material and tables.area(size) > tables.area(line):
        size = line
        steps.append(working.rule("never larger than the line conductors", "egc_size", edition))
    return size, steps


def _next_size_up(wanted_cmil: float, material: str) -> str:
    for size in tables.sizes(material):
        if tables.area(size) >= wanted_cmil * (1 - AREA_TOLERANCE):
            return size
    raise BadInput("The upsized equipment grounding conductor would be over 1,000 kcmil.")


MOTOR_FACTOR = 1.75  # a time-delay fuse's share of the motor's current, 430.52


def tap_egc(feeder_device_a: float, tap_line: str, material: str = "copper", edition: int = 2023):
    """A tap's EGC: by the device ahead of the feeder, never larger than the tap's lines."""
    return smallest_egc(
        feeder_device_a,
        line=tap_line,
        line_needed=tap_line,
        material=material,
        line_material=material,
        edition=edition,
    )


def motor_egc(full_load_a: float, line: str, edition: int = 2023) -> Working:
    """A motor circuit behind an instantaneous-trip device: as if by a time-delay fuse of 175 % of
    the motor's current, never larger than its lines. NEC 250.122(D)(2)."""
    number_in(full_load_a, "Motor full-load current", 0, 1000, "A", above_low=True)
    wanted = MOTOR_FACTOR * full_load_a
    device = next((r for r in tables.standard_ratings() if r >= wanted), wanted)
    found = smallest_egc(device, line=line, line_needed=line, edition=edition)
    step = working.formula(
        f"instantaneous-trip device: 175 % of {full_load_a:g} A = {wanted:g} A, so as {device:g} A"
    )
    return working.of(found.title, found.value, found.unit, step, *found.steps())
