"""Arrays, joint by joint: hardware, combined earth conductors, bars fed twice, labels."""

from collections.abc import Iterator

from ... import solar
from ...site import Array, Joint, Panel, Remove, Set
from ...site.roof import name_of_joint
from ...solar.volts import ADVICE
from ...working import count_of, figures
from ..carrying import continuous_kind, load_amps
from ..finding import LOCAL
from ..registry import Evidence, Yielded, check
from .array import _built, edition_of

FAMILY = "array"
COMBINED = (2011, 2014)  # editions under which one conductor could be both


def _hardware(s: Evidence, kind: str) -> Iterator[tuple[Array, list[Joint]]]:
    """(array, the branches of its joints with this wrong with them)."""
    for array in s.filled.arrays:
        joints = [j for j in s.filled.joints if j.hardware == kind and j.on.element == array.id]
        if joints:
            yield array, joints


def _where(joints: list[Joint]) -> str:
    names = [name_of_joint(j.on.part) for j in joints]
    return names[0] if len(names) == 1 else f"{len(names)} joints ({', '.join(names[:3])})"


def _mended(joints: list[Joint]) -> tuple[Set | Remove, ...]:
    """Edits that make them good: a joint that is loose or open besides stays as that."""
    return tuple(
        Set(path=f"{j.id}.hardware", value=None)
        if j.ohm is not None or j.open == "yes"
        else Remove(id=j.id)
        for j in joints
    )


@check(
    "lug-indoor-outdoors",
    "fix",
    looks="A lug that is made for indoors is on the roof.",
    why="It corrodes in a few winters, and nothing shows it from below.",
    topic="array_bond",
    needs=("joints.hardware", "joints.ohm", "joints.on", "joints.open"),
)
def lug_indoor_outdoors(s: Evidence) -> Iterator[Yielded]:
    for array, joints in _hardware(s, "indoor lug"):
        yield s.found(array, f"An indoor lug outdoors: {_where(joints)}.",
                      "Replace it by a lug listed for outdoors and direct burial.",
                      fix=_mended(joints), parts=("outdoor lug, tinned copper",))  # fmt: skip


@check(
    "lug-two-wires",
    "fix",
    looks="Two wires are under one lug that is not marked for two.",
    why="One of them works loose.",
    topic="array_bond",
    needs=("joints.hardware", "joints.ohm", "joints.on", "joints.open"),
)
def lug_two_wires(s: Evidence) -> Iterator[Yielded]:
    for array, joints in _hardware(s, "two wires"):
        yield s.found(array, f"Two wires in one lug: {_where(joints)}.",
                      "One conductor to a lug, unless it is marked for two.",
                      fix=_mended(joints), parts=("outdoor lug, tinned copper",))  # fmt: skip


@check(
    "copper-on-aluminium",
    "fix",
    looks="Copper touches aluminum on the roof without stainless steel or tin between.",
    why="Wet, the two make a battery: the aluminum goes, and the bond with it.",
    topic="array_metals",
    needs=("joints.hardware", "joints.ohm", "joints.on", "joints.open"),
)
def copper_on_aluminium(s: Evidence) -> Iterator[Yielded]:
    for array, joints in _hardware(s, "copper on aluminum"):
        yield s.found(array, f"Copper on aluminum: {_where(joints)}.",
                      "Stainless steel or tinned copper between them.",
                      fix=_mended(joints), parts=("stainless hardware, tinned lug",))  # fmt: skip


@check(
    "washer-reused",
    "fix",
    looks="A toothed washer has been used before.",
    why="Its teeth bite through the coating once.",
    topic="array_bond",
    needs=("joints.hardware", "joints.ohm", "joints.on", "joints.open"),
)
def washer_reused(s: Evidence) -> Iterator[Yielded]:
    for array, joints in _hardware(s, "washer reused"):
        yield s.found(array, f"A washer used before: {_where(joints)}.",
                      "A new one at each of them.",
                      fix=_mended(joints),
                      parts=(count_of(len(joints), "toothed washer"),))  # fmt: skip


@check(
    "combined-earth-conductor-spliced",
    "fix",
    looks="A combined EGC and electrode conductor of an array is spliced by what can be undone.",
    why="One conductor is both: where it parts, frames and electrode are lost together.",
    topic="array_combined",
    needs=("arrays.built_under", "arrays.earth_splice"),
)
def combined_earth_conductor_spliced(s: Evidence) -> Iterator[Yielded]:
    for array in s.filled.arrays:
        if array.earth_splice == "other" and edition_of(array, s) in COMBINED:
            yield s.found(
                array,
                "Its combined earth conductor is spliced by solder or a connector that opens.",
                "An irreversible crimp or a weld, or one piece; never solder.",
                fix=(Set(path=f"{array.id}.earth_splice", value="irreversible"),),
                parts=("irreversible compression connector",),
            )


@check(
    "labels-missing",
    "fix",
    looks="The run of an array is not labeled.",
    why="A firefighter cuts what nothing tells him is live in daylight.",
    topic="array_labels",
    needs=(
        "arrays.ac_a",
        "arrays.ac_disconnect",
        "arrays.boxes",
        "arrays.built_under",
        "arrays.dc_disconnect",
        "arrays.inverter",
        "arrays.labels",
        "arrays.length_ft",
        "arrays.penetrations",
        "arrays.rapid_shutdown",
        "arrays.tap",
        "arrays.turns",
        "arrays.voc_v",
    ),
)
def labels_missing(s: Evidence) -> Iterator[Yielded]:
    for array in s.filled.arrays:
        if array.labels != "no":
            continue
        counts = solar.labels_of(array, edition_of(array, s))
        total = sum(c.count for c in counts)
        yield s.found(
            array,
            f"Its run is not labeled: {total} labels, every 10 ft, at turns and penetrations.",
            "Label it; the fire code and the local office may ask for more.",
            fix=(Set(path=f"{array.id}.labels", value="yes"),),
            parts=tuple(f"{n} × {text}" for text, n in solar.cut_list(counts)),
        )


def backfeed_of(s: Evidence, array: Array) -> solar.Backfeed | None:
    """The bars that an array's breaker feeds, judged with every other source on them; None where a
    figure of it is not known or it does not feed any."""
    circuit = next((c for c in s.filled.circuits if c.id == array.circuit), None)
    if array.tap == "line side" or circuit is None or not array.ac_a:
        return None
    panel = s.panels.get(circuit.panel)
    if panel is None or not panel.bus_a:
        return None
    main = _ahead_of_bars(s, panel)
    if not main:
        return None
    # A job seldom lists every breaker of a panel: the way that adds them all is not taken here.
    return solar.backfeed(sum(outputs_on(s, panel.id)), main, panel.bus_a, _opposite(array))


def _ahead_of_bars(s: Evidence, panel: Panel) -> float | None:
    """The device ahead of a panel's bars, A."""
    feeder = s.feeder_to.get(panel.id)
    return panel.main.rating_a or (s.rating_of(feeder) if feeder else None)


def outputs_on(s: Evidence, panel: str) -> list[float]:
    """The output of every inverter, array's or storage's, whose breaker is on a panel's bars, A."""
    by_id = {c.id: c for c in s.filled.circuits if c.panel == panel}
    found = [a.ac_a for a in s.filled.arrays
             if a.circuit in by_id and a.ac_a and a.tap != "line side"]  # fmt: skip
    of_arrays = {a.circuit for a in s.filled.arrays}
    for circuit in by_id.values():
        stores = continuous_kind(circuit) == "inverter output" and circuit.id not in of_arrays
        amps = load_amps(s, circuit) if stores else None
        found += [amps] if amps else []
    return found


def _opposite(array: Array) -> bool | None:
    return None if array.opposite_end is None else array.opposite_end == "yes"


@check(
    "backfeed-over-bars",
    "fix",
    looks="The main and an inverter together may put more on a panel's bars than they carry.",
    why="No breaker sees the sum: the bars burn before anything trips.",
    topic="array_backfeed",
    needs=(
        "arrays.ac_a",
        "arrays.circuit",
        "arrays.opposite_end",
        "arrays.tap",
        "circuits.continuous",
        "circuits.load_kind",
        "circuits.load_va",
        "circuits.managed",
        "circuits.poles",
        "supplies.system",
        "panels.bus_a",
        "panels.main.rating_a",
        "feeders.breaker.rating_a",
    ),
)
def backfeed_over_bars(s: Evidence) -> Iterator[Yielded]:
    for array in s.filled.arrays:
        found = backfeed_of(s, array)
        if found is None or found.met:
            continue
        opposite = found.ways[1]
        could = opposite.sum_a <= opposite.limit_a
        if could and array.opposite_end is None:
            yield s.ask(array, f"{array.id}.opposite_end",
                        "Is its breaker at the far end of the bars from the main?")  # fmt: skip
            continue
        do = (
            "Move its breaker to the opposite end of the bars, and label it."
            if could
            else f"A main of {found.most_main_a:.0f} A at most, an inverter of"
            f" {figures(found.most_output_a)} A at most, or a line-side connection."
        )
        fix = (Set(path=f"{array.id}.opposite_end", value="yes"),) if could else ()
        yield s.found(
            array,
            f"{found.ways[0].working}: 125 % of {figures(_all_outputs(s, array))} A and the main on"
            " the bars.",
            do,
            fix=fix,
        )
    yield from storage_backfeed(s)


def _all_outputs(s: Evidence, array: Array) -> float:
    """What all inverters on its panel's bars give, A."""
    return sum(outputs_on(s, s.elements[array.circuit].panel))


def storage_backfeed(s: Evidence) -> Iterator[Yielded]:
    """Storage alone on a panel's bars, its output given as its circuit's load."""
    with_arrays = {s.elements[a.circuit].panel for a in s.filled.arrays if a.circuit}
    for panel in s.filled.panels:
        outputs = outputs_on(s, panel.id) if panel.id not in with_arrays else []
        main = _ahead_of_bars(s, panel)
        if not outputs or not panel.bus_a or not main:
            continue
        found = solar.backfeed(sum(outputs), main, panel.bus_a, None)
        if found.met:
            continue
        opposite = found.ways[1]
        could = opposite.sum_a <= opposite.limit_a
        yield s.found(
            panel,
            f"{found.ways[0].working}: 125 % of {figures(sum(outputs))} A of storage and the main"
            " on the bars.",
            "Its breaker at the far end of the bars from the main, labeled: look that it is."
            if could
            else f"A main of {found.most_main_a:.0f} A at most, or an output of"
            f" {figures(found.most_output_a)} A at most.",
            level="check" if could else None,
        )


@check(
    "rapid-shutdown-missing",
    "fix",
    looks="A roof array of 2014 or later without rapid shutdown.",
    why="Conductors on a roof stay at hundreds of volts while someone cuts through it.",
    topic="array_shutdown",
    needs=("arrays.built_under", "arrays.rapid_shutdown"),
)
def rapid_shutdown_missing(s: Evidence) -> Iterator[Yielded]:
    for array in s.filled.arrays:
        if array.rapid_shutdown == "no" and _built(array, s) >= SHUTDOWN_SINCE:
            yield s.found(
                array,
                f"No rapid shutdown; {edition_of(array, s)} asks for it on buildings.",
                "An inverter, module devices or a switch listed for it.",
                fix=(Set(path=f"{array.id}.rapid_shutdown", value="yes"),),
                parts=("rapid shutdown equipment",),
            )


SHUTDOWN_SINCE = 2014


@check(
    "array-voltage-drop",
    "note",
    looks="An array's d.c. run loses more than 3 %, both wires, conductors at 75 °C.",
    why="It is lost every sunny hour; 3 % is advice, unless local practice makes it a limit.",
    topic="voltage drop",
    kind=LOCAL,
    needs=(
        "arrays.imp_a",
        "arrays.length_ft",
        "arrays.line_size",
        "arrays.strings",
        "arrays.vmp_v",
        "practice.voltage_drop",
    ),
)
def array_voltage_drop(s: Evidence) -> Iterator[Yielded]:
    for array in s.filled.arrays:
        if not (array.imp_a and array.vmp_v and array.line_size and array.length_ft):
            continue
        if not s.known(f"{array.id}.length_ft"):
            continue
        ours = solar.drop_rows(array.imp_a, array.vmp_v, array.length_ft, array.line_size)[0]
        if ours.share > ADVICE:
            yield s.found(
                array,
                f"{ours.volts:.1f} V, {ours.share * 100:.1f} % at {figures(array.imp_a)} A a"
                " string, both wires at 75 °C.",
                "A larger d.c. wire, or a higher string voltage.",
                level="fix" if s.practice.voltage_drop == "limit" else None,
            )
