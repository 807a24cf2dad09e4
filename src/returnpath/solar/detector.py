"""What sees a d.c. ground fault of an array, by how its d.c. side is grounded."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Detected:
    """The kind in words, what the detector sees, what clears the fault, why a breaker does not."""

    kind: str
    sees: str
    clears: str
    why_not: str


_LIMITED = (
    "the array gives at most a quarter more than its short-circuit current: a breaker or fuse of"
    " its rating never sees enough"
)
_KINDS = {
    "solid": Detected(
        "solidly grounded",
        "all of the fault's current comes back by the one bond, through the detector's fuse",
        "the fuse in that bond opens; the fault is then live against earth",
        _LIMITED,
    ),
    "functional": Detected(
        "functionally grounded",
        "the difference of the two poles' currents, and their ohms to earth before it starts",
        "the inverter stops and opens both poles; the array stays live in daylight",
        _LIMITED,
    ),
    "floating": Detected(
        "not grounded",
        "a first fault as a fall of the ohms to earth: it carries almost nothing",
        "the inverter says so and stops; a second fault carries current",
        "a first fault has no way back at all",
    ),
    "micro": Detected(
        "micro-inverters",
        "each watches its own module's d.c. to earth",
        "that one inverter stops; its module stays live in daylight, at its own volts",
        "one module's current is all there is",
    ),
}


def detected(grounding: str | None, inverter: str | None) -> Detected | None:
    """By the d.c. side's grounding; a micro-inverter or an inverter without transformer says it
    where nobody did. None where nothing is known."""
    if grounding is None:
        grounding = {"micro": "micro", "string": "functional"}.get(inverter or "")
    return _KINDS.get(grounding or "")
