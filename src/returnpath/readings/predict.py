"""What the site predicts for a reading, and what the reading means. method 11 and 12.

A reading at its prediction says nothing is wrong there; one beyond it names what to look for. It
never changes the site by itself.
"""

import math
from dataclasses import dataclass

from ..conductor import METRIC_PER_K
from ..device import residual_device_slow_s
from ..network.build import return_branches, run_ohm
from ..site import Circuit, Electrode, Feeder, Metal, Panel
from ..site.rings import is_ring, ring_ends
from ..study import FaultKind, SiteStudy
from ..study.verdict import verdict_of
from ..working import figures
from .expected import OVER_OHM, OVER_SHARE, expected_loop
from .reading import LAMPS, ReadingKind, TypedReading, figure_of, reading_kinds

COOL_C, WARM_C = 20.0, 30.0  # conductors at rest, dead
NEAR_C = 2.0  # either way of a temperature that was read
#: A class A ground-fault device and a metric one: mA that trip it, ms at the most.
TRIP_MA = {False: (4.0, 6.0), True: (15.0, 30.0)}
TRIP_MS = {False: 200.0}
VOLTS_SHARE = 0.05  # what a utility keeps to
LEAST_INSULATION = 1.0  # MΩ
LOAD_SHARE = 2.0  # loads are known to a factor
LEAST_CLAMP_A, LEAST_NG_V = 0.1, 0.5


@dataclass(frozen=True)
class Prediction:
    """From ``low`` to ``high`` fits; over ``suspect`` something is wrong; ``says`` where the figure
    comes from."""

    low: float
    high: float
    suspect: float
    says: str


@dataclass(frozen=True)
class JudgedReading:
    """A reading against its prediction: ``fits`` None where nothing is predicted; ``says`` in one
    line; ``meaning`` for the verdict; ``cause`` what to look for; ``sure`` whether it is off by
    more than the instrument and what is not known."""

    reading: TypedReading
    prediction: Prediction | None
    fits: bool | None
    says: str
    meaning: str = ""
    cause: str = ""
    sure: bool = False


def predict(study: SiteStudy, reading: TypedReading) -> Prediction | None:
    """The band of one reading; None where the site does not say enough, or nothing can."""
    made = {
        "loop": _loop, "r2": _continuity, "r1r2": _continuity, "pfc": _available, "ln": _volts,
        "lg": _volts, "ll": _volts, "ng": _neutral, "clamp": _clamp, "three-point": _electrode,
        "insulation": _insulation, "loop2": _loop, "clamp-ohm": _electrode, "lamps": _lamps,
        "clamp-bond": _clamp, "clamp-line": _clamp,
        "trip": _trip, "trip-ma": _trip_current, "trip5": _trip, "ze": _loop,
        "ring-line": _ring, "ring-neutral": _ring, "ring-egc": _ring,
    }.get(reading.kind)  # fmt: skip
    return made(study, reading) if made else None


def _loop(study: SiteStudy, reading: TypedReading) -> Prediction | None:
    fault = study.metered.get(reading.place)
    expected = expected_loop(fault) if fault else None
    if expected is None:
        return None
    return Prediction(expected.low, expected.high, expected.suspect, "cold to hot conductors")


def _continuity(study: SiteStudy, reading: TypedReading) -> Prediction | None:
    run = study.assumed.site.elements().get(reading.place)
    if not isinstance(run, Circuit | Feeder) or run.line_size is None or not run.length_ft:
        return None

    def ohm(celsius: float) -> float:
        back = [z.real for z in return_branches(run, celsius, 60.0).values()]
        if not back or min(back) <= 0:
            return math.inf
        home = 1 / sum(1 / r for r in back)
        return home + (run_ohm(run, celsius, 60.0).real if reading.kind == "r1r2" else 0.0)

    known = reading.celsius
    cool, warm = (COOL_C, WARM_C) if known is None else (known - NEAR_C, known + NEAR_C)
    low, high = ohm(cool), ohm(warm)
    if math.isinf(high):
        return None
    suspect = high + max(OVER_SHARE * high, OVER_OHM)
    return Prediction(low, high, suspect, f"{cool:g} to {warm:g} °C, leads nulled")


def _available(study: SiteStudy, reading: TypedReading) -> Prediction | None:
    state = study.states[0].supply.id if study.states else ""  # no generator runs while one reads
    found = [f for f in study.faults if f.place == reading.place and f.circuit is None
             and f.kind is FaultKind.NEUTRAL and f.state == state and f.lowest_a]  # fmt: skip
    if not found:
        return None
    low = min(f.lowest_a or 0.0 for f in found)
    high = max(f.highest_a or 0.0 for f in found)
    return Prediction(low, high, math.inf, "weakest to strongest source")


def _volts(study: SiteStudy, reading: TypedReading) -> Prediction | None:
    system = study.assumed.site.supply.system
    if system is None:
        return None
    volts = system.volts_between if reading.kind == "ll" else system.volts
    low, high = volts * (1 - VOLTS_SHARE), volts * (1 + VOLTS_SHARE)
    return Prediction(low, high, high * 1.02, f"{volts:g} V, 5 % either way")


def _neutral(study: SiteStudy, reading: TypedReading) -> Prediction | None:
    load = next(iter(study.loads.values()), None)
    if load is None:
        return None
    place = reading.place
    a, b = f"{place}.N", f"{place}.case"
    nodes = load.solved.network.nodes
    if a not in nodes or b not in nodes:
        return None
    volts = load.between(a, b) if reading.loaded else 0.0
    high = max(LOAD_SHARE * volts, LEAST_NG_V)
    return Prediction(0.0, high, 2 * high, "loads as known" if reading.loaded else "at rest")


def _clamp(study: SiteStudy, reading: TypedReading) -> Prediction | None:
    load = next(iter(study.loads.values()), None)
    if load is None:
        return None
    element = study.assumed.site.elements()[reading.place]
    part = {Electrode: "gec", Metal: "bond", Panel: "bond"}.get(type(element), "egc")
    part = "line1" if reading.kind == "clamp-line" else part
    amps = load.currents.get(f"{reading.place}.{part}")
    if amps is None and isinstance(element, Panel):  # a bond that is not there carries nothing
        return Prediction(0.0, LEAST_CLAMP_A, 2 * LEAST_CLAMP_A, "no bond is described here")
    if amps is None:
        return None
    high = max(LOAD_SHARE * amps, LEAST_CLAMP_A)
    return Prediction(0.0, high, 2 * high, "every load on, as known")


def _electrode(study: SiteStudy, reading: TypedReading) -> Prediction | None:
    element = study.assumed.site.elements()[reading.place]
    ohm = getattr(element, "ohm", None)
    if ohm is None:
        return None
    return Prediction(ohm / 3, ohm * 3, math.inf, "its kind in the soil that is known or assumed")


def _insulation(study: SiteStudy, reading: TypedReading) -> Prediction | None:
    return Prediction(LEAST_INSULATION, math.inf, math.inf, "1 MΩ at least")


def _lamps(_: SiteStudy, __: TypedReading) -> Prediction | None:
    return Prediction(0.0, 0.0, 0.0, "correct wiring")


def _is_metric(study: SiteStudy) -> bool:
    system = study.assumed.site.supply.system
    return system is not None and system.is_metric


def _ring(study: SiteStudy, reading: TypedReading) -> Prediction | None:
    """r1, rn and r2 of a ring that is whole, at the temperature it lies at."""
    circuit = study.assumed.site.elements().get(reading.place)
    if not isinstance(circuit, Circuit) or not is_ring(circuit):
        return None
    ends = ring_ends(circuit.model_copy(update={"ring_open": None}))
    if ends is None:
        return None
    ohm = {"ring-line": ends.r1, "ring-neutral": ends.rn, "ring-egc": ends.r2}[reading.kind]
    known = reading.celsius
    cool, warm = (COOL_C, WARM_C) if known is None else (known - NEAR_C, known + NEAR_C)
    low, high = (ohm * (1 + METRIC_PER_K * (c - COOL_C)) for c in (cool, warm))
    suspect = high + max(OVER_SHARE * high, OVER_OHM)
    return Prediction(low, high, suspect, f"{cool:g} to {warm:g} °C, leads nulled")


def _trip(study: SiteStudy, reading: TypedReading) -> Prediction | None:
    """The longest time at the rated current, or at five times it; a delayed device has more."""
    if not _is_metric(study):
        most = TRIP_MS[False]
        return Prediction(0.0, most, most, "at its rated test current")
    circuit = study.assumed.site.elements().get(reading.place)
    delayed = getattr(circuit, "rcd_delayed", None) == "yes"
    times, ma = (5 if reading.kind == "trip5" else 1), getattr(circuit, "rcd_ma", None) or 30.0
    most = 1000 * residual_device_slow_s(times * ma / 1000, ma, delayed)
    return Prediction(0.0, most, most, f"at {times} × {ma:g} mA")


def _trip_current(study: SiteStudy, reading: TypedReading) -> Prediction | None:
    low, high = TRIP_MA[_is_metric(study)]
    ma = getattr(study.assumed.site.elements().get(reading.place), "rcd_ma", None)
    if ma is not None and _is_metric(study):
        low, high = ma / 2, ma  # it may at half of its rating, it must at all of it
    return Prediction(low, high, high, "for protection of people")


CAUSES = {
    "loop": ("a loose joint, a longer or thinner run than described",
             "another path home: metal, or neutral and ground joined"),
    "r2": ("a loose or open joint in the EGC, or a longer run",
           "another path beside it: metal, or a shorter run"),
    "r1r2": ("a loose joint, or a longer run", "another path beside it, or a shorter run"),
    "pfc": ("a stronger source than described", "a weaker source, or a loose service joint"),
    "ln": ("a lost or loose neutral: the other leg reads low", "a lost or loose neutral, or a"
           " loaded loose hot"),
    "lg": ("the ground is not at the neutral's potential", "an open ground, or a loose hot"),
    "ll": ("the source is high", "a loose hot conductor, or a weak source"),
    "ng": ("a loose or long neutral", ""),
    "clamp": ("load current on metal: a second bond, or a neutral joined to ground (round a hot"
              " wire, log it as clamp hot)", ""),
    "clamp-bond": ("load current on metal: a second bond, or a neutral joined to ground", ""),
    "clamp-line": ("more load than is entered, or current that does not come back by its neutral",
                   ""),
    "three-point": ("dry soil, or a rod that is shorter than described", "the test had a metal"
                    " path: the electrode was still connected"),
    "loop2": ("a loose joint, a longer or thinner run than described",
              "another path home: metal, or neutral and ground joined"),
    "clamp-ohm": ("dry soil, a loose clamp, or a rod that is shorter than described",
                  "a metal loop: the reading is not of the soil"),
    "lamps": ("what the lamps say; then read the loop", ""),
    "trip": ("a device that is worn out, or load leaking beside it", ""),
    "ring-line": ("a broken ring: one end is off or its line is open", "a bridge across the ring"),
    "ring-neutral": ("a broken ring: one end is off or its neutral is open",
                     "a bridge across the ring"),
    "ring-egc": ("a broken ring: one end is off or its protective conductor is open",
                 "other metal beside it, or a bridge across the ring"),
    "ze": ("a loose joint ahead of the origin, or a weaker network",
           "the earth was not lifted: pipes and electrodes ran beside it"),
    "trip5": ("a device that is worn out, or of the delayed type", ""),
    "trip-ma": ("a device that is worn out", "something behind it leaks already"),
    "insulation": ("", "damp or damaged insulation, or electronics left plugged in"),
}  # fmt: skip


def judge_reading(study: SiteStudy, reading: TypedReading) -> JudgedReading:
    """A reading against its prediction, the instrument's error (else its kind's usual one) on both
    sides."""
    kind = reading_kinds()[reading.kind]
    prediction = predict(study, reading)
    meaning = _meaning(study, reading)
    if prediction is None:
        return JudgedReading(reading, None, None, "nothing is predicted for it", meaning)
    if reading.kind == LAMPS:
        return _judged_lamps(reading, prediction)
    share, least = reading.error or (kind.error_share, kind.error_abs)
    error = share * reading.value + least
    low, high = prediction.low - error, max(prediction.high, 0.0) + error
    band = _band(prediction, kind)
    above, below = CAUSES.get(reading.kind, ("", ""))
    if reading.value > high:
        sure = reading.value - error > prediction.suspect
        says = f"over {band}" + ("" if sure else ", a little")
        return JudgedReading(reading, prediction, False, says, meaning, above, sure)
    if reading.value < low:
        return JudgedReading(reading, prediction, False, f"under {band}", meaning, below, True)
    return JudgedReading(reading, prediction, True, f"as predicted, {band}", meaning)


#: A plug-in tester's lamps are lit alike by these.
UNSEEN = ("it cannot see neutral and ground joined at the receptacle, a ground that is only a rod,"
          " a loose joint, or neutral and ground exchanged")  # fmt: skip


def _judged_lamps(reading: TypedReading, prediction: Prediction) -> JudgedReading:
    says = figure_of(reading.kind, reading.value)
    if reading.value == 0:
        return JudgedReading(reading, prediction, True, says, UNSEEN)
    cause = CAUSES[LAMPS][0]
    return JudgedReading(reading, prediction, False, says, UNSEEN, cause, True)


def _band(prediction: Prediction, kind: ReadingKind) -> str:
    if math.isinf(prediction.high):
        return f"{figures(prediction.low)} {kind.unit} and more"
    return f"{figures(prediction.low)}–{figures(prediction.high)} {kind.unit}"


def _meaning(study: SiteStudy, reading: TypedReading) -> str:
    """What a loop as read does to the verdict: “as read: 173 A, 8.6 ×, delayed trip”."""
    fault = study.metered.get(reading.place)
    if reading.kind != "loop" or fault is None or fault.device is None or reading.value <= 0:
        return ""
    expected = expected_loop(fault)
    hot = expected.high / expected.low if expected and expected.low else 1.2
    practice = study.assumed.site.practice
    volts = study.states[0].volts
    amps = max(0.95 * volts - practice.arc_v, 0.0) / (reading.value * hot)
    times = amps / fault.device.rating_a
    verdict = verdict_of(fault.device, amps)
    return f"as read: {figures(amps)} A hot, {figures(times)} ×, {verdict.value}"
