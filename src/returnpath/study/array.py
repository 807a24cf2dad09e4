"""Photovoltaic arrays: d.c. ground faults, frame rise, detection. method 3 and 9.

The array is a current-limited d.c. source; X = 0. An over-current device does not clear its
fault: detection does, and bonding keeps the frames at one potential.

    +  --- array (limit 1.25 × Isc × strings) --- −  --- inverter --- AC neutral
    frame --- array EGC --- panel ground --- bond --- neutral
"""

from dataclasses import dataclass

from ..assume import Assumed
from ..conductor import Wire
from ..network.build import wire_ohm
from ..network.solver import Network
from ..vocabulary import BranchId, FactPath
from .shock import DRY_OHM
from .solved import OPEN_OHM
from .spine import HOT_C
from .states import States

IRRADIANCE = 1.25  # modules give more than their plate for hours
LEAST_TRIP = 1.35  # of a device's rating, below which it may never open
NO_DEVICE = 1.56  # 1.25 × 1.25 × Isc, where no device stands in the d.c. run


@dataclass(frozen=True, slots=True)
class ArrayStudy:
    """A d.c. ground fault of one array: what flows, what the frames rise to, what clears it.

    ``fault_a`` the most the array gives into it, ``frame_v`` the frames above the service bar,
    ``egc_ohm`` from the frames to the service bar, all ways together (None: no way home),
    ``body_a`` through a person from a frame to earth, ``cleared_by`` in words; ``lacks`` the
    facts without which the frames' volts are not known.
    """

    array: str
    fault_a: float
    frame_v: float | None
    egc_ohm: float | None
    body_a: float | None
    device_opens: bool
    cleared_by: str
    egc_for_a: float
    lacks: tuple[FactPath, ...] = ()
    fault_most_a: float = 0.0  # what the array can give, whatever is in the way


def study_arrays(assumed: Assumed, states: States) -> tuple[ArrayStudy, ...]:
    """Every array of a site whose gaps are filled."""
    return tuple(_study(assumed, states, a) for a in assumed.site.arrays)


def _study(assumed: Assumed, states: States, array) -> ArrayStudy:
    most = IRRADIANCE * array.isc_a * array.strings
    lacks = ()
    if array.frames in (None, "bonded") and array.egc_size is None:
        lacks = (FactPath.of(array.id, "egc_size"),)
    per_amp = None
    if array.frames in (None, "bonded") and array.egc_size is not None:
        per_amp = _frame_ohm(assumed, states, array)
    if per_amp is None:
        # A frame floats at the array's volts (one of them, where only some are bonded); a person
        # closes the way.
        fault, frame_v = most, array.voc_v
    else:
        # The array holds its current up to its volts, and its volts past that.
        fault = min(most, array.voc_v / per_amp) if per_amp else most
        frame_v = fault * per_amp
    device = array.device_a
    opens = device is not None and fault >= LEAST_TRIP * device
    if array.detector == "yes":
        cleared = "the ground-fault detector"
    elif array.detector == "no":
        cleared = "nothing: it flows while the sun shines"
    else:
        cleared = "not known: is there a ground-fault detector?"
    rated = device if device is not None else NO_DEVICE * array.isc_a * array.strings
    body = frame_v / DRY_OHM
    if lacks:
        return ArrayStudy(array.id, fault, None, None, None, opens, cleared, rated, lacks, most)
    return ArrayStudy(array.id, fault, frame_v, per_amp, body, opens, cleared, rated, (), most)


def _frame_ohm(assumed: Assumed, states: States, array) -> float | None:
    """Volts of the frames above the service bar for each ampere of a fault: a d.c. solve of the
    whole place (X = 0), the array's current put in at its frames and taken out at the neutral
    that its inverter hangs on."""
    site = assumed.site
    circuit = next((c for c in site.circuits if c.id == array.circuit), None)
    panel = circuit.panel if circuit else site.panel.id
    solved = states.solve(states.sources.highest, HOT_C, HOT_C, 0.0,
                          circuits=(circuit,) if circuit else ())[0]  # fmt: skip
    direct = Network()
    for branch in solved.network.branches.values():
        direct.branch(branch.id, branch.a, branch.b, complex(branch.ohm).real)
    for coupling in solved.network.couplings.values():
        if not any(coupling.volts) and BranchId(coupling.id).part == "soil":
            direct.couple(coupling)
    frame = f"{array.id}.frame"
    wire = Wire(array.egc_size, array.egc_material or "copper", "PVC")
    ohm = wire_ohm(wire, array.length_ft, HOT_C, float(site.frequency_hz)).real
    end = f"{circuit.id}.case" if circuit else f"{panel}.ground"
    on = states.wiring.on
    for part, to, own in (("egc", end, ohm), ("gec", f"{array.electrode}.top", 0.0)):
        branch = BranchId.of(array.id, part)
        if on.is_open(branch) or (part == "gec" and to not in direct.nodes):
            direct.node(frame)
            continue
        direct.branch(branch, frame, to, own + on.ohm(branch))
    sink = f"{circuit.id}.N" if circuit and f"{circuit.id}.N" in direct.nodes else f"{panel}.N"
    bar = f"{site.panel.id}.N"
    if sink not in direct.nodes or bar not in direct.nodes:
        return None
    solution = direct.factor()
    column = solution.column(frame, sink)
    across = abs(solution.at(frame, column) - solution.at(bar, column))
    return across if across < OPEN_OHM / 1000 else None
