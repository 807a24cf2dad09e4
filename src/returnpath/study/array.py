"""Photovoltaic arrays: d.c. ground faults, frame rise, detection. METHOD 3 and 9.

The array is a current-limited d.c. source; X = 0. An over-current device does not clear its
fault: detection does, and bonding keeps the frames at one potential.

    +  --- array (limit 1.25 × Isc × strings) --- −  --- inverter --- AC neutral
    frame --- array EGC --- panel ground --- bond --- neutral
"""

from dataclasses import dataclass

from .. import conductor
from ..assume import Assumed
from ..conductor import Wire
from .shock import DRY_OHM

IRRADIANCE = 1.25  # modules give more than their plate for hours
NO_DEVICE = 1.56  # 1.25 × 1.25 × Isc, where no device stands in the d.c. run


@dataclass(frozen=True, slots=True)
class ArrayStudy:
    """A d.c. ground fault of one array: what flows, what the frames rise to, what clears it.

    ``fault_a`` the most the array gives into it, ``frame_v`` the frames above the service bar,
    ``egc_ohm`` of the array's ground wire (None: no way home), ``body_a`` through a person from
    a frame to earth when nothing is bonded, ``cleared_by`` in words.
    """

    array: str
    fault_a: float
    frame_v: float
    egc_ohm: float | None
    body_a: float
    device_opens: bool
    cleared_by: str
    egc_for_a: float


def study_arrays(assumed: Assumed, states) -> tuple[ArrayStudy, ...]:
    """Every array of a site whose gaps are filled."""
    del states  # a d.c. solve of its own
    return tuple(_study(assumed, a) for a in assumed.site.arrays)


def _study(assumed: Assumed, array) -> ArrayStudy:
    fault = IRRADIANCE * array.isc_a * array.strings
    ohm = None
    if array.frames != "none" and array.egc_size is not None:
        wire = Wire(array.egc_size, array.egc_material or "copper", "PVC")
        per_kft = conductor.impedance_per_kft(wire, 75.0, 60.0).real
        ohm = per_kft * array.length_ft / 1000 + _to_service(assumed, array)
    if ohm is None:
        # The frame floats at the array's volts; a person closes the way.
        frame_v, body = array.voc_v, array.voc_v / DRY_OHM
    else:
        frame_v = min(fault * ohm, array.voc_v)
        body = frame_v / DRY_OHM
    device = array.device_a
    opens = device is not None and fault >= 1.35 * device
    if array.detector == "yes":
        cleared = "the ground-fault detector"
    elif array.detector == "no":
        cleared = "nothing: it flows while the sun shines"
    else:
        cleared = "not known: is there a ground-fault detector?"
    rated = device if device is not None else NO_DEVICE * array.isc_a * array.strings
    return ArrayStudy(array.id, fault, frame_v, ohm, body, opens, cleared, rated)


def _to_service(assumed: Assumed, array) -> float:
    """D.c. ohms from the inverter's panel to the service bar, by the ground wires."""
    site = assumed.site
    by_id = {c.id: c for c in site.circuits}
    circuit = by_id.get(array.circuit or "")
    if circuit is None:
        return 0.0
    total = _wire_ohm(circuit)
    here = circuit.panel
    feeds = {f.to: f for f in site.feeders}
    while here in feeds:
        total += _wire_ohm(feeds[here])
        here = feeds[here].source
    return total


def _wire_ohm(run) -> float:
    if run.egc not in ("wire", "both") or run.egc_size is None:
        return 0.0
    wire = Wire(run.egc_size, run.egc_material, run.method)
    return conductor.impedance_per_kft(wire, 75.0, 60.0).real * run.length_ft / 1000
