"""Conductors: the wire against its breaker."""

from ... import sizing, tables
from ...site import Set
from ..finding import Finding
from ..registry import Solved, check


@check
def wire_breaker_mismatch(solved: Solved):
    """A breaker larger than its wire may have."""
    for circuit in solved.filled.circuits:
        row = solved.sizes.get(f"{circuit.id}.line_size")
        if row is None or row.meets is not False:
            continue
        column = solved.filled.panel.terminals_c
        allowed = sizing.device_allowed(row.installed, row.installed_material, column)
        small = (row.installed, row.installed_material) in tables.small_conductor_ceilings()
        topic = "small_conductor" if small else "next_standard"
        yield Finding(
            "wire-breaker-mismatch",
            "fix",
            circuit.id,
            circuit.name or "Unnamed circuit",
            f"{tables.size_name(row.installed)} {row.installed_material} on"
            f" {circuit.breaker.rating_a:g} A; at most {allowed:g} A is allowed.",
            "The wire can overheat before the breaker opens.",
            f"A {allowed:g} A breaker, or {tables.size_name(row.needed)} wire.",
            f"{tables.section(topic, solved.edition)} ({solved.edition})",
            (Set(path=f"{circuit.id}.breaker.rating_a", value=allowed),),
        )
