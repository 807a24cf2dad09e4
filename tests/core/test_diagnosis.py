"""Which defect explains the readings: small changes against whole solves, and worked cases."""

import json
import tempfile
import unittest
from pathlib import Path

import numpy as np

from returnpath.diagnosis import Diagnoser, Given
from returnpath.diagnosis.defects import LOOSE_OHM
from returnpath.diagnosis.nets import nets_of
from returnpath.diagnosis.probes import probe_of
from returnpath.site import Add, Set, apply
from returnpath.study import study

from .test_command import run
from .test_findings import ROOT, example

SITE = example("pebblewick")
DONE = study(SITE)
READY = Diagnoser(DONE)


def as_read(site, kind: str, place: str) -> float:
    """What a perfect meter shows of a place that is so: the whole network solved anew."""
    nets = nets_of(study(site))
    probe = probe_of(nets, kind, place)
    net = {"loops": nets.loops, "loaded": nets.loaded, "dead": nets.dead}[probe.net]
    if probe.net == "loaded":
        value = abs(net.v[probe.a] - net.v[probe.b])
        return value / abs(net.network.branches[probe.branch].ohm) if probe.branch else value
    e = net.z[:, probe.a] - net.z[:, probe.b]
    return (e[probe.a] - e[probe.b]).real


def loose(branch: str, ohm: float):
    return apply(SITE, Add(to="joints", facts={"on": branch, "ohm": ohm}))


class SmallChanges(unittest.TestCase):
    def test_each_is_what_a_whole_new_solve_gives(self):
        ohm = LOOSE_OHM[5]
        made = ("bond-in", "outlet-bond")
        truths = {
            "c26:egc": loose("c26.egc", ohm),
            "f8:neutral": loose("f8.neutral", ohm),
            "s1:neutral": loose("s1.neutral", ohm),
            "p6:bond": loose("p6.bond", ohm),
            "c26:outlet-bond": apply(SITE, Set(path="c26.outlet_bond", value="yes")),
            "p7:bond-in": apply(SITE, Set(path="p7.bond", value="in")),
            "c26:length": apply(SITE, Set(path="c26.length_ft", value=1.4 * 60)),
        }
        base = apply(SITE, Set(path="c26.length_ft", value=60.0))
        ready = Diagnoser(study(base))
        for key, truth in truths.items():
            feet = 1.4 * 60 if "length" in key else 60.0
            truth = apply(truth, Set(path="c26.length_ft", value=feet))
            size = 1.4 if "length" in key else ohm
            at = next(n for n, d in enumerate(ready.defects)
                      if d.key == key and (d.size == size or d.kind in made))  # fmt: skip
            for kind, place in (("loop", "c26"), ("loop", "p6"), ("r1r2", "c26"), ("ng", "c26"),
                                ("clamp", "f8")):  # fmt: skip
                found = ready.column(probe_of(ready.nets, kind, place))[at]
                wanted = as_read(truth, kind, place)
                with self.subTest(key, kind=kind, place=place):
                    close = 0.02 * abs(wanted) + 2e-3
                    self.assertAlmostEqual(found, wanted, delta=close)

    def test_nothing_wrong_reads_as_the_place_is(self):
        for kind, place in (("loop", "c26"), ("r1r2", "c20"), ("ng", "c17"), ("clamp", "f9")):
            first = READY.column(probe_of(READY.nets, kind, place))[0]
            self.assertAlmostEqual(first, as_read(SITE, kind, place), places=6)


class Ranked(unittest.TestCase):
    def read(self, truth, *asked):
        return READY.diagnose([Given(k, p, as_read(truth, k, p)) for k, p in asked])

    def test_readings_at_their_prediction_are_nothing_wrong(self):
        asked = [("loop", c.id) for c in SITE.circuits[:6]]
        asked += [("r1r2", "c17"), ("ng", "c17"), ("clamp", "f9")]
        found = self.read(SITE, *asked)
        self.assertEqual(found.candidates[0].kind, "none")

    def test_a_loose_ground_is_found_by_its_loop_continuity_and_a_neighbour(self):
        truth = loose("c26.egc", 0.4)
        found = self.read(truth, ("loop", "c26"), ("loop", "c27"), ("r2", "c26"))
        first = found.candidates[0]
        self.assertEqual(first.key, "c26:egc")
        self.assertAlmostEqual(first.size, 0.4, delta=0.1)
        self.assertGreater(first.share, 0.9)

    def test_after_one_loop_it_proposes_what_tells_apart(self):
        found = self.read(loose("c26.egc", 0.4), ("loop", "c26"))
        self.assertIn("c26:line1", (*found.candidates[0].same, found.candidates[0].key))
        self.assertIsNotNone(found.next_reading)
        self.assertNotIn((found.next_reading.kind, found.next_reading.place), {("loop", "c26")})

    def test_a_second_bond_is_found_by_its_current(self):
        truth = apply(SITE, Set(path="p7.bond", value="in"))
        found = self.read(truth, ("clamp", "f9"), ("ng", "p7"), ("loop", "p7"))
        self.assertEqual(found.candidates[0].key, "p7:bond-in")

    def test_shares_are_shares(self):
        found = self.read(SITE, ("loop", "c26"))
        shares = [c.share for c in found.candidates]
        self.assertEqual(shares, sorted(shares, reverse=True))
        self.assertLessEqual(sum(shares), 1 + 1e-9)
        self.assertTrue(np.isfinite(shares).all())

    def test_what_cannot_be_used_is_said(self):
        found = READY.diagnose([Given("torque", "p5", 250.0)])
        self.assertEqual(found.unused, ("torque at p5",))


class CommandLine(unittest.TestCase):
    def test_csv_spoken_lines_and_refusals(self):
        job = str(ROOT / "examples" / "pebblewick.json")
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "readings.csv"
            file.write_text("kind,place,value\nloop,c26,0.66\nr1r2,Studio outlets,0.6\n", "utf-8")
            code, out, _ = run("diagnose", job, str(file), "--json")
            self.assertEqual(code, 0)
            body = json.loads(out)
            self.assertIn(body["result"]["candidates"][0]["key"], ("c26:egc", "c26:line1"))
            file.write_text("studio outlets loop 0.66\n", "utf-8")
            code, out, _ = run("diagnose", job, str(file))
            self.assertEqual(code, 0)
            self.assertIn("Read this next:", out)
            for bad in ("", "kind,place,value\nloop,sauna,1", "kind,place,value\nloop,c26,x",
                        "kind,place,value\nlope,c26,1", "sauna loop 1"):  # fmt: skip
                file.write_text(bad, "utf-8")
                self.assertEqual(run("diagnose", job, str(file))[0], 2, bad)
