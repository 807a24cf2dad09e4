"""Directory: the panel as it is labelled, filled and placed."""

import re
from collections.abc import Iterator

from ...panels import are_too_many, taken_spaces
from ...site import Circuit, Set, name_of
from ...working import count_of, figures
from ..finding import MAKER, PRACTICE
from ..registry import Evidence, Yielded, check

#: Names that tell the next person nothing.
_VAGUE = re.compile(
    r"(?i)^(lights?|plugs?|outlets?|receptacles?|recs?|general|misc\.?|stuff|various|house|room|"
    r"rooms|upstairs|downstairs|lights? (and|&) (plugs?|outlets?)|unknown|\?+|spare\?)$"
)
MOST_SERVICE_DISCONNECTS = 6


@check(
    "circuit-unlabelled",
    "fix",
    looks="A panel has no directory.",
    why="In an emergency nobody finds the breaker.",
    topic="directory",
    needs=("panels.directory",),
)
def circuit_unlabelled(s: Evidence):
    for panel in s.filled.panels:
        if panel.directory == "missing":
            yield s.found(
                panel,
                "No directory.",
                "Trace and label every circuit, the spares too.",
                fix=(Set(path=f"{panel.id}.directory", value="clear"),),
            )


def is_vague(name: str) -> bool:
    """Whether a name could be any circuit's."""
    return bool(_VAGUE.match(name.strip()))


@check(
    "label-vague",
    "fix",
    looks="A directory that does not tell one circuit from another.",
    why="The wrong breaker is switched off, and the wire in the hand stays live.",
    topic="directory",
    needs=("panels.directory",),
)
def label_vague(s: Evidence):
    for panel in s.filled.panels:
        if panel.directory == "vague":
            yield s.found(
                panel,
                "Its directory is vague or out of date.",
                "Trace the circuits and label them so that no two can be taken for each other.",
                fix=(Set(path=f"{panel.id}.directory", value="clear"),),
            )
    for circuit in s.filled.circuits:
        if circuit.name and is_vague(circuit.name):
            yield s.found(
                circuit,
                f"“{circuit.name}” could be any circuit.",
                "Name the room and what is on it.",
                level="note",
            )


@check(
    "space-conflict",
    "check",
    looks="Two breakers are entered on one space, or one beyond the panel's last.",
    why="One of the two is written down wrong, or two breakers share one place.",
    topic="the directory as it is entered",
    kind=PRACTICE,
    needs=(
        "circuits.poles",
        "circuits.space",
        "circuits.tandem",
        "feeders.poles",
        "feeders.space",
        "panels.numbering",
        "panels.spaces",
        "supplies.system",
    ),
)
def space_conflict(s: Evidence):
    for panel in s.filled.panels:
        for space, here in taken_spaces(s.filled, panel.id).items():
            if are_too_many([getattr(one, "tandem", None) == "yes" for one in here]):
                tandem = [c for c in here if isinstance(c, Circuit) and c.tandem is None]
                yield s.found(
                    here[-1],
                    f"Space {space} is entered for {' and '.join(map(name_of, here))}.",
                    "Look which it is; two half-size breakers in one space are a tandem.",
                    level="check",
                    asks=f"{tandem[0].id}.tandem" if tandem else "",
                )
            elif panel.spaces is not None and space > panel.spaces:
                yield s.found(
                    here[0],
                    f"Space {space} of a panel with {panel.spaces}.",
                    "Look where its breaker is.",
                    level="check",
                )


@check(
    "tandem-breaker",
    "fix",
    looks="A tandem breaker in a panel that is not made for one.",
    why="More circuits than the panel is made for heat its bars.",
    topic="tandem",
    needs=("circuits.tandem", "panels.tandem_allowed"),
)
def tandem_breaker(s: Evidence):
    for circuit in s.filled.circuits:
        panel = s.panels[circuit.panel]
        if circuit.tandem != "yes" or panel.tandem_allowed == "yes":
            continue
        if panel.tandem_allowed is None:
            path = f"{panel.id}.tandem_allowed"
            yield s.ask(panel, path, "Does its label allow tandem breakers, and in which spaces?")
        else:
            yield s.found(
                circuit,
                "A tandem breaker; the panel's label allows none.",
                "A full-size breaker, or a sub-panel.",
                fix=(Set(path=f"{circuit.id}.tandem", value="no"),),
            )


@check(
    "panel-in-bad-place",
    "fix",
    looks="A panel in a clothes closet or a bathroom.",
    why="Clothes burn, and steam corrodes.",
    topic="panel_place",
    needs=("panels.place",),
)
def panel_in_bad_place(s: Evidence):
    for panel in s.filled.panels:
        if panel.place in ("closet", "bathroom"):
            where = "a clothes closet" if panel.place == "closet" else "a bathroom"
            yield s.found(
                panel,
                f"It hangs in {where}.",
                "Move it, or make the place something else.",
                fix=(Set(path=f"{panel.id}.place", value="clear"),),
            )


@check(
    "clear-space",
    "fix",
    looks="The space in front of a panel is blocked.",
    why="Who must switch it off, or work at it, has no room to stand.",
    topic="clear_space",
    needs=("panels.place",),
)
def clear_space(s: Evidence):
    for panel in s.filled.panels:
        if panel.place == "blocked":
            yield s.found(
                panel,
                "The space in front of it is blocked.",
                "Keep 30 in wide, 36 in deep and 6 ft 6 in high clear.",
                fix=(Set(path=f"{panel.id}.place", value="clear"),),
            )


def _devices(s: Evidence):
    """(element, where its device is, device)."""
    for panel in s.filled.panels:
        yield panel, "main", panel.main
    for run in (*s.filled.circuits, *s.filled.feeders):
        yield run, "breaker", run.breaker


@check(
    "breaker-damaged",
    "danger",
    looks="A breaker that heat has damaged, or of a type known not to trip.",
    why="It does not trip as its handle promises, or burns where it plugs in.",
    topic="the condition of the breaker",
    kind=PRACTICE,
    needs=("breaker.condition",),
)
def breaker_damaged(s: Evidence):
    for element, where, device in _devices(s):
        if device.condition == "heat-damaged":
            yield s.found(
                element,
                "Its breaker is heat-damaged.",
                "Replace it, and look at the bar it plugs on and the wire in it.",
                fix=(Set(path=f"{element.id}.{where}.condition", value="good"),),
                parts=("breaker",),
            )
        elif device.condition == "obsolete":
            yield s.found(
                element,
                "Its breaker is of an obsolete type: its trip cannot be relied on.",
                "Plan its replacement, most often the whole panel's.",
                level="check",
            )


@check(
    "breaker-not-listed-for-panel",
    "fix",
    looks="A breaker that the panel's label does not list.",
    why="It may fit and still not grip the bar: it burns.",
    topic="listed_breaker",
    needs=("breaker.condition",),
)
def breaker_not_listed(s: Evidence):
    for element, where, device in _devices(s):
        if device.condition == "not listed here":
            yield s.found(
                element,
                "Its breaker is not listed for this panel.",
                "Install one that the panel's label names.",
                fix=(Set(path=f"{element.id}.{where}.condition", value="good"),),
                parts=("breaker listed for the panel",),
            )


@check(
    "legs-unbalanced",
    "note",
    looks="The load, or the spaces, of a panel lie mostly on one leg.",
    why="The neutral then carries the difference all day.",
    topic="balance",
    needs=(
        "circuits.load_va",
        "circuits.poles",
        "circuits.space",
        "practice.balance",
        "supplies.system",
    ),
)
def legs_unbalanced(s: Evidence) -> Iterator[Yielded]:
    by_space = s.practice.balance == "space"
    system = s.filled.supply.system
    if system is None or system.lines < 2:
        return  # there is no other leg
    legs = range(1, (2 if system.has_centre_tap else system.lines) + 1)
    for panel in s.filled.panels:
        per_leg: dict[int, float] = {}
        for circuit in s.filled.circuits:
            if circuit.panel != panel.id or circuit.space is None or (circuit.poles or 1) > 1:
                continue
            load = circuit.load_va if s.known(f"{circuit.id}.load_va") else None
            if not by_space and load is None:
                continue
            for leg in s.legs[circuit.id]:
                amps = 1.0 if by_space else (load or 0.0) / system.volts
                per_leg[leg] = per_leg.get(leg, 0.0) + amps
        if len(per_leg) < 1 or sum(per_leg.values()) < (6 if by_space else 40):
            continue
        most, least = max(per_leg.values()), min(per_leg.get(n, 0.0) for n in legs)
        if most > 2 * max(least, 0.5):
            words = ", ".join(
                f"L{n} {count_of(round(v), 'circuit') if by_space else f'{figures(v)} A'}"
                for n, v in sorted(per_leg.items())
            )
            yield s.found(panel, f"Unbalanced: {words}.", "Move some to the other leg.")


@check(
    "every-other-space",
    "check",
    looks="Many single-pole circuits of one panel, and all of them on one leg.",
    why="Skipped or half-size spaces put every circuit on one leg: the neutral carries it all.",
    topic="balance",
    needs=("circuits.poles", "circuits.space", "supplies.system"),
)
def every_other_space(s: Evidence):
    for panel in s.filled.panels:
        legs = [
            s.legs[c.id][0]
            for c in s.filled.circuits
            if c.panel == panel.id and c.space is not None and (c.poles or 1) == 1
        ]
        if len(legs) >= 4 and len(set(legs)) == 1 and s.filled.supply.system.lines > 1:
            yield s.found(
                panel,
                f"{len(legs)} single-pole circuits, all on L{legs[0]}.",
                "Look at the spaces again; move every other one.",
            )


@check(
    "surge-protector-missing",
    "fix",
    looks="A new dwelling service without a surge protector.",
    why="Electronics in GFCI, AFCI and alarms die of the first surge.",
    topic="surge",
    needs=("buildings.permit", "buildings.wired_year", "panels.surge_protector"),
)
def surge_protector_missing(s: Evidence):
    panel = s.panels[s.at_service]
    home = next((b for b in s.filled.buildings if b.id == panel.building), None)
    new = home is not None and home.wired_year is not None and home.wired_year >= SURGE_SINCE
    if panel.surge_protector == "no" and s.edition >= SURGE_SINCE:
        yield s.found(
            panel,
            "No surge protector at the service.",
            "Install a type 1 or 2 device at the service.",
            level=None if new else "note",
            fix=(Set(path=f"{panel.id}.surge_protector", value="yes"),) if new else (),
            parts=("surge protector",),
        )


SURGE_SINCE = 2020


@check(
    "emergency-disconnect",
    "check",
    looks="A new dwelling service, and no outdoor emergency disconnect is described.",
    why="Firefighters switch a house off from outside.",
    topic="emergency_disconnect",
    needs=("buildings.permit", "buildings.wired_year", "panels.kind", "panels.marked"),
)
def emergency_disconnect(s: Evidence):
    if s.edition < SURGE_SINCE:
        return
    there = any(p.kind == "emergency disconnect" or p.marked for p in s.filled.panels)
    outdoors = any(p.kind in ("meter", "disconnect") for p in s.filled.panels)
    panel = s.panels[s.at_service]
    home = next((b for b in s.filled.buildings if b.id == panel.building), None)
    new = home is not None and (home.wired_year or 0) >= SURGE_SINCE
    if new and home.permit == "dwelling" and not there and not outdoors:
        yield s.found(
            panel,
            "No outdoor emergency disconnect is described.",
            "Enter it with its marking; a new dwelling service needs one.",
        )


@check(
    "too-many-service-disconnects",
    "fix",
    looks="More than six service disconnects, or several that are not grouped.",
    why="Who must switch the house off has to find them all at once.",
    topic="several_disconnects",
    needs=(
        "circuits.breaker.rating_a",
        "feeders.breaker.rating_a",
        "panels.grouped",
        "panels.main.kind",
    ),
)
def too_many_service_disconnects(s: Evidence):
    count = len(s.services)
    panel = s.panels[s.at_service]
    if count == 1:
        # Lugs with no main: every device on its bars is a service disconnect.
        run = next((r for r in s.filled.services if s.protected[r.id].count > 1), None)
        count = s.protected[run.id].count if run is not None and panel.main.kind == "none" else 1
        if count > MOST_SERVICE_DISCONNECTS:
            yield s.found(
                panel,
                f"No main, and {count} devices on its bars: six service disconnects are the most.",
                "One main ahead of them.",
                parts=("main breaker",),
            )
        return
    if count < 1:
        return
    if count > MOST_SERVICE_DISCONNECTS:
        yield s.found(
            panel,
            f"{count} service disconnects; six are the most.",
            "One main ahead of them.",
        )
    elif panel.grouped == "no":
        yield s.found(
            panel,
            f"{count} service disconnects, not grouped.",
            "Group them, each in its own enclosure or compartment and marked.",
            fix=(Set(path=f"{panel.id}.grouped", value="yes"),),
        )
    elif panel.grouped is None:
        yield s.ask(
            panel, f"{panel.id}.grouped", f"{count} service disconnects: are they in one place?"
        )


@check(
    "aluminium-branch-wiring",
    "check",
    looks="Aluminum branch wiring: what are its receptacles and splices made for?",
    why="Its joints loosen and glow on devices made for copper.",
    topic="devices listed for aluminum",
    kind=MAKER,
    needs=("circuits.device_terminals", "circuits.line_material", "circuits.line_size"),
)
def aluminium_branch_wiring(s: Evidence):
    for circuit in s.filled.circuits:
        small = circuit.line_size in ("12", "10")
        given = s.known(f"{circuit.id}.line_material")
        aluminum = small and given and circuit.line_material == "aluminium"
        if aluminum and circuit.device_terminals is None:
            yield s.ask(
                circuit,
                f"{circuit.id}.device_terminals",
                "Aluminum branch wiring: are its receptacles marked CO/ALR, and how is it spliced"
                " to copper?",
            )
