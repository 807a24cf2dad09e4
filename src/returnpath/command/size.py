"""``size``: every size the rules ask for, with its working."""

import argparse
import re
from collections.abc import Callable
from typing import Any

from .. import sizing, tables
from ..device import Breaker
from ..errors import BadInput
from ..fuse import Fuse
from ..working import Working
from . import answers

ELECTRODES = ("rod", "concrete", "ring", "water", "plate")
SERVICE = "service conductor: 4/0, 2x4/0"


def material(text: str) -> str:
    """copper or aluminum from cu, al or the whole word."""
    try:
        return tables.METAL_WORDS[text.lower()]
    except KeyError:
        raise BadInput(f"“{text}” is not a metal here; cu and al are.") from None


def sets_and_size(text: str) -> tuple[int, str]:
    """``"2x4/0"`` → (2, "4/0"); a single conductor is one set."""
    if match := re.fullmatch(r"(\d{1,2})\s*[xX×]\s*(\S+)", text):
        return int(match[1]), match[2].removeprefix("#")
    return 1, text.removeprefix("#")


def add_to(calls: Any) -> None:
    """The call and its kinds."""
    call = calls.add_parser("size", help="a size the rules ask for")
    kinds = call.add_subparsers(dest="what", required=True, parser_class=type(call))

    def kind(name: str, words: str, answer: Callable[..., Any], *options: Any) -> None:
        one = kinds.add_parser(name, help=words)
        for names, more in options:
            one.add_argument(*names, **more)
        one.add_argument("--edition", type=int, default=2023)
        one.add_argument("--json", action="store_true")
        one.set_defaults(run=lambda chosen: answers.show(answer(chosen), chosen.json))

    device = (("--device",), {"type": float, "required": True, "help": "device ahead, A"})
    metal = (("--material",), {"default": "cu", "help": "cu or al"})
    service = (("--service",), {"required": True, "help": SERVICE})
    line_metal = (("--line-material",), {"default": "cu", "help": "of the lines: cu or al"})
    kind("egc", "equipment grounding conductor", _egc, device, metal, line_metal,
         (("--line",), {"help": "installed line conductor: 4, 4/0, 2x4/0"}),
         (("--line-needed",), {"help": "the least that would serve"}))  # fmt: skip
    kind("gec", "grounding electrode conductor", _gec, service, metal,
         (("--electrode",), {"choices": ELECTRODES, "help": "the only kind it goes to"}),
         (("--ring",), {"help": "the ring's own conductor: its GEC need not be larger"}),
         (("--gec-material",), {"default": "cu"}))  # fmt: skip
    kind("building-gec", "an outbuilding's GEC, by its feeder", _building, metal,
         (("--feeder",), {"required": True, "help": "feeder line: 2, 2x1/0"}),
         (("--electrode",), {"choices": ELECTRODES}))  # fmt: skip
    jumper_metal = (("--jumper-material",), {"default": "cu"})
    kind("jumper", "main bonding jumper", _jumper, service, metal, jumper_metal)
    kind("supply-jumper", "supply-side bonding jumper", _jumper, service, metal, jumper_metal)
    kind("neutral", "least service neutral", _neutral, service, metal)
    kind("water", "bond of a metal water pipe", _water, service, metal,
         (("--bond-material",), {"default": "cu"}))  # fmt: skip
    kind("gas", "bond of gas pipe", _gas, metal,
         (("--device",), {"type": float, "help": "of the circuit that may make it live, A"}),
         (("--csst",), {"action": "store_true", "help": "corrugated tubing"}))  # fmt: skip
    kind("pool", "pool or spa bonding grid", lambda c: sizing.pool_grid(c.edition))
    kind("tap", "a tap's EGC", _tap, device, metal,
         (("--line",), {"required": True, "help": "the tap's line"}))  # fmt: skip
    kind("motor", "EGC behind an instantaneous-trip device", _motor,
         (("--full-load",), {"type": float, "required": True, "help": "motor current, A"}),
         (("--line",), {"required": True, "help": "the circuit's line"}))  # fmt: skip
    kind("array", "an array's EGC", _array,
         (("--isc",), {"type": float, "required": True, "help": "short-circuit current, A"}),
         (("--strings",), {"type": int, "default": 1}),
         (("--device",), {"type": float, "help": "d.c. device, A"}),
         (("--exposed",), {"action": "store_true"}))  # fmt: skip
    _metric(kind)


def _metric(kind: Callable[..., Any]) -> None:
    """The sizes of the metric rule set."""
    line = (("--line",), {"required": True, "help": "line conductor: 2.5mm2"})
    kind("protective", "metric: protective conductor by the table, or by heat", _protective,
         (("--line",), {"help": "line conductor: 2.5mm2"}),
         (("--amps",), {"type": float, "help": "fault current, A"}),
         (("--seconds",), {"type": float, "default": 0.1}),
         (("--k",), {"type": float, "default": 115.0}),
         (("--separate",), {"action": "store_true", "help": "apart from its lines"}))  # fmt: skip
    kind("earthing", "metric: earthing conductor", _earthing, line,
         (("--buried",), {"choices": ("no", "covered", "bare"), "default": "no"}))  # fmt: skip
    kind("bonding", "metric: main bonding conductor", _bonding, line,
         (("--system",), {"choices": ("TN-S", "TN-C-S", "TT", "IT"), "required": True}),
         (("--neutral",), {"help": "the supply's neutral, TN-C-S"}))  # fmt: skip
    kind("supplementary", "metric: most ohms of supplementary bonding",
         lambda c: sizing.supplementary_ohm(c.amps, c.volts),
         (("--amps",), {"type": float, "required": True, "help": "Ia of the device, A"}),
         (("--volts",), {"type": float, "default": 50.0}))  # fmt: skip
    kind("line", "metric: smallest line for a device", _metric_line,
         (("--device",), {"type": float, "required": True, "help": "device ahead, A"}),
         (("--method",), {"default": "C", "choices": ("A1", "B1", "B2", "C", "D1")}),
         (("--loaded",), {"type": int, "default": 2, "choices": (2, 3)}),
         (("--xlpe",), {"action": "store_true"}))  # fmt: skip
    kind("zs", "metric: the loop impedance a device allows", _zs,
         (("--kind",), {"required": True, "choices": ("B", "C", "D", "gG", "RCD")}),
         (("--rating",), {"type": float, "required": True, "help": "A; of an RCD mA"}),
         (("--seconds",), {"type": float, "default": 0.4}))  # fmt: skip
    kind("electrode", "metric: most ohms of a TT electrode",
         lambda c: sizing.electrode_limit(c.rcd, c.volts),
         (("--rcd",), {"type": float, "required": True, "help": "IΔn, mA"}),
         (("--volts",), {"type": float, "default": 50.0}))  # fmt: skip


def _mm2(text: str) -> str:
    return text if text.endswith("mm2") else f"{text}mm2"


def _protective(chosen: argparse.Namespace) -> Working:
    if chosen.amps is not None:
        return sizing.protective_by_heat(
            chosen.amps, chosen.seconds, chosen.k, separate=chosen.separate
        )
    if chosen.line is None:
        raise BadInput("Give the line (--line 2.5mm2), or the fault (--amps, --seconds).")
    return sizing.protective_by_table(tables.known_size(_mm2(chosen.line)))


def _earthing(chosen: argparse.Namespace) -> Working:
    return sizing.earthing_conductor(tables.known_size(_mm2(chosen.line)), chosen.buried)


def _bonding(chosen: argparse.Namespace) -> Working:
    neutral = tables.known_size(_mm2(chosen.neutral)) if chosen.neutral else ""
    return sizing.main_bonding(chosen.system, tables.known_size(_mm2(chosen.line)), neutral)


def _metric_line(chosen: argparse.Namespace) -> Working:
    insulation = "thermoset" if chosen.xlpe else "thermoplastic"
    return sizing.smallest_metric_line(chosen.device, insulation, chosen.loaded, chosen.method)


def _zs(chosen: argparse.Namespace) -> Working:
    if chosen.kind == "RCD":
        return sizing.allowed_zs_rcd(chosen.rating)
    device = (
        Fuse(chosen.rating) if chosen.kind == "gG" else Breaker(chosen.rating, kind=chosen.kind)
    )
    return sizing.allowed_zs(device, chosen.seconds)


def _egc(chosen: argparse.Namespace) -> Working:
    sets, line = sets_and_size(chosen.line) if chosen.line else (1, None)
    needed_sets, needed = sets_and_size(chosen.line_needed) if chosen.line_needed else (sets, None)
    return sizing.smallest_egc(
        chosen.device,
        line=line,
        material=material(chosen.material),
        line_material=material(chosen.line_material),
        line_needed=needed,
        edition=chosen.edition,
        sets=sets,
        sets_needed=needed_sets,
    )


def _gec(chosen: argparse.Namespace) -> Working:
    sets, line = sets_and_size(chosen.service)
    ring = sets_and_size(chosen.ring)[1] if chosen.ring else None
    return sizing.smallest_gec(
        line,
        material(chosen.material),
        sets,
        electrode=chosen.electrode or ("ring" if ring else None),
        material=material(chosen.gec_material),
        edition=chosen.edition,
        ring=ring,
    )


def _building(chosen: argparse.Namespace) -> Working:
    sets, line = sets_and_size(chosen.feeder)
    metal = material(chosen.material)
    return sizing.building_gec(line, metal, sets, chosen.electrode, chosen.edition)


def _jumper(chosen: argparse.Namespace) -> Working:
    sets, line = sets_and_size(chosen.service)
    function = (
        sizing.supply_side_jumper if chosen.what == "supply-jumper" else sizing.main_bonding_jumper
    )
    metal, own = material(chosen.material), material(chosen.jumper_material)
    return function(line, metal, sets, material=own, edition=chosen.edition)


def _neutral(chosen: argparse.Namespace) -> Working:
    sets, line = sets_and_size(chosen.service)
    return sizing.smallest_neutral(line, material(chosen.material), sets, edition=chosen.edition)


def _water(chosen: argparse.Namespace) -> Working:
    sets, line = sets_and_size(chosen.service)
    metal, own = material(chosen.material), material(chosen.bond_material)
    return sizing.water_bond(line, metal, sets, own, chosen.edition)


def _gas(chosen: argparse.Namespace) -> Working:
    return sizing.gas_bond(chosen.device, chosen.csst, material(chosen.material), chosen.edition)


def _tap(chosen: argparse.Namespace) -> Working:
    line = sets_and_size(chosen.line)[1]
    return sizing.tap_egc(chosen.device, line, material(chosen.material), chosen.edition)


def _motor(chosen: argparse.Namespace) -> Working:
    return sizing.motor_egc(chosen.full_load, sets_and_size(chosen.line)[1], chosen.edition)


def _array(chosen: argparse.Namespace) -> Working:
    return sizing.smallest_array_egc(
        chosen.isc, chosen.strings, chosen.device, chosen.exposed, chosen.edition
    )
