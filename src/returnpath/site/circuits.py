"""Branch circuits and photovoltaic arrays."""

from typing import Literal

from ..vocabulary import Size
from .base import (
    EGC,
    YES_NO,
    Around,
    Egc,
    Element,
    Metal_,
    RcdType,
    Route,
    Segment,
    YesNo,
    fact,
    insulation,
    metal,
    rcd_ma,
    rcd_type,
    route,
    wiring_method,
    yes_no,
)
from .power import Device

RetrofitGround = Literal[
    "electrode system",
    "electrode conductor",
    "panel ground bar",
    "other circuit EGC",
    "service neutral",
    "water pipe",
    "rod",
    "neutral",
]
RETROFIT_GROUND = {
    "electrode system": "the electrode system, where it is accessible",
    "electrode conductor": "the grounding electrode conductor",
    "panel ground bar": "the ground bar its circuit comes from",
    "other circuit EGC": "another circuit's EGC from the same panel",
    "service neutral": "the grounded conductor at the service",
    "water pipe": "a water pipe past the first 5 ft",
    "rod": "a ground rod of its own",
    "neutral": "the circuit's neutral",
}


class Circuit(Element):
    """One branch circuit from its panel to the metal it feeds."""

    panel: str = "p1"
    name: str | None = fact("circuit", "text")
    breaker: Device = Device()
    poles: Literal[1, 2, 3] | None = fact(
        "poles", "choice", choices={"1": "one", "2": "two", "3": "three"}
    )
    neutral: YesNo | None = yes_no("neutral")
    method: str | None = wiring_method()
    length_ft: float | None = fact(
        "one-way length", "length", low=0, high=5000, help="Along the cable, panel to receptacle."
    )
    segments: tuple[Segment, ...] | None = fact(
        "segments",
        "segments",
        help="Where the method changes: 12/2 NM 40ft; #12 EMT 1/2 25ft. From the panel out.",
    )
    line_size: Size | None = fact("line wire", "size")
    line_material: Metal_ | None = metal()
    insulation: str | None = insulation()
    solid: YesNo | None = yes_no("solid wire", "Usual: solid to 8 AWG in cable, else stranded.")
    egc: Egc | None = fact(
        "ground-fault path",
        "choice",
        choices=EGC,
        help="What connects the metal enclosure to the panel's ground bar.",
    )
    egc_size: Size | None = fact("EGC", "size")
    egc_material: Metal_ | None = metal()
    raceway_size: str | None = fact("trade size", "raceway", unit="in")
    return_ohm: float | None = fact(
        "measured return",
        "number",
        unit="Ω",
        low=0,
        high=1000,
        help="The return’s own ohms, receptacle to panel: replaces what its kind and length give.",
    )
    gfci: YesNo | None = yes_no("ground-fault protection", "A GFCI breaker or receptacle.")
    afci: YesNo | None = yes_no("arc-fault protection")
    rcd_ma: float | None = rcd_ma()
    rcd_delayed: YesNo | None = yes_no("RCD delayed")
    rcd_type: RcdType | None = rcd_type()
    dc_detection: YesNo | None = fact(
        "6 mA d.c. detection in the charger",
        "choice",
        choices=YES_NO,
        help="A type A device ahead is blinded by smooth d.c. without it.",
        rules="metric",
    )
    open_pen: Literal["device", "own electrode", "nothing"] | None = fact(
        "if the PEN is lost",
        "choice",
        choices={
            "device": "its own device opens all poles and the earth",
            "own electrode": "it has its own electrode and is not on the PEN",
            "nothing": "nothing opens it",
        },
        help="Of a vehicle charger outdoors on TN-C-S.",
        rules="metric",
    )
    ring: YesNo | None = fact(
        "ring final circuit",
        "choice",
        choices=YES_NO,
        help="Both ends of every conductor come to the board; the length is that of the ring.",
        rules="metric",
    )
    ring_open: Literal["none", "line", "neutral", "protective conductor"] | None = fact(
        "ring broken",
        "choice",
        choices={
            "none": "no",
            "line": "line",
            "neutral": "neutral",
            "protective conductor": "protective conductor",
        },
        help="A conductor whose r1, rn or r2 reads open end to end.",
        rules="metric",
    )
    spur_ft: float | None = fact("longest spur", "length", low=0, high=500, rules="metric")
    space: int | None = fact("space", "number", low=1, high=84, whole=True)
    stays: YesNo | None = yes_no(
        "stays in its space", "An interlock or a hold-down holds it there, or the office wants it."
    )
    traced: Literal["found", "nothing"] | None = fact(
        "what it feeds",
        "choice",
        choices={"found": "found by switching", "nothing": "nothing went dead"},
        help="Found by switching its breaker off and looking what went dead.",
    )
    shares_with: str | None = fact(
        "shares its neutral with", "ref", to="circuits", help="The other half of a cable’s pair."
    )
    common_opening: YesNo | None = yes_no(
        "opened together", "A two-pole breaker or a handle tie on the shared-neutral pair."
    )
    building: str | None = fact("goes to building", "ref", to="buildings")
    route: Route | None = route()
    around: Around = Around()
    box_in3: float | None = fact(
        "smallest box", "number", unit="in³", low=3, high=500, help="Its volume: marked, or by the"
        " table of standard boxes.", rules="us",
    )  # fmt: skip
    box_holds: str | None = fact(
        "it holds",
        "text",
        help="4 #12, 2 #12 ground, 1 device, clamps.",
        rules="us",
    )
    load_terminals_c: Literal[60, 75] | None = fact(
        "terminals of what it feeds",
        "choice",
        choices={"60": "60 °C", "75": "75 °C"},
        help="Marked on the equipment; 60 where nothing is marked, to 100 A.",
        rules="us",
    )
    motor_hp: float | None = fact(
        "motor", "number", unit="hp", low=0.05, high=200, help="On its plate: decides wire and"
        " breaker by the table, not its amperes.", rules="us",
    )  # fmt: skip
    places: str | None = fact(
        "serves",
        "places",
        help="Rooms and equipment: kitchen, bath, garage, EV… Read from its name until given.",
    )
    feeds: Literal["socket-outlets", "fixed equipment"] | None = fact(
        "what it feeds",
        "choice",
        choices={"socket-outlets": "socket-outlets", "fixed equipment": "fixed equipment"},
        help="For 230 and 400/230 V: it decides how soon a fault must be disconnected.",
        rules="metric",
    )
    shares_egc_with: str | None = fact(
        "shares its EGC with", "ref", to="circuits", help="Several circuits in one raceway."
    )
    relied_on: (
        Literal[
            "FMC",
            "LFMC 3/8-1/2",
            "LFMC 3/4-1-1/4",
            "AC cable armour",
            "armoured cable of old without a strip",
            "MC interlocked armour",
            "PVC ENT LFNC",
            "the earth",
            "the building frame",
        ]
        | None
    ) = fact(
        "relied on as the return",
        "choice",
        choices={
            "FMC": "flexible metal conduit",
            "LFMC 3/8-1/2": "liquid-tight flexible, to 1/2 in",
            "LFMC 3/4-1-1/4": "liquid-tight flexible, 3/4 to 1-1/4 in",
            "AC cable armour": "AC armor with its strip",
            "armoured cable of old without a strip": "old armor without a strip",
            "MC interlocked armour": "MC armor",
            "PVC ENT LFNC": "plastic conduit alone",
            "the earth": "the earth",
            "the building frame": "the building frame",
        },
        help="Where no wire and no steel raceway brings the fault home.",
        rules="us",
    )
    flex_ft: float | None = fact(
        "flexible metal in the path", "length", low=0, high=500, rules="us"
    )
    strap: Literal["in", "out"] | None = fact(
        "neutral-to-frame strap",
        "choice",
        choices={"in": "in", "out": "out"},
        help="Of a range or dryer: the strap between its neutral terminal and its frame.",
        rules="us",
    )
    neutral_bare: YesNo | None = yes_no(
        "neutral is bare",
        "A cable of two insulated wires and a bare one used as the neutral.",
        rules="us",
    )
    yoke: YesNo | None = yes_no(
        "pair on one yoke, or a 240 V load on it",
        "Both circuits of the pair on one device, or a line-to-line load between them.",
        rules="us",
    )
    reversed: YesNo | None = yes_no(
        "hot and neutral reversed", "At a receptacle: a plug-in tester shows it."
    )
    replaced_year: int | None = fact(
        "receptacles or equipment replaced in", "number", low=1880, high=2100, whole=True
    )
    extended_year: int | None = fact(
        "extended in", "number", low=1880, high=2100, whole=True, help="New cable on old wiring."
    )
    retrofit_ground: RetrofitGround | None = fact(
        "added ground lands on",
        "choice",
        choices=RETROFIT_GROUND,
        help="An equipment ground run later, apart from the circuit (250.130(C)).",
    )
    box_bonding: Literal["pigtail", "self-grounding", "screws only", "none"] | None = fact(
        "metal boxes bonded by",
        "choice",
        choices={
            "pigtail": "pigtail to the box",
            "self-grounding": "self-grounding receptacles",
            "screws only": "yoke screws only",
            "none": "not bonded",
        },
        rules="us",
    )
    continuous: YesNo | None = yes_no(
        "continuous load", "On for three hours or more: EV charging, heating, lighting.", rules="us"
    )
    managed: YesNo | None = yes_no(
        "load management", "Listed equipment limits its load.", rules="us"
    )
    tandem: YesNo | None = yes_no(
        "tandem breaker",
        "Two breakers in one space.",
        rules="us",
    )
    device_terminals: Literal["copper only", "both"] | None = fact(
        "receptacle terminals",
        "choice",
        choices={"copper only": "copper only", "both": "marked for aluminum"},
        rules="us",
    )
    splice: Literal["listed", "twisted", "none"] | None = fact(
        "copper to aluminum splice",
        "choice",
        choices={"listed": "listed connector", "twisted": "twisted together", "none": "none"},
        rules="us",
    )
    retaped: YesNo | None = yes_no(
        "white or green re-identified by tape",
        rules="us",
    )
    outlet_bond: YesNo | None = yes_no("neutral connected to ground at the receptacle")
    load_va: float | None = fact("load", "number", unit="VA", low=0, high=100_000)
    power_factor: float | None = fact("power factor", "number", low=0.05, high=1)
    load_kind: (
        Literal["general", "range", "dryer", "motor", "cooling", "electronic", "water heater"]
        | None
    ) = fact(
        "kind of load",
        "choice",
        choices={
            "general": "general",
            "range": "range, oven or cooktop",
            "dryer": "dryer",
            "motor": "motor",
            "cooling": "cooling unit",
            "electronic": "electronic",
            "water heater": "water heater",
        },
    )
    nameplate_mca_a: float | None = fact(
        "MCA (nameplate)", "amps", low=1, high=600, help="“Minimum circuit ampacity”.", rules="us"
    )
    nameplate_max_a: float | None = fact(
        "MOCP (nameplate)",
        "amps",
        low=1,
        high=600,
        help="“Maximum over-current device”.",
        rules="us",
    )
    wet: YesNo | None = yes_no("wet place")
    reach: tuple[str, ...] = ()  # metals within reach of its case
    joined_to: tuple[str, ...] = ()  # metals its case is joined to
    outlets: Literal["three-slot", "two-slot", "labelled"] | None = fact(
        "outlets",
        "choice",
        choices={
            "three-slot": "three slots",
            "two-slot": "two slots",
            "labelled": "three slots, GFCI, labelled",
        },
        rules="us",
    )
    year: int | None = fact("run in", "number", low=1880, high=2100, whole=True)
    white_hot: Literal["marked", "unmarked", "no"] | None = fact(
        "white wire used hot",
        "choice",
        choices={"marked": "marked", "unmarked": "not marked", "no": "no"},
        rules="us",
    )

    @property
    def neutral_on_frame(self) -> bool:
        """Whether its neutral meets the frame or the ground at the far end: by a bootleg, or by
        the strap of a range or dryer."""
        return self.outlet_bond == "yes" or self.strap == "in"


class Array(Element):
    """A photovoltaic array, from its frames to the inverter's connection."""

    name: str | None = fact("array", "text")
    circuit: str | None = fact("fed in at", "ref", to="circuits", help="The inverter's circuit.")
    inverter: Literal["string", "micro", "isolated string"] | None = fact(
        "inverter",
        "choice",
        choices={
            "string": "string, no transformer",
            "isolated string": "string, with transformer",
            "micro": "micro",
        },
    )
    built_under: int | None = fact("built under", "number", low=1999, high=2050, whole=True)
    strings: int | None = fact("strings", "number", low=1, high=50, whole=True)
    modules: int | None = fact("modules a string", "number", low=1, high=40, whole=True)
    rows: int | None = fact("rows on the roof", "number", low=1, high=20, whole=True)
    columns: int | None = fact("modules a row", "number", low=1, high=30, whole=True)
    grounding: Literal["solid", "functional", "floating", "micro"] | None = fact(
        "d.c. side",
        "choice",
        choices={
            "solid": "solidly grounded",
            "functional": "functionally grounded",
            "floating": "not grounded",
            "micro": "micro-inverters",
        },
    )
    isc_a: float | None = fact("short-circuit current a string", "amps", low=0.1, high=100)
    voc_v: float | None = fact(
        "open-circuit voltage a string", "number", unit="V", low=5, high=1500
    )
    vmp_v: float | None = fact("operating voltage a string", "number", unit="V", low=5, high=1500)
    imp_a: float | None = fact("operating current a string", "amps", low=0.1, high=100)
    ac_a: float | None = fact("inverter's output", "amps", low=0.5, high=400)
    length_ft: float | None = fact("one-way length", "length", low=0, high=2000)
    line_size: Size | None = fact("d.c. wire", "size")
    egc_size: Size | None = fact("array EGC", "size")
    egc_material: Metal_ | None = metal()
    egc_exposed: YesNo | None = yes_no("EGC exposed")
    egc_with_circuit: YesNo | None = yes_no("EGC with the circuit")
    device_a: float | None = fact("d.c. device", "amps", low=1, high=400)
    frames: Literal["bonded", "some", "none"] | None = fact(
        "frames bonded",
        "choice",
        choices={"bonded": "every one", "some": "some", "none": "none"},
    )
    rails: Literal["bonded", "not bonded", "none"] | None = fact(
        "rails",
        "choice",
        choices={"bonded": "bonded", "not bonded": "not bonded", "none": "none"},
    )
    boxes: Literal["bonded", "not bonded", "plastic"] | None = fact(
        "boxes",
        "choice",
        choices={"bonded": "bonded", "not bonded": "not bonded", "plastic": "plastic"},
    )
    bonding: Literal["lugs", "washers", "clamps"] | None = fact(
        "bonding by",
        "choice",
        choices={"lugs": "wire and lugs", "washers": "toothed washers", "clamps": "listed clamps"},
    )
    rails_listed: YesNo | None = yes_no(
        "rails listed as a bonding path", "A rail counts only if its listing says so."
    )
    rapid_shutdown: YesNo | None = yes_no("rapid shutdown")
    labels: YesNo | None = yes_no("labels on the whole run")
    turns: int | None = fact("turns of the run", "number", low=0, high=60, whole=True)
    penetrations: int | None = fact(
        "walls and roofs it goes through", "number", low=0, high=40, whole=True
    )
    earth_splice: Literal["none", "irreversible", "other"] | None = fact(
        "splice of its combined earth conductor",
        "choice",
        choices={"none": "none", "irreversible": "irreversible", "other": "other or solder"},
        help="One conductor as EGC and to the electrode: arrays of 2011 to 2014.",
    )
    remark: str | None = fact("inspector's remark", "text", help="What the office asked for here.")
    opposite_end: YesNo | None = yes_no("its breaker at the far end of the bars")
    tap: Literal["load side", "line side"] | None = fact(
        "connected on",
        "choice",
        choices={"load side": "load side, by a breaker", "line side": "line side of the main"},
    )
    detector: YesNo | None = yes_no("ground-fault detector")
    electrode: str | None = fact("electrode at the array", "ref", to="electrodes")
    dc_disconnect: YesNo | None = yes_no("d.c. disconnect")
    ac_disconnect: YesNo | None = yes_no("a.c. disconnect")
