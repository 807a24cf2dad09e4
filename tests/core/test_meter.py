"""The stand-in meter: the twin, its errors, the line protocol."""

import json
import unittest
from importlib.resources import files

from justloop.standin.meter import GREETING, Meter, demo_meter
from returnpath.diagnosis import Diagnoser, Given
from returnpath.errors import BadInput
from returnpath.meter import Twin, TwinMeter, read_twin
from returnpath.site import Set, apply
from returnpath.study import study

from .test_findings import example

SITE = example("pebblewick")


def job_file(_: str) -> str:
    return (files("returnpath") / "examples" / "pebblewick.json").read_text("utf-8")


def instrument(*edits, seed=1):
    site = SITE
    for edit in edits:
        site = apply(site, edit)
    return TwinMeter(Twin("Pebblewick Cottage", site, seed))


class Meters(unittest.TestCase):
    def test_it_reads_what_the_place_is_within_its_error(self):
        found = instrument()
        ready = Diagnoser(study(SITE))
        for kind, place in (("loop", "c26"), ("r2", "c17"), ("ng", "c17"), ("clamp", "f9")):
            probe = ready.column
            wanted = probe(_probe(ready, kind, place))[0]
            self.assertAlmostEqual(found.read(kind, place), wanted, delta=0.1 * wanted + 0.1)
        self.assertEqual(found.read("loop", "c26"), found.read("loop", "c26"))
        self.assertNotEqual(found.read("loop", "c26"), instrument(seed=2).read("loop", "c26"))

    def test_a_tester_and_a_loop_meter_at_a_reversed_receptacle(self):
        found = instrument(Set(path="c26.reversed", value="yes"))
        self.assertEqual(found.read("lamps", "c26"), 4.0)
        self.assertEqual(found.read("loop", "c26"), 2000.0)
        self.assertGreater(found.read("ng", "c26"), 100)
        self.assertEqual(found.read("lamps", "c27"), 0.0)

    def test_the_demos_twin_hides_one_defect_that_four_readings_find(self):
        meter = demo_meter(0)
        self.addCleanup(meter.server_close)
        ready, given = Diagnoser(study(SITE)), []
        step = ("loop", SITE.circuits[0].id)  # the walk's first place
        for _ in range(4):
            given.append(Given(*step, meter.instrument.read(*step)))
            found = ready.diagnose(given)
            if found.next_reading is None:
                break
            step = found.next_reading.kind, found.next_reading.place
        self.assertEqual(found.candidates[0].key, "c17:egc")
        self.assertAlmostEqual(found.candidates[0].size, 0.5, delta=0.15)

    def test_a_twin_that_is_none_is_refused(self):
        for text in ("", "[]", '{"format": 2}', '{"format": 1, "defects": [1]}',
                     '{"format": 1, "defects": [{"on": "c99.egc", "ohm": 1}]}',
                     json.dumps({"format": 1, "defects": [{}] * 21})):  # fmt: skip
            with self.subTest(text[:40]), self.assertRaises(BadInput):
                read_twin(text, job_file)


class Protocol(unittest.TestCase):
    def setUp(self):
        self.meter = Meter(instrument(), 0)
        self.addCleanup(self.meter.server_close)

    def test_what_is_said_to_what(self):
        say = self.meter.answer
        self.assertEqual(say("HELLO"), f"{GREETING} Pebblewick Cottage")
        self.assertRegex(say("READ loop c26"), r"^0\.\d+ ohm$")
        self.assertRegex(say("READ ng c26"), r"^\d+(\.\d+)? volt$")
        for wrong in ("", "READ", "READ loop", "read loop c26", "READ loop c26 now", "WRITE x y"):
            self.assertTrue(say(wrong).startswith("ERROR say HELLO"), wrong)
        for refused in ("READ lope c26", "READ loop c99", "READ torque p5", "READ loop e10"):
            self.assertTrue(say(refused).startswith("ERROR "), refused)


def _probe(ready, kind, place):
    from returnpath.diagnosis.probes import probe_of

    return probe_of(ready.nets, kind, place)
