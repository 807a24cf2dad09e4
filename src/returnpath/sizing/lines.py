"""Line conductors: ampacity, what device may protect them, the smallest that serves. method 9."""

from functools import lru_cache

from .. import tables, working
from ..conductor import methods
from ..errors import BadInput, number_in
from ..tables import metal_name
from ..working import Step, Working


def ampacity(size: str, material: str, column_c: int = 75) -> float:
    """Ampacity of one conductor in the ``column_c`` column (60, 75 or 90 °C), A."""
    tables.conductor(size)
    tables.known_material(material)
    value = tables.ampacities().get((size, material, column_c))
    if value is None:
        raise BadInput(
            f"There is no ampacity for {tables.size_name(size)} {metal_name(material)} at"
            f" {column_c} °C; columns are 60, 75 and 90."
        )
    return value


def _next_standard(amps: float) -> float:
    """The standard rating that serves ``amps``: itself if standard, else the next one up to
    800 A; above that the ampacity itself."""
    ratings = tables.standard_ratings()
    return next((float(r) for r in ratings if r >= amps), amps)


def device_allowed(size: str, material: str, column_c: int = 75) -> float:
    """The largest device in amperes that may protect this conductor.

    Ampacity, the next standard rating where it falls between two, and the ceiling of the small
    conductors. Motor and nameplate exceptions are not in it.
    """
    allowed = _next_standard(ampacity(size, material, column_c))
    ceiling = tables.small_conductor_ceilings().get((size, material))
    return allowed if ceiling is None else min(allowed, ceiling)


@lru_cache(maxsize=4096)  # a site asks for few sizes, many times
def smallest_line(
    device_a: float, material: str = "copper", column_c: int = 75, edition: int = 2023
) -> Working:
    """The smallest line conductor that a device of ``device_a`` may protect (its size as text)."""
    number_in(device_a, "Device rating", 0, 6000, "A", above_low=True)
    for size in tables.sizes(material):
        if device_allowed(size, material, column_c) >= device_a:
            break
    else:
        raise BadInput(
            f"One {metal_name(material)} conductor does not serve {device_a:g} A: use parallel"
            " sets."
        )

    def recipe():
        yield ampacity_step(size, material, column_c, edition)
        yield working.rule(
            f"{tables.size_name(size)} {metal_name(material)} may be protected at up to"
            f" {device_allowed(size, material, column_c):g} A",
            "small_conductor"
            if (size, material) in tables.small_conductor_ceilings()
            else "next_standard",
            edition,
        )

    return Working(f"Smallest line conductor for {device_a:g} A", size, "AWG", recipe)


#: Parallel sets are of this size or larger (310.10(G)).
LEAST_PARALLEL = "1/0"


def column_of(method: str | None, terminals_c: int | None) -> int:
    """The ampacity column a run may use, °C: its cable's (NM and UF: 60) and its terminals'."""
    cable = methods()[method].rated_c if method in methods() else 75
    return min(cable, terminals_c or 75)


@lru_cache(maxsize=4096)
def smallest_run(
    device_a: float, material: str = "copper", column_c: int = 75, edition: int = 2023, sets=1
) -> Working:
    """The smallest line conductor of ``sets`` in parallel that a device may protect."""
    if sets <= 1:
        return smallest_line(device_a, material, column_c, edition)
    made = tables.sizes(material)
    for size in made[made.index(LEAST_PARALLEL) :]:
        if device_allowed_sets(size, material, column_c, sets) >= device_a:
            break
    else:
        raise BadInput(f"{sets} sets of {metal_name(material)} do not serve {device_a:g} A.")
    allowed = device_allowed_sets(size, material, column_c, sets)
    return working.of(
        f"Smallest of {sets} parallel sets for {device_a:g} A",
        size,
        "AWG",
        ampacity_step(size, material, column_c, edition),
        working.rule(
            f"{sets} sets of {tables.size_name(size)} {metal_name(material)} may be protected at"
            f" up to {allowed:g} A",
            "next_standard",
            edition,
        ),
    )


def device_allowed_sets(size: str, material: str, column_c: int = 75, sets: int = 1) -> float:
    """The largest device that may protect ``sets`` of a conductor in parallel, A."""
    if sets <= 1:
        return device_allowed(size, material, column_c)
    return _next_standard(sets * ampacity(size, material, column_c))


def ampacity_step(size: str, material: str, column_c: int, edition: int) -> Step:
    """The ampacity row, as a step of a working."""
    return working.table(
        f"{tables.size_name(size)} {metal_name(material)}:"
        f" {ampacity(size, material, column_c):g} A in the {column_c} °C column",
        f"{tables.section('ampacity', edition)} ({edition})",
    )


def standard_for(size: str, material: str | None = "copper", column_c: int = 75) -> float | None:
    """The largest standard device of a conductor that stands alone, A; None in other tables."""
    if tables.is_metric(size):
        return None
    return device_allowed(size, material or "copper", column_c)
