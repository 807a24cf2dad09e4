"""``explain``: the page of a finding. ``ask``: the deciding questions. ``electrode``: its ohms."""

import math

from .. import earth, working
from ..errors import BadInput
from ..rules import Evidence, all_checks, deciding_questions, open_facts
from ..rules.pages import page
from ..site import dumps_practice
from ..study import study
from ..vocabulary.units import FOOT_M as FEET
from ..vocabulary.units import INCH_M as INCH
from ..working import Working, figures, some_of
from . import answers, envelope
from .check import read_job

KINDS = ("rod", "wire", "ring", "plate", "concrete")
ROD_FT, ROD_IN = 8.0, 0.625


def add_to(calls) -> None:
    """The calls of this module."""
    explain = calls.add_parser("explain", help="what a finding looks for, why, with examples")
    explain.add_argument("id", help="such as bond-downstream; “all” lists them")
    explain.add_argument("--edition", type=int, default=2023)
    explain.set_defaults(run=_explain)
    ask = calls.add_parser("ask", help="the deciding questions of a job, most deciding first")
    ask.add_argument("job")
    ask.add_argument("--json", action="store_true")
    ask.set_defaults(run=_ask)
    practice = calls.add_parser("practice", help="a job's local practice as a practice file")
    practice.add_argument("job")
    practice.set_defaults(run=_practice)
    electrode = calls.add_parser("electrode", help="resistance of electrodes to remote earth")
    electrode.add_argument("kind", choices=KINDS)
    electrode.add_argument("--soil", type=float, default=100.0, help="resistivity, ohm-metres")
    electrode.add_argument("--length-ft", type=float, help="a rod's 8, else 20")
    electrode.add_argument("--diameter-in", type=float, help="a rod's 5/8, else 1/2")
    electrode.add_argument("--area-sqft", type=float, default=2.0)
    electrode.add_argument("--depth-in", type=float, default=30.0)
    electrode.add_argument("--count", type=int, default=1, help="rods, joined")
    electrode.add_argument("--spacing-ft", type=float, help="between them; else their length")
    electrode.add_argument("--json", action="store_true")
    electrode.set_defaults(run=_electrode)


def _explain(chosen) -> int:
    if chosen.id == "all":
        for id, entry in all_checks().items():
            print(f"{id:<34}{entry.level:<8}{entry.looks}")
        return 0
    if chosen.id not in all_checks():
        raise BadInput(f"“{chosen.id}” is not a finding; “explain all” lists them.")
    print(page(chosen.id, chosen.edition))
    return 0


def _ask(chosen) -> int:
    site = read_job(chosen.job)
    done = study(site)
    asked, unseen = deciding_questions(done), open_facts(Evidence(site, done))
    if chosen.json:
        rows = [
            {"text": a.text, "path": a.path, "settles": a.settles, "kind": "deciding"}
            for a in asked
        ]
        rows += [
            {
                "text": o.question,
                "fact": o.fact,
                "level": o.level,
                "checks": list(o.checks),
                "paths": [path for path, _ in o.places],
                "kind": "look",
            }
            for o in unseen
        ]
        envelope.show(envelope.of(rows, "questions"))
        return 0
    for one in asked:
        print(f"{one.settles:>3}  {one.text}  [{one.path}]")
    if not asked:
        print("No question decides a loop.")
    for one in unseen:
        places = some_of(name for _, name in one.places)
        print(f"{one.level:<7} {one.question}  {places}".rstrip())
    return 0


def _practice(chosen) -> int:
    print(dumps_practice(read_job(chosen.job).practice))
    return 0


def _electrode(chosen) -> int:
    feet = chosen.length_ft or (ROD_FT if chosen.kind == "rod" else 20.0)
    inches = chosen.diameter_in or (ROD_IN if chosen.kind == "rod" else 0.5)
    if chosen.kind == "rod":
        answer = earth.rods_working(feet, inches, chosen.soil, chosen.count, chosen.spacing_ft)
        return answers.show(answer, chosen.json)
    if chosen.count != 1:
        raise BadInput("Only rods are counted; one plate, ring or wire at a time.")
    length, radius = feet * FEET, inches * INCH / 2
    depth, soil = chosen.depth_in * INCH, chosen.soil
    value = {
        "wire": lambda: earth.buried_wire(soil, length, radius, depth),
        "ring": lambda: earth.ring(soil, length / math.pi, 2 * radius, depth),
        "plate": lambda: earth.plate(soil, chosen.area_sqft * FEET**2, depth),
        "concrete": lambda: earth.concrete_encased(soil, length, radius, depth),
    }[chosen.kind]()

    def recipe():
        yield working.given(
            f"{chosen.kind} in {soil:g} Ω·m: {feet:g} ft, {inches:g} in,"
            f" {chosen.depth_in:g} in deep"
            + (f", {chosen.area_sqft:g} sq ft" if chosen.kind == "plate" else "")
        )
        for season, share in (("wet", 0.6), ("dry or frozen", 2.0)):
            yield working.note(f"{season}: about {figures(value * share)} Ω; measure it")
        yield working.formula(f"R = {figures(value, 5)} Ω to remote earth", "method 7")

    title = f"{chosen.kind.capitalize()} to earth"
    return answers.show(Working(title, value, "Ω", recipe), chosen.json)
