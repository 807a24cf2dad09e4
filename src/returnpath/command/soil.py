"""``soil``: layers from four pins. ``three-point``: a test. ``electrodes``: several by plan."""

import csv
import io
import json
import sys
from argparse import Namespace
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from .. import earth, working
from ..errors import BadInput
from ..vocabulary.units import FOOT_M
from ..working import Step, Working, figures
from . import answers

MOST_BYTES = 100_000


def add_to(calls: Any) -> None:
    """The calls of this module."""
    soil = calls.add_parser("soil", help="one or two layers from four-pin readings")
    soil.add_argument("reading", nargs="*", help="“5 ft 12.1”: spacing, then ohms")
    soil.add_argument("--csv", help="readings as CSV spacing_ft,ohm or JSON; - standard input")
    soil.add_argument("--season", choices=[s for s, _, _ in earth.seasons()], default="")
    soil.add_argument("--json", action="store_true")
    soil.set_defaults(run=_soil)
    fall = calls.add_parser("three-point", help="an electrode from its three-point test")
    fall.add_argument("reading", nargs="*", help="“62 24.5”: percent of the distance, then ohms")
    fall.add_argument("--far", type=float, required=True, help="current probe, ft from it")
    fall.add_argument("--csv", help="readings as CSV percent,ohm or JSON; - standard input")
    fall.add_argument("--json", action="store_true")
    fall.set_defaults(run=_three_point)
    plan = calls.add_parser("electrodes", help="several electrodes by their places on the plan")
    plan.add_argument("electrode", nargs="+", help="rod 0,0 8 · water 10,5 20 · concrete 0,0 24")
    plan.add_argument("--soil", type=float, default=100.0, help="resistivity, ohm-metres")
    plan.add_argument("--json", action="store_true")
    plan.set_defaults(run=_electrodes)


def _text(chosen: Namespace) -> str:
    parts = list(chosen.reading)
    if chosen.csv == "-":
        parts.append(sys.stdin.read(MOST_BYTES))
    elif chosen.csv:
        try:
            parts.append(_lines(Path(chosen.csv).read_text("utf-8")[:MOST_BYTES]))
        except (OSError, UnicodeDecodeError) as error:
            raise BadInput(f"{chosen.csv} cannot be read: {error}.") from None
    return "\n".join(parts)


def _lines(text: str) -> str:
    """CSV as it is; JSON (a list of objects, or what ``--json`` printed) as lines."""
    if not text.lstrip().startswith(("[", "{")):
        return text
    try:
        held = json.loads(text)
        rows = held["readings"] if isinstance(held, dict) else held
        return "\n".join(_line(row) for row in rows)
    except (ValueError, KeyError, TypeError, AttributeError):
        raise BadInput("That JSON holds no readings: a list of spacing_m and ohm.") from None


def _line(row: dict[str, float]) -> str:
    if "spacing_m" in row:
        return f"{float(row['spacing_m'])} m {float(row['ohm'])}"
    if "spacing_ft" in row:
        return f"{float(row['spacing_ft'])} ft {float(row['ohm'])}"
    return f"{float(row['share']) * 100} {float(row['ohm'])}"


def _soil(chosen: Namespace) -> int:
    readings = earth.read_pins(_text(chosen))
    answer = earth.soil_working(readings, chosen.season)
    found = earth.fit(readings)
    layers = found.layers
    more = {
        "layers": 2 if found.is_two else 1,
        "upper_ohm_m": layers.upper_ohm_m,
        "lower_ohm_m": layers.lower_ohm_m,
        "depth_m": layers.depth_m,
        "is_depth_known": found.is_depth_known,
        "misfit": found.misfit,
        "rods": {f"{feet:g} ft": ohm for feet, ohm in earth.rods_of(layers)},
        "readings": [{"spacing_m": r.spacing_m, "ohm": r.ohm} for r in readings],
    }
    return answers.show(answer, chosen.json, **more)


def _three_point(chosen: Namespace) -> int:
    points = earth.read_fall(_text(chosen))
    answer = earth.three_point_working(points, chosen.far)
    found = earth.three_point_test(points, chosen.far)
    more = {
        "agrees": found.agrees,
        "spread": found.spread,
        "fitted_ohm": found.fitted,
        "readings": [{"share": p.share, "ohm": p.ohm} for p in found.points],
    }
    return answers.show(answer, chosen.json, **more)


def _electrodes(chosen: Namespace) -> int:
    shapes = [_shape(text, chosen.soil) for text in chosen.electrode]
    total = earth.sum_of(shapes, chosen.soil)
    mutual = earth.matrix(shapes, chosen.soil)

    def recipe() -> Iterator[Step]:
        for shape in shapes:
            yield working.given(
                f"{shape.kind} at {shape.x / FOOT_M:g} ft east, {shape.y / FOOT_M:g} ft north,"
                f" {shape.length / FOOT_M:g} ft: alone {figures(shape.ohm)} Ω"
            )
        for i, row in enumerate(mutual):
            for j in range(i):
                yield working.formula(
                    f"mutual of {j + 1} and {i + 1}: {figures(float(row[j]))} Ω", "method 7"
                )
        yield working.formula(f"together {figures(total)} Ω: 1/(1ᵀ·R⁻¹·1)", "method 7")
        yield working.note("Even soil; the true figure changes with season: measure it.")

    answer = Working("Electrodes together", total, "Ω", recipe)
    return answers.show(answer, chosen.json, alone_ohm=[s.ohm for s in shapes],
                        matrix_ohm=mutual.tolist())  # fmt: skip


def _shape(text: str, soil: float) -> earth.Shape:
    """``rod 8,0 10``: kind, feet east and north, length in feet, where a pipe runs to."""
    words = text.split()
    try:
        kind, place = words[0], next(csv.reader(io.StringIO(words[1])))
        x, y = (float(v) * FOOT_M for v in place)
        length = float(words[2]) * FOOT_M if len(words) > 2 else 8 * FOOT_M
        runs = words[3] if len(words) > 3 else "east"
    except (IndexError, ValueError):
        raise BadInput(f"“{text}” was not understood; write rod 8,0 10.") from None
    return earth.shape_of(kind, x, y, length, soil, runs)
