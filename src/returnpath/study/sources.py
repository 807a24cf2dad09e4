"""Which transformer serves which study. METHOD 2.

Known plate figures serve every study. Assumed ones are taken 25 % higher for the lowest current
and 1.2 % for the interrupting check. An available fault current is the utility's maximum: it
serves the highest study, and the lowest only where it proves the weaker of the two.
"""

from dataclasses import dataclass, replace

from .. import supply
from ..assume import Assumed
from ..supply import Transformer


@dataclass(frozen=True, slots=True)
class Sources:
    """The transformer of each study; ``lowest`` None where it is not known."""

    highest: Transformer
    lowest: Transformer | None
    interrupting: Transformer
    plate_assumed: bool
    why_not: str = ""


def choose(assumed: Assumed) -> Sources:
    """The sources for a site whose gaps are filled."""
    unit = assumed.site.supply
    plate = Transformer(unit.kva, unit.percent_z, unit.x_over_r, unit.primary_mva)
    impedance_assumed = assumed.find(f"{unit.id}.percent_z") is not None
    if impedance_assumed:
        lowest = replace(plate, percent_z=plate.percent_z * supply.ASSUMED_LOWEST_FACTOR)
        interrupting = replace(plate, percent_z=supply.INTERRUPTING_PERCENT_Z)
    else:
        lowest = plate
        interrupting = replace(plate, percent_z=plate.percent_z * supply.KNOWN_INTERRUPTING_FACTOR)
    if unit.fault_a is None:
        return Sources(plate, lowest, interrupting, impedance_assumed)
    stated = supply.from_available_current(unit.fault_a, unit.fault_kind, unit.x_over_r)
    stronger = stated.line_to_neutral_a >= lowest.line_to_neutral_a
    if stronger:
        return Sources(stated, lowest, stated, impedance_assumed)
    if assumed.find(f"{unit.id}.kva") is None:
        # The plate is known and the utility says less reaches it: the weaker source decides.
        return Sources(stated, stated, stated, impedance_assumed)
    why = (
        f"The utility's {unit.fault_a:,.0f} A is a maximum and less than an assumed"
        f" {unit.kva:g} kVA transformer gives: enter the transformer's kVA."
    )
    return Sources(stated, None, stated, impedance_assumed, why)
