"""What custom adds to a typed run: metal, method, poles, neutral, and a ground wire only where the
line says it or its kind of cable always has one. All of it is marked as assumed."""

from ...conductor import methods
from .line import MARK, Line
from .metric import complete_metric

OLD = ("K&T", "BX")
FOUR_WIRES_FROM_A = 30  # in smaller ones four wires are as often two circuits
TWO_POLE_FROM_A = 35  # no 120 V branch circuit of a dwelling is larger
GROUND_FROM = 1965  # cable of before has none, or a thin one


def complete_run(line: Line, feeder: bool = False) -> None:
    """What the cable itself brings, by custom: metal, method, poles, neutral, ground wire."""
    if MARK in line.marks:
        complete_metric(line, feeder)
        return
    facts, marks = line.facts, line.marks
    wires = next((int(m.split()[1]) for m in marks if m.startswith("wires ")), None)
    in_cable = wires is not None
    if "conductor sets" in marks:
        line.suppose("line_material", "aluminium")
    if in_cable or facts.get("line_size"):
        line.suppose("line_material", "copper")
    if "conduit" in marks and "method" not in facts:
        line.problems.append("Which conduit: EMT, IMC, RMC or PVC?")
    if in_cable:
        line.suppose("method", "NM")
    if "three-wire appliance" in marks:  # its frame is on the neutral
        line.suppose("neutral", "yes")
        line.suppose("egc", "none")
    if not feeder and not in_cable:  # “6-3, 4 wire”: the sheath's own ground is smaller
        _loose_wires(line)
    _poles(line, wires, feeder)
    if in_cable and "neutral" not in facts:
        line.suppose("neutral", "no" if facts.get("poles") == 2 and wires == 2 else "yes")
    if feeder:
        line.suppose("neutral", "yes")
    _egc(line, wires)


def _loose_wires(line: Line) -> None:
    """“(4) #6 in PVC” of a large circuit: two hots, a neutral, a ground."""
    facts, marks = line.facts, line.marks
    large = (facts.get("breaker.rating_a") or 0) >= FOUR_WIRES_FROM_A
    three_and_ground = "conductors 3" in marks and "egc_size" in facts
    if large and facts.get("egc") != "none" and ("conductors 4" in marks or three_and_ground):
        line.suppose("poles", 2)
        line.suppose("neutral", "yes")
        marks.add("ground")
        if facts.get("line_size"):
            line.suppose("egc_size", facts["line_size"])


def _poles(line: Line, wires: int | None, feeder: bool) -> None:
    if feeder or "240" in line.marks or "pair of spaces" in line.marks:
        line.suppose("poles", 2)
    elif "120" in line.marks:
        line.suppose("poles", 1)
    elif "conductor sets" in line.marks or (
        wires is not None and (line.facts.get("breaker.rating_a") or 0) >= TWO_POLE_FROM_A
    ):
        line.suppose("poles", 2)


def _egc(line: Line, wires: int | None) -> None:
    """A ground wire only where the line says it, or its kind of cable always has one."""
    facts, marks = line.facts, line.marks
    name = facts.get("method")
    steel = bool(name and methods()[name].steel_return)
    if facts.get("egc") == "none":
        if "ground" in marks:
            line.problems.append("“ground” and “no ground” are both said: write one of them.")
            facts.pop("egc")
        return
    old = name in OLD or "old" in marks or (facts.get("year") or GROUND_FROM) < GROUND_FROM
    said_by_name = name in ("NM", "UF") and "method" not in line.assumed
    if "ground" in marks:
        line.give("egc", "both" if steel else "wire", "ground")
        if steel and "egc_size" not in facts and wires is None:
            pass
    elif name == "K&T":
        line.suppose("egc", "none")
    elif steel:
        line.suppose("egc", "raceway")
    elif not old and wires is not None and name in ("NM", "UF", "MC", "SER", "MHF"):
        if said_by_name:
            line.give("egc", "wire", name)
        else:
            line.suppose("egc", "wire")
    if facts.get("egc") in ("wire", "both") and "egc_size" not in facts and wires is not None:
        size = _sheath_ground(facts)
        if size:
            line.suppose("egc_size", size)


def _sheath_ground(facts) -> str | None:
    """A modern sheath's ground wire: its line's size up to 10 AWG, 10 for 8 and 6, 8 to 2 AWG."""
    if facts.get("line_material") != "copper":
        return None
    size = facts.get("line_size")
    if size in ("14", "12", "10"):
        return size
    return {"8": "10", "6": "10", "4": "8", "3": "8", "2": "8"}.get(size)
