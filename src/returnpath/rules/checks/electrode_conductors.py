"""Electrodes, their conductors: size, protection, splices, clamps, where they land."""

from collections.abc import Iterator

from ... import tables
from ...site import Set
from ..registry import Evidence, Yielded, check
from .electrodes import EXPOSED_SIZE, LEAST_HEIGHT_IN

FAMILY = "electrodes"
name = tables.size_name


def _in_force(s: Evidence, electrode):
    """The conductor's row: needed for this electrode against installed."""
    return s.sizes.get(f"{electrode.id}.gec_size")


@check(
    "gec-small",
    "fix",
    looks="An electrode conductor is smaller than the service asks for.",
    why="It holds the house at earth's potential in a surge.",
    topic="gec_size",
    needs=("electrodes.gec_material", "electrodes.gec_size", "electrodes.kind"),
)
def gec_small(s: Evidence):
    for electrode in s.filled.electrodes:
        row = _in_force(s, electrode)
        if row is not None and row.meets is False:
            yield s.found(
                electrode,
                f"Electrode conductor {name(row.installed)}; {name(row.needed)}"
                f" {row.needed_material} is needed.",
                f"Run {name(row.needed)} {row.needed_material}.",
                fix=(Set(path=row.path, value=row.needed),),
                parts=(f"{name(row.needed)} {row.needed_material}",),
                working=row.working,
            )


@check(
    "gec-exposed-small",
    "fix",
    looks="An electrode conductor under 6 AWG runs where it can be hit, without protection.",
    why="A mower or a shovel takes it away, and nobody notices.",
    topic="gec_protected",
    needs=(
        "electrodes.gec_exposed",
        "electrodes.gec_size",
        "electrodes.gec_sleeve",
        "electrodes.kind",
    ),
)
def gec_exposed_small(s: Evidence):
    for electrode in s.filled.electrodes:
        size = electrode.gec_size
        sleeved = electrode.gec_sleeve not in (None, "none")
        if electrode.gec_exposed != "yes" or size is None or sleeved:
            continue
        if tables.area(size) < tables.area(EXPOSED_SIZE):
            yield s.found(
                electrode,
                f"{name(size)} exposed; under 6 AWG it needs a raceway.",
                "Run 6 AWG, or protect it.",
                fix=(Set(path=f"{electrode.id}.gec_size", value=EXPOSED_SIZE),),
                parts=("6 AWG copper, or plastic conduit",),
            )


@check(
    "gec-spliced",
    "fix",
    looks="An electrode conductor is spliced by something that can be undone.",
    why="A splice works loose where nobody looks.",
    topic="gec_splice",
    needs=("electrodes.gec_splice", "electrodes.kind"),
)
def gec_spliced(s: Evidence):
    for electrode in s.filled.electrodes:
        if electrode.gec_splice == "other":
            yield s.found(
                electrode,
                "Spliced by a connector that is not irreversible.",
                "Run it in one piece, or by an irreversible crimp or weld.",
                fix=(Set(path=f"{electrode.id}.gec_splice", value="irreversible"),),
                parts=("irreversible compression connector",),
            )


@check(
    "gec-steel-raceway-one-end",
    "fix",
    looks="Steel around an electrode conductor is bonded at one end only.",
    why="In a surge the steel chokes the wire inside it to almost nothing.",
    topic="gec_raceway",
    needs=("electrodes.gec_sleeve", "electrodes.kind"),
)
def gec_steel_raceway_one_end(s: Evidence):
    for electrode in s.filled.electrodes:
        if electrode.gec_sleeve == "steel, one end":
            yield s.found(
                electrode,
                "Its steel sleeve is bonded at one end.",
                "Bond it at both ends, or use plastic.",
                fix=(Set(path=f"{electrode.id}.gec_sleeve", value="steel, both ends"),),
                parts=("bonding bushing or clamp",),
            )


@check(
    "gec-aluminium-low",
    "fix",
    looks="An aluminum electrode conductor ends within 18 in of the earth.",
    why="Damp earth eats aluminum.",
    topic="gec_aluminium",
    needs=(
        "electrodes.gec_height_in",
        "electrodes.gec_material",
        "electrodes.gec_size",
        "electrodes.kind",
    ),
)
def gec_aluminium_low(s: Evidence):
    for electrode in s.filled.electrodes:
        if electrode.gec_material != "aluminium" or not electrode.gec_size:
            continue
        height = electrode.gec_height_in
        if height is None:
            yield s.ask(
                electrode, f"{electrode.id}.gec_height_in", "How near the earth does it end?"
            )
        elif height < LEAST_HEIGHT_IN:
            yield s.found(
                electrode,
                f"Aluminum {height:g} in above the earth; {LEAST_HEIGHT_IN:g} in is the least.",
                "Run copper to the electrode.",
                fix=(Set(path=f"{electrode.id}.gec_material", value="copper"),),
                parts=("copper electrode conductor",),
            )


@check(
    "clamp-not-listed",
    "fix",
    looks="A clamp that is not listed for this use or for burial.",
    why="The wrong clamp corrodes and lets go under the soil.",
    topic="clamps",
    needs=("electrodes.clamp", "electrodes.kind"),
)
def clamp_not_listed(s: Evidence):
    for electrode in s.filled.electrodes:
        if electrode.clamp == "not listed":
            yield s.found(
                electrode,
                "The clamp is not listed for it.",
                "Install one that is listed, for burial where it is buried.",
                fix=(Set(path=f"{electrode.id}.clamp", value="listed"),),
                parts=("listed clamp",),
            )


@check(
    "clamp-two-wires",
    "fix",
    looks="More than one wire under a clamp.",
    why="One of them is loose from the start.",
    topic="clamps",
    needs=("electrodes.clamp_wires", "electrodes.kind"),
)
def clamp_two_wires(s: Evidence):
    for electrode in s.filled.electrodes:
        if electrode.clamp_wires is not None and electrode.clamp_wires > 1:
            yield s.found(
                electrode,
                f"{electrode.clamp_wires} wires under one clamp.",
                "A clamp for each.",
                fix=(Set(path=f"{electrode.id}.clamp_wires", value=1),),
                parts=("clamp",),
            )


@check(
    "gec-lands-downstream",
    "fix",
    looks="A service electrode's conductor lands at a sub-panel in the same building.",
    why="The surge's way to earth then leads through the feeder.",
    topic="gec_place",
    needs=("electrodes.kind",),
)
def gec_lands_downstream(s: Evidence):
    for electrode in s.filled.electrodes:
        panel = electrode.panel
        if electrode.kind is None or not s.is_downstream(panel):
            continue
        if not s.other_building(s.feeder_to[panel]):
            yield s.found(
                electrode,
                f"Lands at {s.panels[panel].name or 'a sub-panel'}, past the service disconnect.",
                "Take it to the service disconnect or ahead of it. If that panel stands in another"
                " building, enter the building.",
            )


@check(
    "electrode-on-isolated-neutral",
    "fix",
    looks="An electrode conductor lands on a neutral bar that is not bonded at that panel.",
    why="The neutral's current then runs to earth beside its feeder, and the ground bar has no"
    " electrode.",
    topic="isolated_neutral_electrode",
    needs=("electrodes.kind", "electrodes.lands", "feeders.egc", "panels.bond"),
)
def electrode_on_isolated_neutral(s: Evidence) -> Iterator[Yielded]:
    for electrode in s.filled.electrodes:
        panel = s.panels[electrode.panel]
        feeder = s.feeder_to.get(panel.id)
        if electrode.lands != "neutral bar" or not s.known(f"{electrode.id}.lands"):
            continue
        if feeder is None or not s.is_downstream(panel.id) or panel.bond == "in":
            continue
        if feeder.egc in ("wire", "raceway", "both"):
            yield s.found(
                electrode,
                f"Lands on the neutral bar of {panel.name or 'a sub-panel'}, which is not bonded"
                " there.",
                "Move it to the ground bar.",
                fix=(Set(path=f"{electrode.id}.lands", value="ground bar"),),
            )
