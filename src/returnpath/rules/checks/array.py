"""Arrays: frames, rails, EGCs, electrode, detection."""

from collections.abc import Iterator

from ... import sizing, tables
from ...site import Array, Remove, Set
from ...site.roof import name_of_frame
from ...study.array import ArrayStudy
from ...study.roof import RoofStudy, whose_fault
from ...working import Working, show_volts
from ..registry import Evidence, Yielded, check

name = tables.size_name
BUILT_NOW = 2023
#: The editions under which an array needs an electrode of its own.
OWN_ELECTRODE = (2008, 2014)


def _built(array: Array, s: Evidence) -> int:
    return min(array.built_under or s.edition, BUILT_NOW)


def edition_of(array: Array, s: Evidence) -> int:
    """The edition in force when the array was built."""
    built = _built(array, s)
    return max((e for e in tables.EDITIONS if e <= built), default=tables.EDITIONS[0])


@check(
    "frame-unbonded",
    "danger",
    looks="Module frames that are not bonded.",
    why="A damaged module puts the array's volts on a frame, and no breaker clears that.",
    topic="array_bond",
    needs=("arrays.frames", "arrays.rails_listed", "study"),
)
def frame_unbonded(s: Evidence) -> Iterator[Yielded]:
    studies = {a.array: a for a in s.study.arrays}
    for array in s.filled.arrays:
        if array.id in studies and array.frames not in ("none", "some"):
            yield from _open_joints(s, array, studies[array.id])
        if array.frames in ("none", "some"):
            volts = studies[array.id].frame_v if array.id in studies else None
            high = f" up to {show_volts(volts)}" if volts is not None and volts > 1 else ""
            yield s.found(
                array,
                f"{'No' if array.frames == 'none' else 'Only some'} frames are bonded: a fault"
                f" leaves the others live{high}.",
                "Bond every frame: listed clamps or washers, or lugs and wire.",
                fix=(Set(path=f"{array.id}.frames", value="bonded"),),
                parts=("listed bonding clamps or lugs",),
            )


def _open_joints(s: Evidence, array: Array, study: ArrayStudy) -> Iterator[Yielded]:
    """Frames that float behind joints that are open: one module's washer is told from a rail."""
    if not any(j.on.element == array.id for j in s.filled.joints) and array.rails_listed != "no":
        return
    roof = RoofStudy(array, study, s.study.states[0].wiring.on)
    floating = roof.floating
    if not floating:
        return
    behind = whose_fault(roof)
    first = name_of_frame(floating[0])
    who = first if len(floating) == 1 else f"{len(floating)} frames ({first} and others)"
    told = f": {'; '.join(behind[:3])}" if behind else ""
    who = who[:1].upper() + who[1:]
    ids = [j.joint.part for j in roof.joints if j.is_open and j.hangs]
    fix = tuple(Remove(id=j.id) for j in s.filled.joints if j.on.element == array.id
                and j.on.part in ids)  # fmt: skip
    if array.rails_listed == "no":
        fix = (Set(path=f"{array.id}.bonding", value="lugs"),)
        told = ": the rails are not listed as a bonding path"
    yield s.found(
        array,
        f"{who} {'floats' if len(floating) == 1 else 'float'}, up to"
        f" {show_volts(array.voc_v)} with a fault there{told}.",
        "Make the joints good: a new listed washer, lug or splice; or a wire to every frame.",
        fix=fix,
        parts=("listed bonding washers or lugs",),
    )


@check(
    "rail-unbonded",
    "fix",
    looks="Rails or metal boxes of an array that are not bonded.",
    why="They carry what the frames lean on, and hands hold them.",
    topic="array_bond",
    needs=("arrays.boxes", "arrays.rails"),
)
def rail_unbonded(s: Evidence) -> Iterator[Yielded]:
    for array in s.filled.arrays:
        for fact, words in (("rails", "rails"), ("boxes", "metal boxes")):
            if getattr(array, fact) == "not bonded":
                yield s.found(
                    array,
                    f"Its {words} are not bonded.",
                    "Bond them: splices listed for it, or jumpers.",
                    fix=(Set(path=f"{array.id}.{fact}", value="bonded"),),
                    parts=("bonding jumpers",),
                )


def _needed(s: Evidence, array: Array) -> Working:
    return sizing.smallest_array_egc(
        array.isc_a,
        array.strings,
        array.device_a,
        array.egc_exposed == "yes",
        edition_of(array, s),
    )


@check(
    "array-egc-small",
    "fix",
    looks="The EGC of an array is smaller than its table.",
    why="It holds the frames at earth's potential while a fault lasts.",
    topic="array_egc",
    needs=(
        "arrays.built_under",
        "arrays.device_a",
        "arrays.egc_exposed",
        "arrays.egc_size",
        "arrays.isc_a",
        "arrays.length_ft",
        "arrays.strings",
    ),
)
def array_egc_small(s: Evidence) -> Iterator[Yielded]:
    for array in s.filled.arrays:
        size = array.egc_size
        if size is None or tables.is_metric(size) or not array.isc_a:
            continue
        plain = sizing.smallest_array_egc(
            array.isc_a, array.strings, array.device_a, edition=edition_of(array, s)
        )
        if tables.area(size) < tables.area(plain.value):
            yield s.found(
                array,
                f"Its EGC is {name(size)}; {name(plain.value)} is needed.",
                f"Run {name(_needed(s, array).value)}.",
                fix=(Set(path=f"{array.id}.egc_size", value=_needed(s, array).value),),
                parts=(f"{array.length_ft:g} ft of {name(_needed(s, array).value)}",),
                working=plain,
            )


@check(
    "array-egc-exposed-small",
    "fix",
    looks="An exposed EGC of an array under 6 AWG.",
    why="A branch or a roofer takes it away, and nobody notices.",
    topic="array_egc",
    needs=("arrays.egc_exposed", "arrays.egc_size", "arrays.isc_a", "arrays.strings"),
)
def array_egc_exposed_small(s: Evidence) -> Iterator[Yielded]:
    for array in s.filled.arrays:
        size = array.egc_size
        if array.egc_exposed != "yes" or size is None or tables.is_metric(size):
            continue
        if tables.area(size) < tables.area("6"):
            yield s.found(
                array,
                f"{name(size)} exposed; under 6 AWG it needs protection.",
                "Run 6 AWG, or protect it.",
                fix=(Set(path=f"{array.id}.egc_size", value="6"),),
                parts=("6 AWG copper",),
            )


@check(
    "array-egc-apart-from-circuit",
    "fix",
    looks="The EGC of an array runs apart from its circuit.",
    why="Apart, the loop is wide: less current, and a surge finds its way into it.",
    topic="array_egc_route",
    needs=("arrays.built_under", "arrays.egc_with_circuit"),
)
def array_egc_apart(s: Evidence) -> Iterator[Yielded]:
    for array in s.filled.arrays:
        if array.egc_with_circuit == "no":
            yield s.found(
                array,
                "Its EGC leaves the array apart from the circuit.",
                "Run it with the conductors to the panel's ground bar.",
                level="fix" if _built(array, s) >= APART_SINCE else "note",
                fix=(Set(path=f"{array.id}.egc_with_circuit", value="yes"),),
            )


APART_SINCE = 2008


@check(
    "array-electrode-by-edition",
    "check",
    looks="An array built when an electrode of its own was asked for has none.",
    why="The edition it was built under decides.",
    topic="array_electrode",
    needs=("arrays.built_under", "arrays.electrode"),
)
def array_electrode_by_edition(s: Evidence) -> Iterator[Yielded]:
    for array in s.filled.arrays:
        if array.electrode is not None or array.built_under is None:
            continue
        if edition_of(array, s) in OWN_ELECTRODE:
            yield s.found(
                array,
                f"Built under {edition_of(array, s)}, which asked for an electrode at the array,"
                " and none is described.",
                "Look for it; the edition in force today no longer asks for one.",
            )


@check(
    "ground-fault-detector-missing",
    "fix",
    looks="A roof array without ground-fault detection.",
    why="The array limits its own fault current: no breaker or fuse clears it.",
    topic="array_detector",
    needs=("arrays.detector",),
)
def ground_fault_detector_missing(s: Evidence) -> Iterator[Yielded]:
    for array in s.filled.arrays:
        if array.detector == "no":
            yield s.found(
                array,
                "No ground-fault detection.",
                "An inverter or a device that detects a ground fault and stops.",
                fix=(Set(path=f"{array.id}.detector", value="yes"),),
                parts=("ground-fault detection",),
            )
