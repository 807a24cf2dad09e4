"""Return path, the solved part: does it open, how late, how hot, how many volts."""

import math
from typing import Any

from ... import sizing, tables
from ...errors import BadInput
from ...site import Set
from ...study import Verdict
from ...study.heat import worst_letthrough
from ...study.longest import whole_feet
from ...vocabulary import FactPath
from ...working import LEAST_AMPS, count_of, figures, show_amps, show_volts, some_of
from ..finding import LOCAL, MAKER, PRACTICE, Authority
from ..registry import Evidence, check
from .ground_wires import needed_egc
from .return_path import fourth_wire

MOSTLY = 0.5
#: × the rating: under this a smaller breaker would not trip either.
SOME_CURRENT = 0.2


def loops(s: Evidence):
    """Every line-to-case answer that is known, with the element it is about."""
    for study in (*s.study.loops.values(), *s.study.protected_enclosures.values()):
        if study.lowest_a is not None and study.device is not None:
            yield study, s.elements[study.place]


def _is_earth_only(study) -> bool:
    """Whether most of what current there is comes home through the soil."""
    return bool(study.lowest_a) and study.earth_share > MOSTLY


@check(
    "loop-never-opens",
    "danger",
    looks="At the lowest current the breaker may not trip.",
    why="The metal stays live, and a person who touches it meets that voltage.",
    topic="fault_path",
    needs=("circuits.egc", "circuits.length_ft", "study"),
)
def loop_never_opens(s: Evidence):
    for study, element in loops(s):
        nothing = study.circuit is not None and study.circuit.egc == "none"
        nothing = nothing and not study.circuit.neutral_on_frame
        if study.verdict is not Verdict.MAY_NEVER_OPEN or nothing or _is_earth_only(study):
            continue
        if study.touch_earth_v < 1:  # the source's limit leaves no volts on the case
            continue
        if study.state != s.filled.supply.id and study.body_ma <= study.body_limit_ma:
            continue  # nor any that hurt: loop-on-other-source has it
        if s.filled.supply.earthing == "IT" and study.touch_earth_v <= s.practice.touch_v:
            continue  # the first fault of an IT place: monitored, not disconnected
        do, fix = _cure(s, study)
        flows = study.lowest_a >= LEAST_AMPS
        amps = f"{figures(study.lowest_a)} A is {figures(study.multiple)} × the breaker"
        yield s.found(
            element,
            f"{amps if flows else 'No current flows'}: it does not clear; the metal stays at"
            f" {show_volts(study.touch_earth_v)}.",
            do,
            fix=fix,
            working=study.workings.get("opens"),
        )


def _cure(s: Evidence, study) -> tuple[str, tuple]:
    """What would clear it: feet, or the next wire that does; and the edits where edits can."""
    circuit = study.circuit
    if circuit is None or study.longest_run_ft is None:
        if (study.multiple or 0.0) < SOME_CURRENT:
            return "Find what is open and make it up: there is no metal path back.", ()
        return "Give it a better fault path back, or a smaller breaker.", ()
    feet = whole_feet(study.longest_run_ft)
    sizes = tables.sizes("copper")
    if circuit.egc in ("wire", "both") and circuit.line_size in sizes:
        per_ft = study.longest_run_ft / circuit.length_ft
        for size in sizes[sizes.index(circuit.line_size) + 1 :]:
            grown = tables.area(size) / tables.area(circuit.line_size)
            if per_ft * grown >= 1.05:
                edits = [Set(path=f"{circuit.id}.line_size", value=size)]
                try:
                    egc = sizing.smallest_egc(
                        circuit.breaker.rating_a,
                        line=size,
                        line_material=circuit.line_material,
                        column_c=s.column(circuit),
                        edition=s.edition,
                    ).value
                except BadInput:
                    break
                edits.append(Set(path=f"{circuit.id}.egc_size", value=egc))
                words = f"It would clear at {feet:g} ft or less, or in {tables.size_name(size)}."
                return words, tuple(edits)
    return f"It would clear at {feet:g} ft or less.", ()


#: Under this multiple of its device a fault that is known leaves metal live for minutes: above
#: 50 V that is a danger, whatever the curve.
SLOW_BELOW, LIVE_V = 2.0, 50.0


def is_told_with_curve(study: Any) -> bool:
    """Whether its curve row says heat and touch volts as well: one cause is one row."""
    if study.verdict is Verdict.AT_ONCE_IF_ASSUMED:
        return True
    return study.verdict is Verdict.SLOW and bool(study.deciding) and not study.deciding.met


def is_known(s: Evidence, study: Any) -> bool:
    """Whether the facts that decide its multiple were given: sizes, lengths and devices of its way
    from the service on, and of a source of the place's own its plate."""
    feeders, _ = study.basis.states.chain(study.basis.place.panel)
    runs = [*feeders, *([study.circuit] if study.circuit is not None else [])]
    facts = ("length_ft", "line_size", "egc_size", "breaker.rating_a")
    paths = [FactPath.of(run.id, fact) for run in runs for fact in facts]
    if study.state != s.filled.supply.id:
        paths += [FactPath.of(study.state, fact) for fact in ("kva", "percent_z")]
    device = FactPath.of(study.device_at, "rating_a") if study.device_at else ""
    return all(s.known(path) for path in (*paths, device))


def _is_proved_hot(s: Evidence, study: Any) -> bool:
    """Whether a curve that was entered proves that a conductor of known size overheats."""
    heat = study.heat_used
    if heat is None or heat <= 1 or math.isinf(heat) or study.device.is_assumed:
        return False
    return study.state == s.filled.supply.id and s.known(study.worst_heat.carrier.path)


def _curve_says(study: Any) -> str:
    """What heat and touch volts come to while the device takes its time."""
    parts = [f"up to {figures(study.slow_s)} s"]
    heat = study.heat_used
    if heat is not None and heat > 1 and not math.isinf(heat):
        use = study.worst_heat
        parts.append(
            f"the {use.carrier.label} withstands {figures(use.limit_s)} s at"
            f" {figures(use.amps)} A ({figures(use.fraction * 100)} %)"
        )
    if study.body_ma > study.body_limit_ma:
        parts.append(f"{show_volts(study.touch_earth_v)} on the metal until then")
    return ", ".join(parts)


@check(
    "loop-slow",
    "check",
    looks="The chosen clearing criterion is not met: the breaker trips, but delayed.",
    why="The enclosure is live until it trips.",
    topic="the clearing criterion that local practice chose",
    kind=PRACTICE,
    needs=(
        "circuits.egc",
        "circuits.feeds",
        "circuits.length_ft",
        "practice.clearing",
        "practice.clearing_required_by",
        "study",
    ),
)
def loop_slow(s: Evidence):
    who = s.practice.clearing_required_by
    for study, element in loops(s):
        if study.verdict is not Verdict.SLOW or not study.deciding or study.deciding.met:
            continue
        long_live = study.multiple < SLOW_BELOW and study.touch_earth_v > LIVE_V
        grave = long_live and is_known(s, study)
        if study.state != s.filled.supply.id and not grave:
            continue  # loop-on-other-source has it
        if not grave and _is_proved_hot(s, study):
            continue  # loop-heat has it, with the same figures
        required = who and study.circuit is not None and len(s.study.states) == 1
        do, fix = _cure(s, study)
        assumed = study.device.is_assumed
        decides = "the breaker’s curve decides: " if assumed else ""
        yield s.found(
            element,
            f"{figures(study.lowest_a)} A is {figures(study.multiple)} × the breaker;"
            f" {decides}{_curve_says(study)}.",
            f"Look up the manufacturer’s trip curve and enter it. {do}" if assumed else do,
            fix=fix,
            level="danger" if grave else "fix" if required else None,
            authority=Authority(LOCAL, f"{s.practice.clearing} trip, by {who}")
            if required
            else None,
            working=study.workings.get("opens"),
        )


@check(
    "loop-heat",
    "danger",
    looks="A conductor of the loop may not withstand the slowest trip.",
    why="What burns through before the breaker trips leaves no path back.",
    topic="fault_path",
    needs=("circuits.breaker.hi", "circuits.egc", "circuits.length_ft", "study"),
)
def loop_heat(s: Evidence):
    for study, element in loops(s):
        if study.heat_used is None or study.heat_used <= 1 or math.isinf(study.heat_used):
            continue
        use = study.worst_heat
        path = use.carrier.path
        assumed = s.study.assumed.find(path) is not None
        # A weak source's own limits are not in the curve: what it heats is to be looked at.
        proved = _is_proved_hot(s, study)
        if not proved and not assumed and is_told_with_curve(study):
            continue  # the row of its curve says it
        if assumed:  # nobody has seen its size: no danger yet, and nothing to mend
            level, fix = "check", ()
            do, asks = f"Field verify the size of the {use.carrier.label}.", path
        elif proved:
            cure, fix = _cure(s, study)
            if study.circuit is None:
                cure = ""  # a feeder's has no feet to give
            larger = (
                "Larger wire, a shorter run, or a breaker whose manufacturer proves a lower trip."
            )
            do, level, asks = f"{larger} {cure}".strip(), None, ""
            fix = fix or _heat_fix(s, study, use)
        else:
            level, fix, asks = "check", (), FactPath.of(study.device_at, "hi")
            do = "Look up the manufacturer's trip curve and enter it."
        label = use.carrier.label
        yield s.found(
            element,
            f"{label[:1].upper()}{label[1:]}{', as assumed' if assumed else ''}: at"
            f" {figures(use.amps)} A it withstands {figures(use.limit_s)} s; the slowest breaker"
            f" the standard allows takes {figures(use.slow_s)} s"
            f" ({figures(use.fraction * 100)} %).",
            do,
            fix=fix,
            level=level,
            asks=asks,
            working=study.workings.get("heat"),
        )


#: For what the estimate of a larger wire leaves out: its reactance hardly falls with its size.
ENOUGH, LESS_CURRENT = 0.95, 0.97


def _heat_fix(s: Evidence, study, use) -> tuple:
    """The least larger conductor that lives through the fault: it stands more, and its fewer ohms
    bring more current, which opens sooner. An EGC or a neutral is never over its lines."""
    element, fact = use.carrier.path.element, use.carrier.path.fact
    run, part = s.elements[element], fact.removesuffix("_size")
    size = getattr(run, fact, None)
    metal = getattr(run, f"{part}_material", None) or getattr(run, "line_material", "copper")
    sizes = tuple(tables.metric_conductors()) if s.is_metric else tables.sizes(metal)
    if size not in sizes:
        return ()
    capped = part in ("egc", "neutral")
    most = tables.area(run.line_size) if capped else math.inf
    for bigger in sizes[sizes.index(size) + 1 :]:
        if tables.area(bigger) > most:
            break
        if _heat_with(study, use, element, part, tables.area(bigger) / tables.area(size)):
            return (Set(path=use.carrier.path, value=bigger),)
    return ()


def _heat_with(study, use, element: str, part: str, grown: float) -> bool:
    """Whether a conductor of ``grown`` times the area lives through the fault it then makes."""

    def is_its(branch) -> bool:
        return branch.element == element and branch.kind == part

    own = sum(leg.ohm for leg in study.legs if any(is_its(b) for b, *_ in leg.branches))
    share = min(use.carrier.share, 1.0)  # something beside it may carry a part
    left = own / (1 - share + share * grown)
    more = study.loop_ohm / (study.loop_ohm - own + left)
    devices = study.basis.devices
    low = study.lowest_a * more * LESS_CURRENT
    high = max(study.lowest_a, study.highest_a) * more
    through, _ = worst_letthrough(devices.heat_s, low, high, devices.steps())
    others = [c.ratio for c in study.basis.carriers() if c.path != use.carrier.path]
    return through * max(use.carrier.ratio / grown**2, *others, 0.0) <= ENOUGH


@check(
    "loop-curve-unknown",
    "check",
    looks="It trips instantaneously only if the curve is as assumed (10 to 20 × the rating).",
    why="The standard leaves the magnetic trip to the manufacturer.",
    topic="the breaker's time–current curve",
    kind=MAKER,
    needs=("circuits.breaker.hi", "study"),
)
def loop_curve_unknown(s: Evidence):
    for study, element in loops(s):
        if study.verdict is not Verdict.AT_ONCE_IF_ASSUMED:
            continue
        heat = study.heat_used_unproved
        hot = "" if math.isinf(heat) else f" and {figures(heat * 100)} % heat"
        yield s.found(
            element,
            f"{figures(study.multiple)} × the breaker: instantaneous on the assumed curve; up to"
            f" {figures(study.slow_s_unproved)} s{hot} if its magnetic trip began at 20 ×.",
            "Look up the manufacturer's magnetic trip and enter it.",
            asks=FactPath.of(study.device_at, "hi"),
            working=study.workings.get("opens"),
        )


@check(
    "touch-voltage-high",
    "check",
    looks="The current through a person who touches it passes curve c1 before it opens.",
    why="The longer it lasts, the less a heart stands.",
    topic="IEC 60479-1, an aid to understanding",
    kind=PRACTICE,
    needs=("study",),
)
def touch_voltage_high(s: Evidence):
    for study, element in loops(s):
        if not math.isfinite(study.slow_s) or study.body_ma <= study.body_limit_ma:
            continue
        if is_told_with_curve(study) and not s.is_metric:
            continue  # the row of its curve says it
        yield s.found(
            element,
            f"{show_volts(study.touch_earth_v)} for up to {figures(study.slow_s)} s:"
            f" {figures(study.body_ma)} mA against {figures(study.body_limit_ma)} mA.",
            "Clear it sooner, or bond what is within reach.",
            working=study.workings.get("body"),
        )


@check(
    "loop-on-other-source",
    "check",
    looks="What trips instantaneously on the utility does not on a generator or inverter.",
    why="With the utility away, the source is too weak for the breaker's magnetic trip.",
    topic="other sources on the same wiring",
    kind=PRACTICE,
    needs=("study",),
)
def loop_on_other_source(s: Evidence):
    at_once = (Verdict.AT_ONCE, Verdict.AT_ONCE_IF_ASSUMED)
    first = {f.place: f for f in s.study.cases if f.state == s.filled.supply.id}
    weak: dict[str, list] = {}
    for fault in s.study.cases:
        home = first.get(fault.place)
        if home is None or home is fault or fault.device is None:
            continue
        if home.verdict in at_once and fault.verdict not in at_once:
            weak.setdefault(fault.state, []).append(fault)
    for supply, found in weak.items():
        element = s.elements[supply]
        worst = min(found, key=lambda f: f.multiple)
        places = some_of(f.place_name for f in found)
        yield s.found(
            element,
            f"On this source {count_of(len(found), 'loop')}"
            f" {'does' if len(found) == 1 else 'do'} not trip instantaneously ({places}); the worst"
            f" {figures(worst.multiple)} ×, {figures(worst.touch_earth_v)} V.",
            "Add ground-fault protection, or a source that drives the trip.",
        )


@check(
    "interrupting-rating-low",
    "danger",
    looks="The highest current at a panel is over what a breaker in it can interrupt.",
    why="A breaker that opens more than it is made for can burst.",
    topic="interrupting",
    needs=("breaker.interrupting_ka", "breaker.series_ka", "study"),
)
def interrupting_rating_low(s: Evidence):
    for element, panel, device in _devices(s):
        own = s.study.states if panel == element.id and panel not in s.panels else ()
        available = s.study.available.get(panel)
        for states in own:  # a source's own breaker: what its terminals give
            if states.supply.id == element.id:
                source = states.sources.interrupting
                available = max(source.line_to_neutral_a, source.limit_a or 0.0)
        rating = device.series_ka or device.interrupting_ka
        if available is None or rating is None or available <= rating * 1000:
            continue
        field = "main" if element.id in s.panels else "breaker"
        wanted = next((k for k in (10, 14, 18, 22, 42, 65) if k * 1000 >= available), 65)
        yield s.found(
            element,
            f"Up to {figures(available)} A at the panel; the breaker is marked {rating:g} kA.",
            f"Install one of {wanted} kA, or a series-rated pair.",
            fix=(Set(path=f"{element.id}.{field}.interrupting_ka", value=float(wanted)),),
            parts=(f"breaker of {wanted} kA",),
        )


def _devices(s: Evidence):
    for panel in s.filled.panels:
        yield panel, panel.id, panel.main
    for circuit in s.filled.circuits:
        yield circuit, circuit.panel, circuit.breaker
    for feeder in s.filled.feeders:
        yield feeder, feeder.source, feeder.breaker
    for supply in s.filled.supplies:
        yield supply, supply.id, supply.breaker


@check(
    "earth-only-return",
    "danger",
    looks="The only path back is through the soil.",
    why="Soil carries a few amperes: no breaker opens, and metal and ground around it stay live.",
    topic="fault_path",
    needs=(
        "circuits.breaker.rating_a",
        "circuits.egc",
        "circuits.line_size",
        "circuits.relied_on",
        "study",
    ),
)
def earth_only_return(s: Evidence):
    known = {study.place: study for study, _ in loops(s)}
    for circuit in s.filled.circuits:
        if circuit.egc == "none" and circuit.relied_on == EARTH_ALONE:
            yield _by_soil(s, circuit, known.get(circuit.id), _wire_instead(s, circuit))
    for study, element in loops(s):
        if study.verdict is not Verdict.MAY_NEVER_OPEN or not _is_earth_only(study):
            continue
        if s.has_no_return(study.basis.place.panel):
            continue
        if study.circuit is None or study.circuit.egc != "none":
            # A circuit without an EGC has its own check; a panel's feeder may bring one.
            yield _by_soil(s, element, study, _fourth_wire_to(s, element))


EARTH_ALONE = "the earth"


def _fourth_wire_to(s: Evidence, element: Any) -> tuple[Set, ...]:
    """The EGC that a panel's feeder does not bring."""
    feeder = s.feeder_to.get(element.id)
    return fourth_wire(s, feeder)[0] if feeder is not None and feeder.egc == "none" else ()


def _wire_instead(s: Evidence, circuit) -> tuple[Set, ...]:
    edits = [Set(path=f"{circuit.id}.relied_on", value=None)]
    edits.append(Set(path=f"{circuit.id}.egc", value="wire"))
    if size := needed_egc(s, circuit):
        edits.append(Set(path=f"{circuit.id}.egc_size", value=size))
    return tuple(edits)


def _by_soil(s: Evidence, element, study, fix: tuple[Set, ...] = ()):
    figures_known = study is not None and (study.lowest_a or 0.0) >= LEAST_AMPS
    return s.found(
        element,
        f"{show_amps(study.lowest_a)} through the soil does not clear: the metal stays at"
        f" {show_volts(study.touch_earth_v)} to earth."
        if figures_known
        else "Only the earth is relied on: soil never trips a breaker.",
        "Run an EGC with the conductors; a rod is no path back."
        if fix
        else "Run a metal path back to the source's neutral; a rod is none.",
        fix=fix,
        root=bool(fix),  # what is behind it has the same lack
    )
