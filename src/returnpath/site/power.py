"""Supplies, service runs, panels and feeders."""

from typing import Literal

from ..device import largest_rating
from ..vocabulary import Size, System
from .base import (
    EGC,
    YES_NO,
    Around,
    Egc,
    Element,
    Metal_,
    Part,
    RcdType,
    Route,
    Segment,
    YesNo,
    east,
    fact,
    insulation,
    metal,
    north,
    rcd_ma,
    rcd_type,
    route,
    wiring_method,
    yes_no,
)


class Device(Part):
    """An over-current device: an inverse-time breaker unless it is a B, C or D type."""

    rating_a: float | None = fact("breaker", "amps", low=1, high=largest_rating())
    kind: Literal["inverse-time", "B", "C", "D", "gG", "switch", "none"] | None = fact(
        "type",
        "choice",
        choices={
            "inverse-time": "inverse-time",
            "B": "type B",
            "C": "type C",
            "D": "type D",
            "gG": "fuse gG",
            "switch": "a switch only",
            "none": "none here",
        },
        help="B, C and D are the types of IEC miniature breakers; a switch opens nothing itself."
        " None here: a tap, or lugs: the nearest device ahead of it counts.",
    )
    energy_class: Literal[1, 3] | None = fact(
        "energy class",
        "choice",
        choices={"1": "1", "3": "3"},
        help="Of a miniature breaker: in the small square under its breaking capacity.",
        rules="metric",
    )
    magnetic: Literal["trips", "none"] | None = fact(
        "magnetic trip",
        "choice",
        choices={"trips": "has one", "none": "none (old breaker)"},
        help="Old breakers may open by heat alone.",
    )
    lo: float | None = fact(
        "magnetic trip from",
        "number",
        unit="× rating",
        low=2,
        high=40,
        help="The lowest current at which the manufacturer says it may trip instantaneously.",
    )
    hi: float | None = fact(
        "magnetic trip to",
        "number",
        unit="× rating",
        low=2,
        high=40,
        help="The current at which the manufacturer says it trips instantaneously for certain.",
    )
    magnetic_nominal: float | None = fact(
        "nominal magnetic trip",
        "number",
        unit="× rating",
        low=2.5,
        high=40,
        help="Where the manufacturer gives one figure: taken 20 % either way.",
    )
    interrupting_ka: float | None = fact(
        "interrupting rating", "number", unit="kA", low=1, high=200, help="On its label: 10 or 22."
    )
    condition: Literal["good", "obsolete", "heat-damaged", "not listed here"] | None = fact(
        "its condition",
        "choice",
        choices={
            "good": "good",
            "obsolete": "obsolete, known not to trip",
            "heat-damaged": "heat-damaged",
            "not listed here": "not listed for this panel",
        },
    )
    marked_v: Literal["120/240", "240"] | None = fact(
        "marked",
        "choice",
        choices={"120/240": "120/240 V", "240": "240 V"},
        help="On a high leg only one marked 240 V: 208 V to ground is over 120.",
        rules="us",
    )
    series_ka: float | None = fact(
        "series rating", "number", unit="kA", low=1, high=200, help="With the device ahead of it."
    )


class Supply(Element):
    """A source: the utility's transformer, a generator, or an inverter that can run alone."""

    name: str | None = fact("supply", "text")
    kind: Literal["utility", "generator", "inverter", "transformer"] | None = fact(
        "kind",
        "choice",
        choices={
            "utility": "utility",
            "generator": "generator",
            "inverter": "inverter or battery",
            "transformer": "transformer of the place's own",
        },
    )
    fed_by: str | None = fact(
        "fed by circuit",
        "ref",
        to="circuits",
        help="Of a transformer: the circuit its primary is on.",
        rules="us",
    )
    system: System | None = fact("system", "choice", choices={s.value: s.label for s in System})
    earthing: Literal["TN-S", "TN-C-S", "TT", "IT"] | None = fact(
        "earthing system",
        "choice",
        choices={"TN-S": "TN-S", "TN-C-S": "TN-C-S", "TT": "TT", "IT": "IT"},
        help="For 230 and 400/230 V: how the protective earth comes home.",
        rules="metric",
    )
    ze_ohm: float | None = fact(
        "external loop impedance Ze",
        "number",
        unit="Ω",
        low=0.01,
        high=500,
        help="Measured at the origin with its earth lifted, or told by the distributor: it stands"
        " for the network and its supply cable together.",
        rules="metric",
    )
    high_leg: Literal["B", "C metering", "C older", "C", "A"] | None = fact(
        "high leg",
        "choice",
        choices={
            "B": "on B, the middle bar",
            "C metering": "on C, by the utility's metering, marked",
            "C older": "on C, older work, marked",
            "C": "on C",
            "A": "on A",
        },
        help="Of a four-wire delta: the line of 208 V to neutral. Measured, never assumed dead or"
        " 120 V.",
        rules="us",
    )
    high_leg_marked: YesNo | None = yes_no(
        "high leg orange at every termination", "Or marked by other effective means.", rules="us"
    )
    kva: float | None = fact("transformer", "number", unit="kVA", low=0.5, high=500)
    percent_z: float | None = fact(
        "impedance", "number", unit="%", low=0.2, high=60, help="%Z on the plate."
    )
    x_over_r: float | None = fact("X/R", "number", low=0, high=50)
    fault_a: float | None = fact(
        "available fault current",
        "amps",
        low=50,
        high=200_000,
        help="At the transformer's terminals. Utilities give a maximum: it serves the highest"
        " current only.",
    )
    fault_kind: Literal["line to line", "line to neutral"] | None = fact(
        "given as",
        "choice",
        choices={"line to line": "line to line", "line to neutral": "line to neutral"},
    )
    primary_mva: float | None = fact(
        "primary short-circuit level",
        "number",
        unit="MVA",
        low=0.05,
        high=1e6,
        help="Single-phase, where the utility gives one.",
    )
    r1_ohm: float | None = fact(
        "R1",
        "number",
        unit="Ω",
        low=0,
        high=100,
        help="Where it is known in ohms: R1 and X1 go before kVA and %Z. Of a centre-tapped source"
        " what a fault from line to neutral meets at its terminals.",
    )
    x1_ohm: float | None = fact("X1", "number", unit="Ω", low=0, high=100)
    r0_ohm: float | None = fact(
        "R0",
        "number",
        unit="Ω",
        low=0,
        high=100,
        help="Of a centre-tapped source the part common to both halves; R1 is then a half's own.",
    )
    x0_ohm: float | None = fact("X0", "number", unit="Ω", low=0, high=100)
    breaker: Device = Device()
    limit: float | None = fact(
        "current limit",
        "number",
        unit="× rating",
        low=0.5,
        high=20,
        help="An inverter's: the most it gives into a fault, over its rated current.",
    )
    bond: Literal["in", "out"] | None = fact(
        "its own neutral bond",
        "choice",
        choices={"in": "in", "out": "out"},
        help="A generator's or inverter's neutral joined to its frame.",
    )
    interlock: Literal["transfer switch", "interlock", "none"] | None = fact(
        "kept apart from the utility by",
        "choice",
        choices={
            "transfer switch": "a transfer switch",
            "interlock": "an interlock",
            "none": "nothing",
        },
        help="What stops it from feeding the street.",
    )
    neutral_switched: YesNo | None = yes_no(
        "neutral switched", "Whether the transfer switch also opens the neutral."
    )
    insulation_monitor: YesNo | None = fact(
        "insulation monitoring",
        "choice",
        choices=YES_NO,
        help="Of an IT system: a device that tells of the first fault.",
        rules="metric",
    )
    earth_ohm: float | None = fact("utility neutral to earth", "number", unit="Ω", low=0, high=1000)

    @property
    def high_line(self) -> int:
        """The line (1, 2, 3) that is 208 V to neutral; 0 where there is none."""
        high = (self.system or System.SPLIT).high_leg
        return "ABC".index(self.high_leg[0]) + 1 if high and self.high_leg else high


class Service(Element):
    """The run from a supply to the first enclosure or panel."""

    supply: str = "u1"
    to: str = "p1"
    run: Literal["overhead", "underground"] | None = fact(
        "service run",
        "choice",
        choices={"overhead": "overhead drop", "underground": "underground lateral"},
    )
    length_ft: float | None = fact("length", "length", low=0, high=5000)
    line_size: Size | None = fact("line conductors", "size")
    line_material: Metal_ | None = metal()
    neutral_size: Size | None = fact("neutral", "size")
    sets: int | None = fact("parallel sets", "number", low=1, high=6, whole=True)
    year: int | None = fact("run in", "number", low=1880, high=2100, whole=True)
    owner: Literal["utility", "premises"] | None = fact(
        "these conductors are",
        "choice",
        choices={"utility": "the utility's own", "premises": "the premises'"},
        help="The utility sizes its own drop or lateral by its own rules.",
        rules="us",
    )
    insulation: str | None = insulation()
    raceway_bonded: YesNo | None = yes_no(
        "service raceway bonded",
        "Metal service raceway: bonding bushing, hub or jumper past the knockouts.",
        rules="us",
    )
    egc_size: Size | None = fact(
        "supply-side bonding jumper",
        "size",
        help="A bonding conductor beside the neutral, or the protective earth of a TN-S supply.",
    )
    spacing_in: float | None = fact(
        "open-wire spacing",
        "number",
        unit="in",
        low=0.5,
        high=120,
        help="Only where the wires run apart.",
    )


class Panel(Element):
    """An enclosure with line bars, a neutral bar and a ground bar: service, sub-panel,
    disconnect or meter."""

    name: str | None = fact("panel", "text")
    building: str | None = fact("building", "ref", to="buildings")
    kind: Literal["service", "sub", "meter", "disconnect", "emergency disconnect"] | None = fact(
        "kind",
        "choice",
        choices={
            "service": "service panel",
            "sub": "sub-panel",
            "meter": "meter enclosure",
            "disconnect": "disconnect",
            "emergency disconnect": "emergency disconnect",
        },
    )
    main: Device = Device()
    marked: Literal["service disconnect", "meter disconnect", "emergency disconnect"] | None = fact(
        "marked as",
        "choice",
        choices={
            "service disconnect": "emergency disconnect, service disconnect",
            "meter disconnect": "meter disconnect, not service equipment",
            "emergency disconnect": "emergency disconnect, not service equipment",
        },
        help="Of a disconnect ahead of the panel: its label decides where the main bond belongs.",
        rules="us",
    )
    bond: Literal["in", "out"] | None = fact(
        "neutral bond",
        "choice",
        choices={"in": "in", "out": "out"},
        help="Screw, strap or wire between the neutral bar and the ground bar or enclosure.",
    )
    bond_kind: Literal["screw", "strap", "wire"] | None = fact(
        "kind of bond",
        "choice",
        choices={"screw": "screw", "strap": "strap", "wire": "wire"},
    )
    bond_size: Size | None = fact("bonding jumper", "size", help="Where the bond is a wire.")
    bond_ohm: float | None = fact(
        "resistance of the bond",
        "number",
        unit="Ω",
        low=0,
        high=1000,
        help="Only for a loose or painted joint.",
    )
    ground_bar: Literal["on case", "isolated", "none"] | None = fact(
        "ground bar",
        "choice",
        choices={"on case": "on the enclosure", "isolated": "not on the enclosure", "none": "none"},
        help="Whether the bar for the EGCs is screwed to the enclosure.",
    )
    grounds_on_neutral: YesNo | None = yes_no(
        "EGCs on the neutral bar", "At a panel whose neutral bar is isolated."
    )
    terminals_c: Literal[60, 75] | None = fact(
        "terminals",
        "choice",
        choices={"60": "60 °C", "75": "75 °C"},
        help="On the breaker.",
        rules="us",
    )
    spaces: int | None = fact("spaces", "number", low=1, high=84, whole=True)
    place: Literal["clear", "closet", "bathroom", "blocked"] | None = fact(
        "where it hangs",
        "choice",
        choices={
            "clear": "clear",
            "closet": "clothes closet",
            "bathroom": "bathroom",
            "blocked": "blocked",
        },
    )
    directory: Literal["clear", "vague", "missing"] | None = fact(
        "directory",
        "choice",
        choices={
            "clear": "every circuit, clearly",
            "vague": "vague or out of date",
            "missing": "missing",
        },
    )
    tandem_allowed: YesNo | None = yes_no(
        "made for tandem breakers", "Its label shows which spaces take them.", rules="us"
    )
    grouped: YesNo | None = yes_no(
        "disconnects grouped", "Several service or building disconnects in one place, each marked."
    )
    breaker_line: str | None = fact(
        "breakers are", "text", help="A line from the firm's list: its curve then stands for all."
    )
    numbering: Literal["across", "down", "column"] | None = fact(
        "spaces are numbered",
        "choice",
        choices={
            "across": "odd left, even right",
            "down": "down the left, then the right",
            "column": "in one column",
        },
        help="It decides which leg a space is on. Usual: odd left, even right.",
    )
    bus_a: float | None = fact("bars rated", "amps", low=30, high=1200)
    unit: str | None = fact(
        "dwelling unit",
        "text",
        help="Of a building with several: whose whole load comes through this panel.",
        rules="us",
    )
    surge_protector: YesNo | None = yes_no("surge protector")
    insulated: YesNo | None = fact(
        "enclosure of insulating material",
        "choice",
        choices=YES_NO,
        help="Class II: there is no metal of it to touch.",
        rules="metric",
    )
    rcd_ma: float | None = rcd_ma("RCD at its main")
    rcd_delayed: YesNo | None = yes_no("RCD delayed")
    rcd_type: RcdType | None = rcd_type()
    east_ft: float | None = east()
    north_ft: float | None = north()
    most_under_screw: int | None = fact(
        "most wires under one screw", "number", low=0, high=9, whole=True
    )
    screw_allows: int | None = fact(
        "wires a screw is marked for", "number", low=1, high=9, whole=True
    )
    torque_recorded: YesNo | None = yes_no("torque recorded")
    intersystem: YesNo | None = yes_no(
        "intersystem termination", "Where telephone, cable and dish are bonded.", rules="us"
    )


class Feeder(Element):
    """The run from one panel to another, with the device at its start."""

    name: str | None = fact("feeder", "text")
    source: str = "p1"
    to: str = "p2"
    breaker: Device = Device()
    space: int | None = fact("space", "number", low=1, high=84, whole=True)
    poles: Literal[1, 2, 3] | None = fact(
        "poles", "choice", choices={"1": "one", "2": "two", "3": "three"}
    )
    method: str | None = wiring_method()
    length_ft: float | None = fact("one-way length", "length", low=0, high=5000)
    segments: tuple[Segment, ...] | None = fact(
        "segments",
        "segments",
        help="Where the method changes: 12/2 NM 40ft; #12 EMT 1/2 25ft. From the panel out.",
    )
    line_size: Size | None = fact("line wire", "size")
    line_material: Metal_ | None = metal()
    sets: int | None = fact("parallel sets", "number", low=1, high=6, whole=True)
    insulation: str | None = insulation()
    neutral: YesNo | None = yes_no("neutral")
    neutral_size: Size | None = fact("neutral size", "size")
    egc: Egc | None = fact(
        "ground-fault path",
        "choice",
        choices=EGC,
        help="What connects the far panel's ground bar to this one's.",
    )
    egc_size: Size | None = fact("EGC", "size")
    egc_material: Metal_ | None = metal()
    raceway_size: str | None = fact("trade size", "raceway", unit="in")
    return_ohm: float | None = fact(
        "measured return", "number", unit="Ω", low=0, high=1000, help="Replaces what is computed."
    )
    year: int | None = fact("run in", "number", low=1880, high=2100, whole=True)
    retaped: YesNo | None = yes_no("white or green re-identified by tape")
    cover_in: float | None = fact(
        "buried under", "number", unit="in", low=0, high=240, help="Cover over the run, least."
    )
    rcd_ma: float | None = rcd_ma()
    rcd_delayed: YesNo | None = yes_no("RCD delayed")
    rcd_type: RcdType | None = rcd_type()
    metal_paths: YesNo | None = yes_no(
        "metal path between the buildings", "Pipe, cable shield or fence bonded at both ends."
    )
    route: Route | None = route()
    around: Around = Around()
    ground_fault_protected: YesNo | None = yes_no("ground-fault protection upstream")
