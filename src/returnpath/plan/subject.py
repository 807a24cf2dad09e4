"""What a procedure is about: the names, sizes and lists that its steps are filled with."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace

from .. import sizing
from ..errors import BadInput
from ..rules import Evidence
from ..rules.checks.outbuilding import cover_needed
from ..site import Array, Circuit, Electrode, Feeder, Metal, Panel, Service, Supply, name_of
from ..site.isolation import LivePaths, device_name
from ..site.plan import names_on_plan
from ..site.rings import is_ring
from ..tables import metal_name, size_name
from ..vocabulary import FactPath
from ..working import figures

Names = tuple[tuple[str, str], ...]
NOT_KNOWN = "(not known yet)"
TORQUE = "to the figure"
SURGE_FROM, EMERGENCY_FROM = 2020, 2020
USUAL_A = 200.0  # what a small service is changed to, unless the planner drew more


@dataclass(frozen=True)
class Subject:
    """``words`` for the braces, ``flags`` for the conditions, ``lists`` for *each*."""

    words: dict[str, str]
    flags: frozenset[str] = frozenset()
    lists: dict[str, Names] = field(default_factory=dict)


def subject_of(key: str, s: Evidence, subject: str) -> Subject:
    """The subject of a procedure; BadInput where that part is gone or of another kind. A firm's own
    procedure is about whatever it is given."""
    element = s.filled.elements().get(subject)
    if element is None:
        raise BadInput("What that procedure is about is no longer in the job.")
    wanted, make = _MAKERS.get(key, (object, _any))
    if not isinstance(element, wanted):
        raise BadInput(f"That procedure is not about {name_of(element)}.")
    made = make(s, element)
    return replace(made, lists=made.lists | {"also": _also(s, made.words)})


def _name(s: Evidence, element: object) -> str:
    id = getattr(element, "id", "")
    return names_on_plan(s.site).get(id) or name_of(element)  # type: ignore[arg-type]


def _common(s: Evidence, dead: object) -> dict[str, str]:
    points = LivePaths(s.site).points_of(getattr(dead, "id", "")) or (getattr(dead, "id", ""),)
    each = [_source(s, u) for u in s.filled.supplies] + [name_of(a) for a in s.filled.arrays]
    sources = ", ".join(each)
    cap = s.practice.dead_by == "cap"
    return {
        "sources": sources,
        "dead_at": _name(s, dead),
        "dead_id": getattr(dead, "id", ""),
        "lock_id": points[0],
        "also_ids": ",".join(points[1:]),
        "dead_by": "capped" if cap else "locked off",
        "dead_by_why": "Capping conductors never replaces the lock."
        if cap
        else "Nobody switches on what somebody's hands are in.",
        "opens": f"the breaker of {_name(s, dead)}",
        "torque": TORQUE,
        "volts": f"{s.study.states[0].volts:g}" if s.study.states else "120",
    }


def _source(s: Evidence, supply: Supply) -> str:
    return "the utility" if supply.kind == "utility" else name_of(supply).lower()


def _flags(s: Evidence) -> set[str]:
    found = set()
    if any(u.kind != "utility" for u in s.filled.supplies) or s.filled.arrays:
        found |= {"second_source", "stores"}
    return found


def _circuits(s: Evidence, panel: str) -> Names:
    return tuple((c.id, name_of(c)) for c in s.site.circuits if c.panel == panel)


def _size(s: Evidence, path: str, fallback: str | None, material: str | None) -> str:
    """The size that is needed where it is computed, else the one that is there."""
    row = s.sizes.get(FactPath(path))
    if row is not None:
        return f"{size_name(row.needed)} {metal_name(row.needed_material)}"
    if fallback is None:
        return NOT_KNOWN
    return f"{size_name(fallback)} {metal_name(material or 'copper')}"


def _of_feeder(s: Evidence, feeder: Feeder, panel: Panel) -> dict[str, str]:
    words = _common(s, panel)
    source = s.panels[feeder.source]
    words |= {
        "panel": name_of(panel), "panel_id": panel.id,
        "feeder": name_of(feeder), "feeder_id": feeder.id,
        "source": name_of(source),
        "breaker": f"{feeder.breaker.rating_a:g} A" if feeder.breaker.rating_a else NOT_KNOWN,
        "line": _size(s, f"{feeder.id}.line_size", feeder.line_size, feeder.line_material),
        "neutral": _size(s, f"{feeder.id}.neutral_size", feeder.neutral_size, feeder.line_material),
        "egc": _size(s, f"{feeder.id}.egc_size", feeder.egc_size, feeder.egc_material),
        "egc_why": f"By the breaker's {figures(feeder.breaker.rating_a)} A."
        if feeder.breaker.rating_a else "",
        "length": f"{feeder.length_ft:g} ft" if feeder.length_ft else NOT_KNOWN,
        "method": feeder.method or NOT_KNOWN,
        "opens": f"the breaker of {name_of(feeder)} in {name_of(source)}",
    }  # fmt: skip
    row = s.sizes.get(FactPath(f"{feeder.id}.egc_size"))
    words["egc_size"] = row.needed if row else feeder.egc_size or ""
    return words


def _fed(s: Evidence, panel: Panel) -> tuple[Feeder, set[str]]:
    feeder = s.feeder_to.get(panel.id)
    if feeder is None:
        raise BadInput(f"Nothing feeds {name_of(panel)} yet: describe its feeder.")
    flags = _flags(s)
    if feeder.egc in (None, "none"):
        flags.add("no_egc")
    flags.add("needs_bar")
    return feeder, flags


def _sub_panel(s: Evidence, panel: Panel) -> Subject:
    feeder, flags = _fed(s, panel)
    lists = {"circuits": _circuits(s, panel.id)}
    return Subject(_of_feeder(s, feeder, panel), frozenset(flags), lists)


def _outbuilding(s: Evidence, feeder: Feeder) -> Subject:
    panel = s.panels.get(feeder.to)
    if panel is None:
        raise BadInput("That feeder leads to no panel.")
    flags = _flags(s)
    least = cover_needed(feeder.method)
    if least is not None:
        flags.add("buried")
    own = [e for e in s.filled.electrodes if e.panel == panel.id]
    if own:
        flags.add("electrodes")
    building = next((b for b in s.filled.buildings if b.id == panel.building), None)
    words = _of_feeder(s, feeder, panel) | {
        "building": name_of(building) if building else name_of(panel),
        "cover": f"{least:g} in" if least else NOT_KNOWN,
        "spacing": "16 ft" if s.practice.rod_spacing == "twice" else "6 ft",
        "gec": _size(s, f"{own[0].id}.gec_size", own[0].gec_size, own[0].gec_material)
        if own else NOT_KNOWN,
    }  # fmt: skip
    lists = {"circuits": _circuits(s, panel.id), "rods": _rods(s, panel.id)}
    return Subject(words, frozenset(flags), lists)


def _rods(s: Evidence, panel: str) -> Names:
    names = names_on_plan(s.site)
    return tuple(
        (e.id, names.get(e.id) or name_of(e))
        for e in s.site.electrodes
        if e.panel == panel and e.kind == "rod"
    )


def _panel(s: Evidence, panel: Panel) -> Subject:
    words = _common(s, panel) | {"panel": name_of(panel), "panel_id": panel.id}
    return Subject(words, frozenset(_flags(s)), {"circuits": _circuits(s, panel.id)})


def _array(s: Evidence, array: Array) -> Subject:
    flags = _flags(s)
    own_electrode = s.edition in (2008, 2011)
    if own_electrode:
        flags.add("electrode_asked")
    washers = s.practice.array_bonding == "washers"
    words = _common(s, array) | {
        "array": name_of(array), "array_id": array.id,
        "egc": _size(s, f"{array.id}.egc_size", array.egc_size, array.egc_material),
        "bonding": "listed washers or clips, the rails as conductor" if washers
        else "a wire and lugs at every frame",
        "electrode_words": f"The rules of {s.edition} ask for an electrode of the array; joined to"
        " the others.",
    }  # fmt: skip
    return Subject(words, frozenset(flags))


def _circuit(s: Evidence, circuit: Circuit) -> Subject:
    panel = s.panels[circuit.panel]
    four = circuit.egc in ("wire", "raceway", "both")
    flags = _flags(s) | ({"four-wire"} if four else set())
    words = _common(s, circuit) | {
        "circuit": name_of(circuit), "circuit_id": circuit.id,
        "panel": name_of(panel), "panel_id": panel.id,
        "line": _size(s, f"{circuit.id}.line_size", circuit.line_size, circuit.line_material),
        "wires": "four" if four else "three",
        "strap": "out" if four else "in",
        "strap_say": "Strap between neutral and frame out, and kept in the appliance's pocket."
        if four else "Strap between neutral and frame in.",
        "strap_why": "On four wires the strap would put load current on the EGC and the frame."
        if four else "On three wires the neutral is the frame's only way home.",
        "frame_neutral": "open" if four else "closed",
        "opens": f"the breaker of {name_of(circuit)} in {name_of(panel)}",
    }  # fmt: skip
    return Subject(words, frozenset(flags))


def _also(s: Evidence, words: dict[str, str]) -> Names:
    """The points beside the first that isolate what a procedure is about."""
    return tuple((p, device_name(s.site, p)) for p in words.get("also_ids", "").split(",") if p)


def _pool(s: Evidence, metal: Metal) -> Subject:
    words = _common(s, metal) | {"metal": name_of(metal), "metal_id": metal.id}
    words["opens"] = "the breakers of its pump and lights"
    return Subject(words, frozenset(_flags(s)))


def _generator(s: Evidence, supply: Supply) -> Subject:
    switched = getattr(supply, "neutral_switched", None) == "yes"
    panel = s.filled.panel
    words = _common(s, panel) | {
        "generator": name_of(supply), "generator_id": supply.id,
        "panel": name_of(panel), "panel_id": panel.id,
        "switches": "switches" if switched else "does not switch",
        "bond": "in" if switched else "out",
        "bond_why": "A switched neutral makes it a source of its own, with its own bond."
        if switched else "The neutral stays joined at the service: a second bond would share it.",
    }  # fmt: skip
    return Subject(words, frozenset(_flags(s)))


def _service(s: Evidence, panel: Panel) -> Subject:
    flags = _flags(s)
    if s.edition >= EMERGENCY_FROM:
        flags.add("emergency_disconnect")
    if s.edition >= SURGE_FROM:
        flags.add("surge")
    service = next((r for r in s.filled.services if r.to == panel.id), s.filled.service)
    electrode = s.filled.electrode
    pipes = tuple((m.id, name_of(m)) for m in s.site.metals
                  if m.kind == "water" and m.material != "plastic")  # fmt: skip
    second = [_source(s, u) for u in s.filled.supplies if u.kind != "utility"]
    second += [name_of(a) for a in s.filled.arrays]
    words = _common(s, panel) | {
        "panel": name_of(panel), "panel_id": panel.id,
        "target": f"{max(panel.main.rating_a or 0.0, USUAL_A):g}",
        "load": "the Panels stage has it",
        "line": _size(s, f"{service.id}.line_size", service.line_size, service.line_material),
        "neutral": _size(s, f"{service.id}.neutral_size", service.neutral_size,
                         service.line_material),
        "gec": _size(s, f"{electrode.id}.gec_size", electrode.gec_size, electrode.gec_material),
        "lands": "neutral bar",
        "pipe_bond": _water_bond(s, service),
        "second": ", ".join(second),
        "service_id": service.id,
        "second_ids": ",".join(
            [u.id for u in s.filled.supplies if u.kind != "utility"]
            + [a.id for a in s.filled.arrays]
        ),
    }  # fmt: skip
    lists = {"rods": _rods(s, panel.id), "pipes": pipes, "circuits": _circuits(s, panel.id)}
    return Subject(words, frozenset(flags), lists)


def _water_bond(s: Evidence, service: Service) -> str:
    if service.line_size is None:
        return NOT_KNOWN
    try:
        needed = sizing.water_bond(
            service.line_size, service.line_material or "aluminium", service.sets or 1
        )
    except BadInput:
        return NOT_KNOWN
    return f"{size_name(str(needed.value))} copper"


def _any(s: Evidence, element: object) -> Subject:
    words = _common(s, element) | {"place": _name(s, element), "place_id": element.id}  # type: ignore[attr-defined]
    panel = element if isinstance(element, Panel) else s.filled.panel
    words |= {"panel": name_of(panel), "panel_id": panel.id}
    return Subject(words, frozenset(_flags(s)), {"circuits": _circuits(s, panel.id)})


def _board(s: Evidence, panel: Panel) -> Subject:
    """A board of a metric job: its circuits, its rings, what has an RCD, the metal that is
    bonded."""
    made, service = _panel(s, panel), s.filled.service
    here = [c for c in s.filled.circuits if c.panel == panel.id]
    line = size_name(service.line_size) if service.line_size else NOT_KNOWN
    lists = made.lists | {
        "rings": tuple((c.id, name_of(c)) for c in here if is_ring(c)),
        "rcds": tuple((c.id, name_of(c)) for c in here if c.rcd_ma is not None),
        "metals": tuple((m.id, name_of(m)) for m in s.site.metals if m.bonded == "yes"),
    }
    return Subject(made.words | {"line": line}, made.flags, lists)


def _electrode(s: Evidence, electrode: Electrode) -> Subject:
    made = _any(s, electrode)
    panel = s.panels.get(electrode.panel or "", s.filled.panel)  # what is dead while it is lifted
    own = _common(s, panel) | {"panel": name_of(panel), "panel_id": panel.id}
    own |= {
        "electrode": _name(s, electrode),
        "electrode_id": electrode.id,
        "gec": _size(s, f"{electrode.id}.gec_size", electrode.gec_size, electrode.gec_material),
    }
    return Subject(made.words | own, made.flags, made.lists)


_MAKERS: dict[str, tuple[type, Callable[..., Subject]]] = {
    "sub-panel": (Panel, _sub_panel),
    "bond-cure": (Panel, _sub_panel),
    "outbuilding": (Feeder, _outbuilding),
    "panel-cut-in": (Panel, _panel),
    "fault-finding": (Panel, _panel),
    "array-grounding": (Array, _array),
    "two-wire-receptacle": (Circuit, _circuit),
    "range-dryer": (Circuit, _circuit),
    "pool": (Metal, _pool),
    "generator": (Supply, _generator),
    "service-change": (Panel, _service),
    "verification": (Panel, _board),
    "board-change": (Panel, _board),
    "outbuilding-earth": (Feeder, _outbuilding),
    "ring-fault": (Circuit, _circuit),
    "vehicle-charger": (Circuit, _circuit),
    "tt-electrode": (Electrode, _electrode),
}
