"""A run of several methods: each segment has its own ohms, its own path, its own length."""

import unittest

from returnpath.conductor import Wire, impedance_per_kft, raceway_impedance
from returnpath.errors import BadInput
from returnpath.rules import findings
from returnpath.site import Set, apply, dumps, loads, show_value
from returnpath.site.fields import field_info
from returnpath.study import Verdict, study

from .houses import house

MIXED = "12/2 NM 40ft; #12 EMT 1/2 25ft"


def with_segments(text, line="20A 12/2 NM 85ft counter"):
    return apply(house(line), Set(path="c2.segments", value=text))


class Segments(unittest.TestCase):
    def test_one_segment_is_the_plain_run(self):
        plain = study(house("20A 12/2 NM 65ft counter")).loops["c2"]
        same = study(with_segments("12/2 NM 65ft")).loops["c2"]
        two = study(with_segments("12/2 NM 40ft then 12/2 NM 25ft")).loops["c2"]
        for one in (same, two):
            self.assertAlmostEqual(one.lowest_a, plain.lowest_a, places=6)
            self.assertAlmostEqual(one.highest_a, plain.highest_a, places=6)
            self.assertAlmostEqual(one.heat_used, plain.heat_used, places=9)

    def test_each_has_its_own_ohms(self):
        """By hand: 40 ft of solid 12 there and back, 25 ft of 12 AWG in steel and its wall."""
        site = with_segments(MIXED)
        line = [(Wire("12", method="NM"), 40.0), (Wire("12", method="EMT"), 25.0)]
        ohm = sum(impedance_per_kft(w, 75.0, 60.0) * ft / 1000 for w, ft in line)
        back = impedance_per_kft(line[0][0], 75.0, 60.0) * 0.04
        back += raceway_impedance("EMT", "1/2", 25.0)
        plain = study(house("20A 12/2 NM 1ft counter")).loops["c2"]
        one_ft = 2 * impedance_per_kft(line[0][0], 75.0, 60.0) / 1000
        source = plain.basis.low.ohm - one_ft
        found = study(site).loops["c2"]
        self.assertAlmostEqual(abs(source + ohm + back), found.loop_ohm, delta=0.002)

    def test_a_segment_without_a_path_breaks_it(self):
        site = with_segments("12/2 NM 40ft; #12 PVC 25ft no ground")
        done = study(site)
        self.assertIs(done.loops["c2"].verdict, Verdict.MAY_NEVER_OPEN)
        found = {f.id: f.level for f in findings(site, done)}
        self.assertEqual(found["egc-missing"], "danger")

    def test_the_thinnest_wire_is_judged(self):
        site = with_segments("12/2 NM 40ft; 14/2 NM 25ft")
        ids = {f.id for f in findings(site, study(site))}
        self.assertIn("wire-breaker-mismatch", ids)
        thin = with_segments("12/2 NM 40ft; #12 PVC 25ft ground 14")
        self.assertIn("egc-small", {f.id for f in findings(thin, study(thin))})

    def test_it_travels_and_is_shown_as_typed(self):
        site = loads(dumps(with_segments(MIXED)))
        self.assertEqual(site, with_segments(MIXED))
        circuit = site.circuits[0]
        shown = show_value(field_info(circuit, "segments"), circuit.segments)
        again = apply(site, Set(path="c2.segments", value=shown))
        self.assertEqual(again, site)
        steps = study(site).loops["c2"].workings["loop_ohm"].steps()
        self.assertTrue(any("2 segments" in s.text for s in steps))

    def test_what_cannot_be_is_a_sentence(self):
        for text, words in (
            ("12/2 NM", "its wire and its length"),
            ("20A 12/2 NM 40ft", "a segment is a wire"),
            ("12/2 NM 40ft; purple 9", "purple"),
            ("; ".join(["12/2 NM 1ft"] * 13), "At most 12"),
        ):
            with self.subTest(text), self.assertRaises(BadInput) as caught:
                with_segments(text)
            self.assertIn(words, caught.exception.sentence)
        self.assertIsNone(apply(with_segments(MIXED), Set(path="c2.segments", value=None))
                          .circuits[0].segments)  # fmt: skip
