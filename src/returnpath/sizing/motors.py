"""Motors by their horsepower: full-load current, the wire, the largest device.

Sources: table 430.248, 430.22, 430.52 (``tables/motor_flc_1ph.csv``, ``motor_device.csv``).
"""

from functools import cache

from .. import tables, working
from ..errors import BadInput, number_in
from ..working import Working, figures

WIRE_SHARE = 1.25  # of the full-load current, continuous duty: 430.22
#: How far a column of volts serves.
_COLUMNS = ((115, 105, 130), (200, 190, 203), (208, 203, 215), (230, 215, 255))


@cache
def _horsepowers() -> dict[float, dict[str, str]]:
    return {_decimal(row["hp"]): row for row in tables.rows("motor_flc_1ph")}


def _decimal(text: str) -> float:
    """``"1-1/2"`` as 1.5."""
    whole, _, part = text.rpartition("-") if "-" in text else ("", "", text)
    top, _, bottom = part.partition("/")
    return float(whole or 0) + float(top) / float(bottom or 1)


def full_load_a(hp: float, volts: float) -> float:
    """Full-load current of a single-phase motor by the table, A: the row of its horsepower, or the
    next one up. BadInput past ten horsepower, or at volts that have no column."""
    number_in(hp, "Horsepower", 0, 500, "hp", above_low=True)
    column = next((c for c, low, high in _COLUMNS if low <= volts <= high), None)
    if column is None:
        raise BadInput(f"The table of single-phase motors has no column for {volts:g} V.")
    for size, row in sorted(_horsepowers().items()):
        if hp <= size + 1e-9:
            return float(row[f"flc_{column}v_a"])
    raise BadInput("The table of single-phase motors ends at 10 hp: read the nameplate.")


def motor_wire_a(hp: float, volts: float) -> Working:
    """The least ampacity of a motor's wire, A: 125 % of its full-load current."""
    amps = full_load_a(hp, volts)
    return working.of(
        f"Wire of a {hp:g} hp motor",
        WIRE_SHARE * amps,
        "A",
        working.table(f"{hp:g} hp at {volts:g} V: {amps:g} A", "table 430.248"),
        working.formula(f"125 % of {amps:g} A = {figures(WIRE_SHARE * amps)} A", "430.22"),
    )


DEVICES = {"breaker": "inverse-time breaker", "fuse": "dual-element (time-delay) fuse"}


def largest_motor_device(hp: float, volts: float, kind: str = "breaker") -> Working:
    """The largest breaker or time-delay fuse of a motor, A: its share of the full-load current, the
    next standard rating up. Source: 430.52(C)(1)."""
    amps = full_load_a(hp, volts)
    row = next(
        r
        for r in tables.rows("motor_device")
        if r["kind"] == "largest device" and r["motor"] == "single-phase"
        and r["device"] == DEVICES[kind]
    )  # fmt: skip
    most = float(row["percent"]) / 100 * amps
    rating = next((float(r) for r in tables.standard_ratings() if r >= most), most)
    return working.of(
        f"Largest {kind} of a {hp:g} hp motor",
        rating,
        "A",
        working.table(f"{hp:g} hp at {volts:g} V: {amps:g} A", "table 430.248"),
        working.formula(f"{row['percent']} % of {amps:g} A = {figures(most)} A", row["rule"] or
                        row["source"]),
        working.note(f"the next standard rating up: {rating:g} A"),
    )  # fmt: skip
