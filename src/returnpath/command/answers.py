"""Single answers: sizes, a breaker's time, rods, a typed line."""

import json
import math
import re

from .. import earth, sizing
from ..device import Breaker
from ..errors import BadInput
from ..site import read_circuit
from ..study.verdict import verdict_of
from ..working import Working, figures

MATERIALS = {"cu": "copper", "al": "aluminium", "copper": "copper", "aluminium": "aluminium",
             "aluminum": "aluminium"}  # fmt: skip
ELECTRODES = ("rod", "concrete", "ring", "water", "plate")


def material(text: str) -> str:
    """copper or aluminium from cu, al or the whole word."""
    try:
        return MATERIALS[text.lower()]
    except KeyError:
        raise BadInput(f"“{text}” is not a metal here; cu and al are.") from None


def sets_and_size(text: str) -> tuple[int, str]:
    """``"2x4/0"`` → (2, "4/0"); a single conductor is one set."""
    if match := re.fullmatch(r"(\d{1,2})\s*[xX×]\s*(\S+)", text):
        return int(match[1]), match[2]
    return 1, text


def add_to(calls) -> None:
    """The calls of this module."""
    size = calls.add_parser("size", help="a size the rules ask for")
    kinds = size.add_subparsers(dest="what", required=True, parser_class=type(size))
    egc = kinds.add_parser("egc", help="equipment grounding conductor")
    egc.add_argument("--device", type=float, required=True, help="rating of the device ahead, A")
    egc.add_argument("--line", help="installed line conductor: 4, 4/0, 2x4/0")
    egc.add_argument("--line-needed", help="the least that would serve; else by the device")
    egc.add_argument("--line-material", default="cu")
    egc.set_defaults(run=_egc)
    gec = kinds.add_parser("gec", help="grounding electrode conductor")
    gec.add_argument("--service", required=True, help="service conductor: 4/0, 2x4/0")
    gec.add_argument("--electrode", choices=ELECTRODES, help="the only kind it goes to")
    gec.add_argument("--gec-material", default="cu")
    gec.set_defaults(run=_gec)
    jumper = kinds.add_parser("jumper", help="main bonding jumper")
    jumper.add_argument("--service", required=True, help="service conductor: 400, 2x4/0")
    jumper.add_argument("--jumper-material", default="cu")
    jumper.set_defaults(run=_jumper)
    for call in (egc, gec, jumper):
        call.add_argument("--material", default="cu", help="cu or al")
        call.add_argument("--edition", type=int, default=2023)
        call.add_argument("--json", action="store_true")
    _time_and_rod(calls)


def _time_and_rod(calls) -> None:
    time = calls.add_parser("time", help="how soon a breaker opens")
    time.add_argument("--device", type=float, required=True, help="its rating, A")
    time.add_argument("--amps", type=float, required=True)
    time.add_argument("--lo", type=float, help="maker's magnetic band, multiples of the rating")
    time.add_argument("--hi", type=float)
    time.add_argument("--kind", default="inverse-time", help="inverse-time, B, C or D")
    time.add_argument("--json", action="store_true")
    time.set_defaults(run=_time)
    rod = calls.add_parser("rod", help="resistance of ground rods")
    rod.add_argument("--length-ft", type=float, default=8.0)
    rod.add_argument("--diameter-in", type=float, default=0.625)
    rod.add_argument("--soil", type=float, default=100.0, help="resistivity, ohm-metres")
    rod.add_argument("--count", type=int, default=1)
    rod.add_argument("--spacing-ft", type=float)
    rod.add_argument("--json", action="store_true")
    rod.set_defaults(run=_rod)
    read = calls.add_parser("read", help="what a line typed as on the sheath is understood as")
    read.add_argument("line")
    read.add_argument("--json", action="store_true")
    read.set_defaults(run=_read)


def show(answer: Working, as_json: bool, **more) -> int:
    """Print an answer with its working."""
    if as_json:
        print(json.dumps(answer.as_dict() | more, ensure_ascii=False, indent=2))
        return 0
    value = answer.value
    if isinstance(value, float):
        value = figures(value)
    unit = answer.unit if value not in ("never", None) else ""
    print(f"{answer.title}: {value} {unit}".rstrip())
    for step in answer.steps():
        source = f"  [{step.source}]" if step.source else ""
        print(f"  {step.kind:<10} {step.text}{source}")
    return 0


def _egc(chosen) -> int:
    sets, line = sets_and_size(chosen.line) if chosen.line else (1, None)
    needed_sets, needed = sets_and_size(chosen.line_needed) if chosen.line_needed else (sets, None)
    answer = sizing.smallest_egc(
        chosen.device,
        line=line,
        material=material(chosen.material),
        line_material=material(chosen.line_material),
        line_needed=needed,
        edition=chosen.edition,
        sets=sets,
        sets_needed=needed_sets,
    )
    return show(answer, chosen.json)


def _gec(chosen) -> int:
    sets, line = sets_and_size(chosen.service)
    answer = sizing.smallest_gec(
        line,
        material(chosen.material),
        sets,
        electrode=chosen.electrode,
        material=material(chosen.gec_material),
        edition=chosen.edition,
    )
    return show(answer, chosen.json)


def _jumper(chosen) -> int:
    sets, line = sets_and_size(chosen.service)
    answer = sizing.main_bonding_jumper(
        line,
        material(chosen.material),
        sets,
        material=material(chosen.jumper_material),
        edition=chosen.edition,
    )
    return show(answer, chosen.json)


def _time(chosen) -> int:
    device = Breaker(chosen.device, chosen.lo, chosen.hi, kind=chosen.kind)
    answer = device.opens_working(chosen.amps)
    verdict = verdict_of(device, chosen.amps)
    fast = device.fast_s(chosen.amps)
    if not chosen.json:
        show(answer, False)
        print(f"  verdict    {verdict}")
        return 0
    late = device.slow_s(chosen.amps, device.unproved_hi)
    more = {
        "fast_s": fast if math.isfinite(fast) else None,
        "slow_s_unproved": late if math.isfinite(late) else None,
        "verdict": str(verdict),
    }
    return show(answer, True, **more)


def _rod(chosen) -> int:
    answer = earth.rods_working(
        chosen.length_ft, chosen.diameter_in, chosen.soil, chosen.count, chosen.spacing_ft
    )
    return show(answer, chosen.json)


def _read(chosen) -> int:
    reading = read_circuit(chosen.line)
    if chosen.json and reading.facts:
        steps = [{"kind": "given", "text": w, "source": ""} for w in reading.words]
        body = {
            "title": "Circuit as typed",
            "value": reading.facts,
            "unit": "circuit",
            "working": steps,
            "problems": reading.problems,
        }
        print(json.dumps(body, ensure_ascii=False, indent=2))
    elif reading.words:
        print("Understood: " + "; ".join(reading.words))
    if reading.problems:
        raise BadInput(" ".join(reading.problems))
    if not reading.facts:
        raise BadInput("Type a circuit, such as 20A 12/2 NM 85ft kitchen counter.")
    return 0
