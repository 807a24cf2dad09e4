"""No numeric fact is ignored: three times as much moves a figure, a finding, or is refused.

Each fact of each kind of part is looked at where it is given: in the demo sites, the written houses
and the checks' examples, and in a place made for it where none has it. What moves nothing is listed
with its reason, or fails by its name.
"""

import json
import unittest
from functools import cache

from returnpath.command.check import as_dict, judged
from returnpath.errors import BadInput
from returnpath.panels import dwelling_load
from returnpath.rules import all_checks, findings, pairs
from returnpath.site import LISTS, Set, apply, fields_of, parse_edit
from returnpath.study import study
from returnpath.vocabulary import fact_in

from . import houses_chain
from .houses_metric import built as metric_built
from .houses_metric import stories as metric_stories
from .test_findings import example

NUMBERS = ("number", "amps", "length")
SAMPLE = 40  # places looked at, spread over the houses

#: Facts that rightly move no figure and no finding.
DRAWN = "where it is drawn on the plan; electrodes' places share soil, these do not"
REASONED = {
    "buildings.deep_ft": DRAWN,
    "buildings.east_ft": DRAWN,
    "buildings.north_ft": DRAWN,
    "buildings.width_ft": DRAWN,
    "metals.east_ft": DRAWN,
    "metals.north_ft": DRAWN,
    "panels.east_ft": DRAWN,
    "panels.north_ft": DRAWN,
}

WYE = ["u1.system", "120/208 wye"]
GENERATOR = {"kind": "inverter", "kva": 9, "bond": "out", "neutral_switched": "no",
             "interlock": "interlock", "breaker": {"rating_a": 40, "lo": 5, "hi": 10}}  # fmt: skip
RUN = {"supply": "u1000", "to": "p1", "run": "underground", "length_ft": 20, "line_size": "8",
       "line_material": "copper", "neutral_size": "8", "egc_size": "10"}  # fmt: skip
NO_CURVE = [[f"{at}.lo", None] for at in ("c1.breaker", "f1.breaker", "p1.main")]
NO_CURVE += [[path.replace(".lo", ".hi"), None] for path, _ in NO_CURVE]
#: Where a fact that no house gives has a meaning: (what is set, the path, its value).
MADE: dict[str, tuple[list, str, float]] = {
    "buildings.floor_area_sqft": ([], "b1.floor_area_sqft", 2000),
    "circuits.around.above_roof_in": ([["c2.around.ambient_f", 100]],
                                      "c2.around.above_roof_in", 0.5),
    "circuits.breaker.magnetic_nominal": (NO_CURVE, "c1.breaker.magnetic_nominal", 8),
    "feeders.breaker.magnetic_nominal": (NO_CURVE, "f1.breaker.magnetic_nominal", 8),
    "panels.main.magnetic_nominal": (NO_CURVE, "p1.main.magnetic_nominal", 8),
    "supplies.breaker.magnetic_nominal": ([["+supplies", GENERATOR], ["+services", RUN],
        ["u1000.kind", "generator"], ["u1000.r1_ohm", 0.3], ["u1000.breaker.lo", None],
        ["u1000.breaker.hi", None]],
        "u1000.breaker.magnetic_nominal", 8),
    "circuits.breaker.series_ka": ([["c1.breaker.interrupting_ka", 5]],
                                   "c1.breaker.series_ka", 10),
    "feeders.breaker.series_ka": ([["f1.breaker.interrupting_ka", 5]], "f1.breaker.series_ka", 10),
    "panels.main.series_ka": ([["p1.main.interrupting_ka", 5]], "p1.main.series_ka", 10),
    "panels.main.interrupting_ka": ([], "p1.main.interrupting_ka", 10),
    "feeders.breaker.interrupting_ka": ([], "f1.breaker.interrupting_ka", 10),
    "supplies.breaker.interrupting_ka": ([["+supplies", GENERATOR], ["+services", RUN],
        ["u1000.r1_ohm", 0.02]], "u1000.breaker.interrupting_ka", 10),
    "supplies.breaker.series_ka": ([["+supplies", GENERATOR], ["+services", RUN],
        ["u1000.r1_ohm", 0.02]], "u1000.breaker.series_ka", 10),
    "circuits.extended_year": ([["c2.egc", "none"]], "c2.extended_year", 1970),
    "circuits.replaced_year": ([["c2.afci", "no"], ["c2.year", 1990]], "c2.replaced_year", 2016),
    "circuits.power_factor": ([["c3.load_va", 4500]], "c3.power_factor", 0.3),
    "circuits.return_ohm": ([], "c1.return_ohm", 0.2),
    "feeders.return_ohm": ([], "f1.return_ohm", 0.2),
    "feeders.around.carrying": ([], "f1.around.carrying", 9),
    "feeders.around.nm_together": ([["f1.method", "NM"]], "f1.around.nm_together", 4),
    "electrodes.diameter_in": ([], "e2.diameter_in", 0.5),
    "electrodes.gec_length_ft": ([], "e1.gec_length_ft", 30),
    "metals.join_ohm": ([["m1.also_joins", "p3"]], "m1.join_ohm", 0.3),
    "metals.main_ohm": ([["m1.shared_main", "yes"]], "m1.main_ohm", 0.3),
    "panels.bond_ohm": ([], "p1.bond_ohm", 0.2),
    "panels.screw_allows": ([["p1.most_under_screw", 2]], "p1.screw_allows", 1),
    "services.spacing_in": ([], "s1.spacing_in", 12),
    "services.year": ([["p2.unit", "A"], ["p3.unit", "B"], ["s1.line_size", "2/0"],
                       ["s1.line_material", "copper"],
                       ["s1.neutral_size", "2"]], "s1.year", 2000),
    "supplies.limit": ([["+supplies", GENERATOR], ["+services", RUN]], "u1000.limit", 2),
    "supplies.primary_mva": ([], "u1.primary_mva", 5),
    "supplies.r0_ohm": ([WYE, ["u1.r1_ohm", 0.02]], "u1.r0_ohm", 0.02),
    "supplies.x0_ohm": ([WYE, ["u1.r1_ohm", 0.02]], "u1.x0_ohm", 0.02),
    "arrays.modules": ([["+arrays", {"circuit": "c3", "grounding": "solid", "isc_a": 9,
        "frames": "some", "rails": "bonded", "egc_size": "10"}]], "a1000.modules", 8),
    "supplies.x_over_r": ([], "u1.x_over_r", 1.6),
}  # fmt: skip


def made(edits: list):
    """The base with what is set or added."""
    site = houses_chain.built({})
    for path, value in edits:
        edit = {"op": "set", "path": path, "value": value}
        if path.startswith("+"):
            edit = {"op": "add", "to": path[1:], "facts": value}
        site = apply(site, parse_edit(edit))
    return site


def answer(site) -> str:
    """All that is computed and judged of a place, but for the facts themselves."""
    done = study(site)
    body = as_dict(done) | judged(site, done, findings(site, done))
    for key in ("assumptions", "summary"):
        body.pop(key)
    load = dwelling_load(site)
    return json.dumps([body, load and load.va], sort_keys=True, default=str)


def other_values(value, info):
    """What a fact is changed to: three times, a third; years by decades."""
    if info.path.endswith("year") or info.path == "built_under":
        return [value - n for n in (60, 30, 12, -12)]
    if info.path == "breaker.lo" or info.path == "main.lo":
        return [value * 3, value / 3]
    changed = [value * 3, value / 3]
    return [max(round(v), 0) for v in changed] if info.whole else changed


class EveryNumericFact(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        sites = [example(n) for n in ("pebblewick", "millrace", "larkfield", "foxglove", "thistle")]
        sites += [houses_chain.built(s) for s in houses_chain.stories()]
        sites += [metric_built(s) for s in metric_stories().values()]
        for id in all_checks():
            bad, good, _ = pairs.pair(id)
            sites += [pairs.edited(bad, id), pairs.edited(good, id)]
        cls.sites = sites
        cls.before = staticmethod(cache(lambda n: answer(sites[n])))

    def places(self, name: str, path: str):
        """(site's number, element's id, value) where a fact is given, spread over the sites."""
        found = [
            (n, element.id, value)
            for n, site in enumerate(self.sites)
            for element in getattr(site, name)
            if (value := fact_in(element, path)) is not None
        ]
        step = max(len(found) // SAMPLE, 1)
        return found[::step]

    def moves(self, site, before: str, path: str, value, info) -> bool:
        """Whether another value changes an answer, or is refused with a sentence."""
        for other in other_values(value, info):
            try:
                changed = apply(site, Set(path=path, value=other))
            except BadInput as error:
                if info.path.endswith((".lo", "nominal")):
                    return bool(error.sentence)  # the band's ends hold each other
                continue
            if answer(changed) != before:
                return True
        return False

    def counts(self, name: str, info) -> bool:
        for n, id, value in self.places(name, info.path):
            if self.moves(self.sites[n], self.before(n), f"{id}.{info.path}", value, info):
                return True
        if (given := MADE.get(f"{name}.{info.path}")) is None:
            return False
        edits, path, value = given
        site = made([*edits, [path, value]])
        return self.moves(site, answer(site), path, value, info)

    def test_every_fact_counts(self):
        ignored = [
            f"{name}.{info.path}"
            for name, (model, _) in LISTS.items()
            for info in fields_of(model)
            if info.kind in NUMBERS
            and f"{name}.{info.path}" not in REASONED
            and not self.counts(name, info)
        ]
        self.assertEqual(ignored, [])

    def test_the_reasons_are_of_facts_that_are_there(self):
        known = {f"{n}.{i.path}" for n, (m, _) in LISTS.items() for i in fields_of(m)}
        self.assertLessEqual(set(REASONED) | set(MADE), known)
