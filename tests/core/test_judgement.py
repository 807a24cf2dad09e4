"""Assumptions, verdicts, findings, the deciding question, and the error sentences."""

import os
import subprocess
import sys
import unittest
from pathlib import Path

from returnpath import conductor, device, sizing, supply, tables
from returnpath.assume import assume
from returnpath.errors import BadInput
from returnpath.rules import deciding_question, findings, fold, next_step
from returnpath.site import Add, Installation, Set, apply, read_circuit
from returnpath.study import Verdict, study

from .houses import house

BARRED = """
import sys

class Barrier:
    def find_spec(self, name, path=None, target=None):
        if name.split(".")[0] in ("django", "justloop"):
            raise ModuleNotFoundError(name)

sys.meta_path.insert(0, Barrier())
import pkgutil, importlib, returnpath
for found in pkgutil.walk_packages(returnpath.__path__, "returnpath."):
    if not found.name.endswith("__main__"):
        importlib.import_module(found.name)
from returnpath import read, study
print(study(read("examples/pebblewick.json")).worst.place_name)
"""


class TheCoreAlone(unittest.TestCase):
    def test_all_of_it_is_imported_and_studies_without_django(self):
        root = Path(__file__).resolve().parents[2]
        done = subprocess.run(
            [sys.executable, "-c", BARRED],
            cwd=root,
            env=os.environ | {"PYTHONPATH": str(root / "src")},
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        self.assertTrue(done.stdout.strip())


class Assumptions(unittest.TestCase):
    def test_presence_is_never_assumed(self):
        site = apply(Installation(), Add(facts=read_circuit("20A #12 PVC pump").facts))
        filled = assume(site).site
        self.assertIsNone(filled.circuits[0].egc)
        self.assertIsNone(filled.panel.bond)
        loop = study(site).loops["c2"]
        self.assertIs(loop.verdict, Verdict.NOT_KNOWN)
        self.assertEqual(set(loop.lacks), {"c2.egc", "p1.bond"})

    def test_everything_else_is_filled_and_listed(self):
        site = apply(Installation(), Add(facts=read_circuit("20A NM kitchen").facts))
        site = apply(site, Set(path="c2.egc", value="wire"))
        site = apply(site, Set(path="p1.bond", value="in"))
        done = assume(site)
        self.assertEqual(done.site.supply.kva, 25)
        self.assertEqual(done.site.circuits[0].length_ft, 75)
        self.assertEqual(done.site.circuits[0].egc_size, "12")
        self.assertIsNotNone(study(site).loops["c2"].lowest_a)
        for assumption in done.assumptions:
            with self.subTest(assumption.path):
                self.assertIsNone(site.value_at(assumption.path))
                self.assertTrue(assumption.words)
                self.assertTrue(assumption.why)

    def test_an_assumed_plate_is_judged_on_the_weak_side(self):
        known = house("20A 12/2 NM 85ft x")
        assumed = apply(known, Set(path="u1.percent_z", value=None))
        assumed = apply(assumed, Set(path="u1.x_over_r", value=None))
        states = study(assumed)
        self.assertLess(states.loops["c2"].lowest_a, study(known).loops["c2"].lowest_a)
        self.assertGreater(states.available_a, study(known).available_a)

    def test_a_known_fault_current_serves_the_highest_only(self):
        known = house("20A 12/2 NM 85ft x", u1__fault_a=20_000, u1__fault_kind="line to neutral")
        plain = house("20A 12/2 NM 85ft x")
        a, b = study(known).loops["c2"], study(plain).loops["c2"]
        self.assertAlmostEqual(a.lowest_a, b.lowest_a, places=3)
        self.assertGreater(a.highest_a, b.highest_a)

    def test_a_maximum_below_the_assumed_plate_is_not_known_yet(self):
        site = house("20A 12/2 NM 85ft x", u1__kva=None, u1__fault_a=900)
        loop = study(site).loops["c2"]
        self.assertIs(loop.verdict, Verdict.NOT_KNOWN)
        self.assertIn("enter the transformer", study(site).why_not)


class Verdicts(unittest.TestCase):
    def verdict(self, feet, **facts):
        return study(house("20A 12/2 NM 85ft x", length_ft=feet, **facts)).loops["c2"].verdict

    def test_all_five(self):
        assumed = {"lo": None, "hi": None}
        self.assertIs(self.verdict(85), Verdict.AT_ONCE)
        self.assertIs(self.verdict(40, **assumed), Verdict.AT_ONCE)  # over 20 × without a maker
        self.assertIs(self.verdict(85, **assumed), Verdict.AT_ONCE_IF_ASSUMED)
        self.assertIs(self.verdict(200), Verdict.SLOW)
        self.assertIs(self.verdict(2000), Verdict.MAY_NEVER_OPEN)
        self.assertIs(self.verdict(85, egc=None), Verdict.NOT_KNOWN)

    def test_no_magnetic_trip(self):
        old = {"lo": None, "hi": None, "breaker__x": None}
        old.pop("breaker__x")
        site = house("20A 12/2 NM 85ft x", **old)
        site = apply(site, Set(path="c2.breaker.magnetic", value="none"))
        loop = study(site).loops["c2"]
        self.assertIs(loop.verdict, Verdict.SLOW)
        self.assertGreater(loop.slow_s, 1)

    def test_a_gfci_is_a_second_line_and_never_merged_in(self):
        site = house("20A 12/2 NM 85ft x", egc="none", gfci="yes")
        loop = study(site).loops["c2"]
        self.assertIs(loop.verdict, Verdict.MAY_NEVER_OPEN)
        bonded = study(house("20A 12/2 NM 85ft x", gfci="yes")).loops["c2"]
        self.assertEqual(bonded.second_line_s, 0.025)

    def test_criteria_side_by_side(self):
        loop = study(house("20A 12/2 NM 200ft x")).loops["c2"]
        met = {name: c.met for name, c in loop.criteria.items()}
        self.assertEqual(
            met, {"instantaneous": False, "five times": True, "timed": False, "one ohm": True}
        )
        site = apply(
            house("20A 12/2 NM 200ft x"), Set(path="practice.clearing", value="five times")
        )
        self.assertTrue(study(site).loops["c2"].deciding.met)

    def test_an_arc_takes_volts(self):
        site = house("20A 12/2 NM 85ft x")
        arced = apply(site, Set(path="practice.arc_v", value=50))
        plain, less = study(site).loops["c2"].lowest_a, study(arced).loops["c2"].lowest_a
        self.assertAlmostEqual(less / plain, (0.95 * 120 - 50) / (0.95 * 120), places=4)


class Findings(unittest.TestCase):
    """Each check: a bad site with it, a good site without."""

    PAIRS = [
        ("bond-missing-service", {"p1__bond": "out"}, {}),
        (
            "main-bonding-jumper-small",
            {"p1__bond_kind": "wire", "p1__bond_size": "6"},
            {"p1__bond_kind": "wire", "p1__bond_size": "4"},
        ),
        ("egc-missing", {"egc": "none"}, {}),
        ("egc-small", {"egc_size": "14"}, {"egc_size": "12"}),
        ("egc-not-upsized", {"line_size": "10"}, {"line_size": "10", "egc_size": "10"}),
        ("loop-never-opens", {"length_ft": 2000}, {}),
        (
            "loop-slow",
            {"length_ft": 200, "breaker.lo": None, "breaker.hi": None},
            {"length_ft": 100},
        ),
        ("loop-curve-unknown", {"breaker.lo": None, "breaker.hi": None}, {}),
        ("loop-heat", {"length_ft": 150}, {}),
        ("wire-breaker-mismatch", {"breaker.rating_a": 30}, {}),
        ("gec-small", {"e1__gec_size": "6"}, {"e1__gec_size": "4"}),
        (
            "interrupting-rating-low",
            {"breaker.interrupting_ka": 5},
            {"breaker.interrupting_ka": 10},
        ),
    ]

    def found(self, facts):
        site = house("20A 12/2 NM 85ft x")
        for name, value in facts.items():
            place, _, field = name.rpartition("__")
            site = apply(site, Set(path=f"{place or 'c2'}.{field}", value=value))
        return {f.id: f for f in findings(site, study(site))}, site

    def test_pairs(self):
        for id_, bad, good in self.PAIRS:
            with self.subTest(id_):
                found, _ = self.found(bad)
                self.assertIn(id_, found)
                finding = found[id_]
                for text in (finding.found, finding.why, finding.do, finding.authority):
                    self.assertTrue(text)
                self.assertNotIn(id_, self.found(good)[0])

    def test_a_fix_mends(self):
        for id_, bad, _ in self.PAIRS:
            found, site = self.found(bad)
            with self.subTest(id_):
                for edit in found[id_].fix:
                    site = apply(site, edit)
                if found[id_].fix:
                    self.assertNotIn(id_, {f.id for f in findings(site, study(site))})

    def test_the_open_bond_is_one_danger_not_many(self):
        found, site = self.found({"p1__bond": "out"})
        folded = fold(site, tuple(found.values()))
        dangers = [f.id for f in folded if f.level == "danger"]
        self.assertEqual(dangers, ["bond-missing-service"])

    def test_a_clean_house_has_none(self):
        found, _ = self.found({})
        # It asks what electrodes there are, and tells what assumed loads would see.
        self.assertEqual(set(found), {"electrode-none", "open-neutral-exposure"})
        self.assertEqual(found["electrode-none"].level, "check")


class TheDecidingQuestion(unittest.TestCase):
    def setUp(self):
        self.site = house("20A 12/2 NM kitchen", length_ft=None)

    def ask(self, site):
        done = study(site)
        return deciding_question(done.assumed, done.loops["c2"])

    def test_threshold_flips_the_verdict(self):
        question = self.ask(self.site)
        at = apply(self.site, Set(path="c2.length_ft", value=question.threshold_ft))
        over = apply(self.site, Set(path="c2.length_ft", value=question.threshold_ft + 1))
        self.assertTrue(study(at).loops["c2"].deciding.met)
        self.assertFalse(study(over).loops["c2"].deciding.met)

    def test_no_settles_it_and_still_passes(self):
        no = dict(self.ask(self.site).answers)["No"]
        site = apply(self.site, no)
        self.assertIsNone(self.ask(site))
        self.assertIsNone(site.circuit("c2").length_ft)
        self.assertIs(study(site).loops["c2"].verdict, Verdict.AT_ONCE)

    def test_yes_fails_until_it_is_measured(self):
        yes = dict(self.ask(self.site).answers)["Yes"]
        site = apply(self.site, yes)
        self.assertIsNone(self.ask(site))
        self.assertFalse(study(site).loops["c2"].deciding.met)

    def test_cannot_tell_is_not_asked_again(self):
        site = apply(self.site, dict(self.ask(self.site).answers)["Can't tell"])
        self.assertIsNone(self.ask(site))

    def test_a_known_length_or_an_open_bond_asks_nothing(self):
        self.assertIsNone(self.ask(house("20A 12/2 NM 85ft kitchen")))
        self.assertIsNone(self.ask(apply(self.site, Set(path="p1.bond", value="out"))))

    def test_a_bound_that_no_longer_decides_is_asked_again(self):
        site = apply(self.site, dict(self.ask(self.site).answers)["No"])
        weaker = apply(site, Set(path="c2.egc_size", value="14"))
        self.assertIsNotNone(self.ask(weaker))


class NextStep(unittest.TestCase):
    def text(self, site):
        done = study(site)
        return next_step(site, done, fold(site, findings(site, done))).text

    def test_order(self):
        site = house("20A 12/2 NM kitchen", length_ft=None)
        self.assertIn("longer than", self.text(site))
        self.assertIn("is the main bond", self.text(apply(site, Set(path="p1.bond", value=None))))
        self.assertIn(
            "Install the main bonding jumper",
            self.text(apply(site, Set(path="p1.bond", value="out"))),
        )
        self.assertIn("first circuit", self.text(Installation()))


class BadValues(unittest.TestCase):
    def test_every_public_function_refuses_with_a_sentence(self):
        calls = [
            lambda: conductor.Wire("7"),
            lambda: conductor.Wire("14", "aluminium"),
            lambda: conductor.Wire("12", "brass"),
            lambda: conductor.Wire("12", method="string"),
            lambda: conductor.impedance(conductor.Wire("12"), -1),
            lambda: conductor.impedance(conductor.Wire("12"), float("nan")),
            lambda: conductor.raceway_impedance("PVC", "1/2", 10),
            lambda: conductor.raceway_impedance("EMT", "9", 10),
            lambda: conductor.withstand_s(conductor.Wire("12"), -1),
            lambda: device.Breaker(0),
            lambda: device.Breaker(601),
            lambda: device.Breaker(20, lo=1),
            lambda: device.Breaker(20, hi=99),
            lambda: device.Breaker(20, hi=9, kind="B"),
            lambda: device.Breaker(20, lo=10, hi=5),
            lambda: device.Breaker(20).slow_s(float("inf")),
            lambda: supply.Transformer(0, 1.7, 1.6),
            lambda: supply.from_available_current(1, "line to line", 1.6),
            lambda: sizing.smallest_egc(-1),
            lambda: sizing.smallest_egc(20, line="7"),
            lambda: sizing.smallest_gec("4/0", "aluminium", electrode="tree"),
            lambda: sizing.smallest_line(2000),
            lambda: sizing.service_line(500),
            lambda: tables.section("egc_size", 1999),
        ]
        for number, call in enumerate(calls):
            with self.subTest(number), self.assertRaises(BadInput) as caught:
                call()
            self.assertRegex(caught.exception.sentence, r"^.{12,}\.$")

    def test_workings_are_written_out(self):
        loop = study(house("20A #12 EMT 1/2 ground 12 85ft shop")).loops["c2"]
        for name, made in loop.workings.items():
            with self.subTest(name):
                shown = made.as_dict()
                self.assertTrue(shown["working"])
                self.assertTrue(all(step["text"] for step in shown["working"]))

    def test_nominal_magnetic_figures_are_widened(self):
        self.assertEqual(device.widened(10), (8, 12))
