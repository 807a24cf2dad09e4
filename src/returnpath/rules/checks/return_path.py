"""Return path: is there a way home, is it large enough, does it open the breaker."""

import math

from ... import tables
from ...site import Set
from ...study import Verdict
from ...working import figures
from ..finding import Finding
from ..registry import Solved, check


def _name(circuit) -> str:
    return circuit.name or "Unnamed circuit"


@check
def bond_missing_service(solved: Solved):
    """The main bond is open: nothing joins the ground bar to the neutral."""
    panel = solved.filled.panel
    if panel.bond != "out":
        return
    volts = [s.touch_earth_v for s in solved.study.loops.values() if s.touch_earth_v is not None]
    worst = f" A fault leaves metal at up to {figures(max(volts))} V, for ever." if volts else ""
    yield Finding(
        "bond-missing-service",
        "danger",
        panel.id,
        panel.name or "Service panel",
        f"The main bond is out: the ground bar is not joined to the neutral.{worst}",
        "Without it no fault current comes home, and no breaker opens.",
        "Make the bond at the service: screw, strap or wire.",
        f"{tables.section('main_bonding_jumper', solved.edition)} ({solved.edition})",
        (Set(path=f"{panel.id}.bond", value="in"),),
    )


@check
def main_bonding_jumper_small(solved: Solved):
    """A bonding jumper of wire that is smaller than the table."""
    panel = solved.filled.panel
    row = solved.sizes.get(f"{panel.id}.bond_size")
    if row is None or row.meets is not False:
        return
    yield Finding(
        "main-bonding-jumper-small",
        "fix",
        panel.id,
        panel.name or "Service panel",
        f"The bonding jumper is {tables.size_name(row.installed)}; {row.needed} is needed.",
        "It carries the whole fault current of the house.",
        f"Fit {tables.size_name(row.needed)} copper, or the enclosure's own screw or strap.",
        f"{tables.section('main_bonding_jumper', solved.edition)} ({solved.edition})",
        (Set(path=row.path, value=row.needed),),
    )


@check
def egc_missing(solved: Solved):
    """A circuit without any return conductor."""
    for circuit in solved.filled.circuits:
        if circuit.egc == "none":
            yield Finding(
                "egc-missing",
                "danger",
                circuit.id,
                _name(circuit),
                "Nothing brings a fault current home: a fault leaves the case at line voltage.",
                "The breaker sees no current and stays closed.",
                "Run an equipment grounding conductor, or protect by GFCI and label it.",
                f"{tables.section('fault_path', solved.edition)} ({solved.edition})",
            )


@check
def egc_size(solved: Solved):
    """egc-small and egc-not-upsized: the ground wire against the table and against its lines."""
    for circuit in solved.filled.circuits:
        row = solved.sizes.get(f"{circuit.id}.egc_size")
        if row is None or row.meets is not False:
            continue
        grown = any(
            s.source.startswith(tables.section("egc_upsized", solved.edition))
            for s in row.working.steps()
        )
        id_, topic = ("egc-not-upsized", "egc_upsized") if grown else ("egc-small", "egc_size")
        because = f" for {circuit.line_size} AWG lines" if grown else ""
        yield Finding(
            id_,
            "fix",
            circuit.id,
            _name(circuit),
            f"Ground wire {tables.size_name(row.installed)}; {tables.size_name(row.needed)}"
            f" {row.needed_material} is needed{because}.",
            "It must carry a fault until the breaker opens.",
            f"Run {tables.size_name(row.needed)} {row.needed_material} with the circuit.",
            f"{tables.section(topic, solved.edition)} ({solved.edition})",
            (Set(path=row.path, value=row.needed),),
        )


def _cure(study) -> str:
    if study.longest_run_ft is None:
        return "Shorten nothing: find a lower-impedance return or a smaller breaker."
    return (
        f"It would at {math.floor(study.longest_run_ft)} ft or less;"
        " run larger wire or move the panel nearer."
    )


@check
def loop_opens(solved: Solved):
    """loop-never-opens and loop-slow: what the breaker does at the lowest current."""
    for study in solved.study.loops.values():
        circuit = study.circuit
        if study.verdict is Verdict.MAY_NEVER_OPEN:
            if circuit.egc == "none" or solved.filled.panel.bond == "out":
                continue  # the cause has its own finding
            yield Finding(
                "loop-never-opens",
                "danger",
                circuit.id,
                _name(circuit),
                f"{figures(study.lowest_a)} A is {figures(study.multiple)} × the breaker:"
                f" it may never open, and the case stays at {figures(study.touch_earth_v)} V.",
                "A person who touches it meets that voltage.",
                _cure(study),
                f"{tables.section('fault_path', solved.edition)} ({solved.edition})",
            )
        elif study.verdict is Verdict.SLOW and study.deciding and not study.deciding.met:
            yield Finding(
                "loop-slow",
                "check",
                circuit.id,
                _name(circuit),
                f"{figures(study.lowest_a)} A is {figures(study.multiple)} × the breaker:"
                f" up to {figures(study.slow_s)} s.",
                "The case is live until it opens.",
                _cure(study),
                "good practice: the chosen clearing criterion",
            )


@check
def loop_heat(solved: Solved):
    """A conductor of the loop that does not live through the slowest opening."""
    for study in solved.study.loops.values():
        use = study.worst_heat
        if use is None or use.fraction <= 1 or math.isinf(use.fraction):
            continue
        yield Finding(
            "loop-heat",
            "danger",
            study.circuit.id,
            _name(study.circuit),
            f"The {use.carrier.label} goes past its heat limit: {figures(use.fraction * 100)} %"
            f" ({figures(use.slow_s)} s against {figures(use.limit_s)} s at"
            f" {figures(use.amps)} A).",
            "It can burn through before the breaker opens.",
            "Larger wire, a shorter run, or a breaker whose maker proves a lower magnetic trip.",
            f"{tables.section('fault_path', solved.edition)} ({solved.edition})",
        )


@check
def loop_curve_unknown(solved: Solved):
    """Opens at once only if the magnetic trip is as assumed."""
    for study in solved.study.loops.values():
        if study.verdict is not Verdict.AT_ONCE_IF_ASSUMED:
            continue
        hot = study.worst_heat_unproved
        late = f"up to {figures(study.slow_s_unproved)} s"
        heat = (
            ""
            if hot is None or math.isinf(hot.fraction)
            else f" and {figures(hot.fraction * 100)} % heat"
        )
        yield Finding(
            "loop-curve-unknown",
            "check",
            study.circuit.id,
            _name(study.circuit),
            f"{figures(study.multiple)} × the breaker: at once on the assumed curve;"
            f" {late}{heat} if its magnetic trip began at 20 ×.",
            "The standard leaves the magnetic trip to the maker.",
            "Look up the maker's magnetic trip and enter it.",
            "maker's instruction",
        )


@check
def interrupting_rating_low(solved: Solved):
    """The highest current at the panel is over what a breaker can interrupt."""
    available = solved.study.available_a
    if available is None:
        return
    panel = solved.filled.panel
    places = [(panel.id, panel.name or "Service panel", panel.main)]
    places += [(c.id, _name(c), c.breaker) for c in solved.filled.circuits]
    for place, name, device in places:
        rating = device.interrupting_ka
        if rating is not None and available > rating * 1000:
            yield Finding(
                "interrupting-rating-low",
                "danger",
                place,
                name,
                f"Up to {figures(available)} A at the panel; the breaker is marked {rating:g} kA.",
                "A breaker that opens more than it is made for can burst.",
                "Fit a breaker of a higher interrupting rating, or a series-rated pair.",
                f"{tables.section('interrupting', solved.edition)} ({solved.edition})",
            )
