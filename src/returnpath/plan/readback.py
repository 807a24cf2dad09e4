"""Whether a reading satisfies the hold that waits for it."""

from ..readings import TypedReading, judge_reading, predict, reading_kinds
from ..study import SiteStudy
from .form import OWN_KINDS
from .procedure import AskedReading

#: What passes for nothing and for open or closed: ghost volts and lead resistance allowed for.
NOTHING = {"volts": 1.0, "amps": 0.1, "ng": 1.0, "clamp": 0.1, "ohms": 0.5}
OPEN_OHM, CLOSED_OHM = 10_000.0, 1.0


def unit_of(asked: AskedReading) -> str:
    """Of the figure that the step takes."""
    return OWN_KINDS.get(asked.kind) or reading_kinds()[asked.kind].unit


def band_of(study: SiteStudy, asked: AskedReading) -> str:
    """What the figure must be, in words; "" where anything is taken."""
    unit = unit_of(asked)
    if asked.want == "nothing":
        return f"nothing: at most {NOTHING.get(asked.kind, 1.0):g} {unit}"
    if asked.want == "open":
        return f"open: {OPEN_OHM:,.0f} Ω and more"
    if asked.want == "closed":
        return f"closed: at most {CLOSED_OHM:g} Ω"
    if asked.want == "band" and asked.kind in reading_kinds():
        band = predict(study, _typed(asked, 0.0))
        if band is not None:
            return f"{band.low:.3g} to {band.high:.3g} {unit}" if band.high < 1e9 else (
                f"{band.low:.3g} {unit} and more"
            )  # fmt: skip
    return ""


def is_satisfied(study: SiteStudy, asked: AskedReading, value: float) -> tuple[bool, str]:
    """(whether the hold lets go, why not). A figure that is wanted as such is written down, not
    judged."""
    unit = unit_of(asked)
    if asked.want == "nothing":
        most = NOTHING.get(asked.kind, 1.0)
        return (
            value <= most,
            f"{value:g} {unit}: over {most:g} {unit}. Something is live, or leaks.",
        )
    if asked.want == "open":
        return value >= OPEN_OHM, f"{value:g} Ω: there is a path. Find it before going on."
    if asked.want == "closed":
        return value <= CLOSED_OHM, f"{value:g} Ω: over {CLOSED_OHM:g} Ω. The joint is not made."
    if asked.want == "band" and asked.kind in reading_kinds():
        return _in_band(study, asked, value, unit)
    return True, ""


#: Where nothing is predicted: more than this is never a sound joint, neutral or bond.
AT_MOST = {"r2": 2.0, "r1r2": 4.0, "loop": 5.0, "loop2": 5.0, "ng": 3.0, "clamp": 0.5}
#: Too low is as wrong as too high; elsewhere a lower reading only means a shorter run.
BOTH_WAYS = ("ll", "ln", "lg")


def _in_band(study: SiteStudy, asked: AskedReading, value: float, unit: str) -> tuple[bool, str]:
    """Beyond what the place predicts for sure it holds; below only where that is wrong too."""
    judged = judge_reading(study, _typed(asked, value))
    if judged.prediction is None:
        most = AT_MOST.get(asked.kind)
        if most is not None and value > most:
            return False, f"{value:g} {unit}: over {most:g} {unit}, though nothing is predicted."
        return True, ""
    over = value > judged.prediction.high
    if judged.fits is False and judged.sure and (over or asked.kind in BOTH_WAYS):
        return False, f"{value:g} {unit}: {judged.says}. Look for {judged.cause or 'why'}."
    return True, ""


def _typed(asked: AskedReading, value: float) -> TypedReading:
    return TypedReading("", asked.kind, asked.place, asked.place, value,
                        loaded=asked.kind in ("ng", "clamp"))  # fmt: skip
