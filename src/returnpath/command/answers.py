"""Single answers: a breaker's time, a typed line; and how any answer is printed."""

from argparse import Namespace
from collections.abc import Iterable
from dataclasses import asdict
from pathlib import Path
from typing import Any

from .. import quick
from ..device import Breaker, widened
from ..errors import BadInput
from ..panels import LoadMethod, dwelling_load, typed_item
from ..site import loads
from ..study.verdict import verdict_of
from ..vocabulary import Size
from ..working import Step, Working, figures
from . import envelope


def add_to(calls: Any) -> None:
    """The calls of this module."""
    load = calls.add_parser("load", help="the load of a job's dwelling, and the room left")
    load.add_argument("job")
    load.add_argument("--area", type=float, help="floor area, sq ft, where the job has none")
    load.add_argument("--method", choices=list(LoadMethod), default=LoadMethod.EXISTING,
                      help="existing (220.83), new (220.82) or standard (part III)")  # fmt: skip
    load.add_argument("--add", help="a new load: 48 (a vehicle charger), “5 kW heat pump”")
    load.add_argument("--json", action="store_true")
    load.set_defaults(run=_load)
    ask = calls.add_parser("quick", help="one typed question, one answer: egc 100A")
    ask.add_argument("question", nargs="+", help="; ".join(quick.EXAMPLES))
    ask.add_argument("--json", action="store_true")
    ask.set_defaults(run=_quick)
    time = calls.add_parser("time", help="how soon a breaker trips")
    time.add_argument("--device", type=float, required=True, help="its rating, A")
    time.add_argument("--amps", type=float, required=True)
    time.add_argument("--lo", type=float, help="manufacturer's band, multiples of the rating")
    time.add_argument("--hi", type=float)
    time.add_argument("--nominal", type=float, help="one nominal figure: widened 20 %%")
    time.add_argument("--kind", default="inverse-time", help="inverse-time, B, C or D")
    time.add_argument("--json", action="store_true")
    time.set_defaults(run=_time)


def show(answer: Working, as_json: bool, **more: Any) -> int:
    """Print an answer with its working."""
    if as_json:
        envelope.show(envelope.of_figure(answer, **more))
        return 0
    value = answer.value
    if isinstance(value, float):
        value = figures(value)
    if isinstance(value, Size):
        value = value.name
    unit = answer.unit if value not in ("never", None) else ""
    print(f"{answer.title}: {value} {unit}".rstrip())
    _print_steps(answer.steps())
    return 0


def _quick(chosen: Namespace) -> int:
    found = quick.answer(" ".join(chosen.question))
    if found.problem:
        raise BadInput(found.problem)
    if chosen.json:
        figure, _, unit = found.figure.rpartition(" ")
        result = {"title": found.title, "says": found.says, "rows": dict(found.rows)}
        steps = [asdict(step) for step in found.steps]
        assumed = [one.words for one in found.assumed]
        envelope.show(envelope.of(result, unit, steps, assumed) | {"value": figure})
        return 0
    print(f"{found.title}: {found.figure}")
    for words in filter(None, [found.says, *(f"{label}: {value}" for label, value in found.rows)]):
        print(f"  {words}")
    for one in found.assumed:
        print(f"  assumed    {one.words}")
    _print_steps(found.steps)
    return 0


def _load(chosen: Namespace) -> int:
    site = loads(Path(chosen.job).read_text("utf-8"))
    extra = typed_item(chosen.add) if chosen.add else None
    found = dwelling_load(site, chosen.method, chosen.area, extra)
    if found is None:
        raise BadInput("Its floor area is not known: give it with --area.")
    if chosen.json:
        room = found.room_a
        result = {"va": found.va, "rating_a": found.rating_a, "room_a": room,
                  "least_service_a": found.least_service_a, "neutral_a": found.neutral_a,
                  "unknown": list(found.unknown)}  # fmt: skip
        steps = [asdict(step) for step in found.steps]
        envelope.show(envelope.of(result, "A", steps) | {"value": found.amps})
        return 0
    of = f" of {found.rating_a:g} A" if found.rating_a else ""
    print(f"Dwelling load: {figures(found.amps)} A{of}")
    if found.unknown:
        print(f"  at least: no nameplate of {', '.join(found.unknown)}; the room is not known")
    elif found.room_a is not None:
        room = f"room for {figures(found.room_a)} A more" if found.fits else "more than it carries"
        print(f"  {room}")
    _print_steps(found.steps)
    print(f"Neutral: {figures(found.neutral_a)} A")
    _print_steps(found.neutral_steps)
    return 0


def _print_steps(steps: Iterable[Step]) -> None:
    for step in steps:
        source = f"  [{step.source}]" if step.source else ""
        print(f"  {step.kind:<10} {step.text}{source}")


def _time(chosen: Namespace) -> int:
    lo, hi = chosen.lo, chosen.hi
    if chosen.nominal is not None:
        least, most = widened(chosen.nominal)
        lo, hi = (least if lo is None else lo), (most if hi is None else hi)
    device = Breaker(chosen.device, lo, hi, kind=chosen.kind)
    answer = device.opens_working(chosen.amps)
    verdict = verdict_of(device, chosen.amps)
    if not chosen.json:
        show(answer, False)
        print(f"  verdict    {verdict}")
        return 0
    more = {
        "fast_s": device.fast_s(chosen.amps),
        "slow_s_unproved": device.slow_s(chosen.amps, device.unproved_hi),
        "verdict": verdict.value,
    }
    return show(answer, True, **more)
