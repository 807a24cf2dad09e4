"""method 10: the worked examples, to 0.5 %."""

import unittest

from returnpath import conductor, sizing
from returnpath.conductor import Wire
from returnpath.device import Breaker
from returnpath.study import FaultKind, Verdict, study
from returnpath.supply import Transformer

from .houses import house


class Close(unittest.TestCase):
    def close(self, value, expected, share=0.005):
        self.assertLessEqual(abs(value - expected), share * expected, f"{value} for {expected}")


class Transformers(Close):
    def test_w1_at_the_transformer(self):
        unit = Transformer(25, 1.7, 1.6)
        self.close(unit.line_to_neutral_a, 9490)
        self.close(unit.line_to_line_a, 6127)

    def test_w2_at_the_service_25_c(self):
        # A circuit of no length ends at the panel's bars.
        done = study(house("2P20A 12/3 NM 0ft stub"))
        self.close(done.worst_fault("c2", FaultKind.NEUTRAL).highest_a, 5171)
        self.close(done.worst_fault("c2", FaultKind.LINE).highest_a, 4897)


class Loops(Close):
    def test_w3_highest(self):
        loop = study(house("20A 12/2 NM 85ft kitchen counter")).loops["c2"]
        self.close(loop.highest_a, 408.3)
        self.close(loop.touch_bar_highest_v, 56.2)

    def test_w4_lowest(self):
        loop = study(house("20A 12/2 NM 85ft kitchen counter")).loops["c2"]
        self.close(loop.lowest_a, 326.9)
        self.close(loop.multiple, 16.3)
        self.assertEqual(loop.slow_s, 0.025)
        self.assertIs(loop.verdict, Verdict.AT_ONCE)
        self.close(conductor.withstand_s(Wire("12"), loop.lowest_a), 1.118)

    def test_w4_if_the_trip_began_at_20(self):
        loop = study(house("20A 12/2 NM 85ft kitchen", lo=None, hi=None)).loops["c2"]
        self.assertIs(loop.verdict, Verdict.AT_ONCE_IF_ASSUMED)
        self.assertEqual(loop.slow_s, 0.025)
        self.close(loop.slow_s_unproved, 1.35)
        self.assertGreater(loop.worst_heat_unproved.fraction, 1)

    def test_w14_worst_heat_is_at_the_lowest_current(self):
        loop = study(house("60A #6 ground 10 PVC 100ft feeder")).loops["c2"]
        self.close(loop.highest_a, 727.9)
        self.close(loop.lowest_a, 586.1)
        self.close(loop.slow_s, 11.4)
        worst = loop.worst_heat
        self.assertEqual(worst.carrier.label, "EGC")
        self.close(worst.limit_s, 0.879)
        self.close(worst.fraction, 13.0)
        self.assertGreater(loop.heat_hot, worst.fraction)

    def test_w16_raceway_alone(self):
        loop = study(house("20A #12 EMT 1/2 85ft shop")).loops["c2"]
        self.close(loop.highest_a, 452.8)
        self.close(loop.lowest_a, 388.5)

    def test_w16_raceway_and_wire(self):
        loop = study(house("20A #12 EMT 1/2 ground 12 85ft shop")).loops["c2"]
        self.close(loop.highest_a, 541.2)
        self.close(loop.lowest_a, 447.0)
        home = next(leg for leg in loop.legs if leg.id == "c2.return")
        shares = {branch: share for branch, _, share in home.branches}
        self.close(shares["c2.egc"], 0.39, 0.02)

    def test_w17_slow_edge(self):
        self.close(Breaker(20).slow_s(28), 2628)
        self.close(Breaker(20).slow_s(40), 120)


class Sizes(unittest.TestCase):
    def test_w11_egc_by_device(self):
        found = [
            sizing.smallest_egc(a).value for a in (15, 20, 40, 60, 70, 100, 125, 200, 225, 400)
        ]
        self.assertEqual(found, ["14", "12", "10", "10", "8", "8", "6", "6", "4", "3"])

    def test_w12_upsized_lines_take_the_egc_along(self):
        self.assertEqual(sizing.smallest_egc(20, line="8").value, "8")

    def test_w13_gec(self):
        services = [
            ("4/0", "aluminium", 1, "4"),
            ("2/0", "copper", 1, "4"),
            ("1", "copper", 1, "6"),
            ("4", "copper", 1, "8"),
            ("4/0", "aluminium", 2, "2"),
        ]
        for line, metal, sets, gec in services:
            with self.subTest(line=line, sets=sets):
                self.assertEqual(sizing.smallest_gec(line, metal, sets).value, gec)

    def test_w13_caps(self):
        def capped(kind):
            return sizing.smallest_gec("4/0", "aluminium", 2, electrode=kind).value

        self.assertEqual(capped("rod"), "6")
        self.assertEqual(capped("concrete"), "4")
        self.assertEqual(capped("water"), "2")

    def test_rounded_areas_do_not_push_a_size_up(self):
        # method 9: 10 AWG × 41,740/26,240 is 16,511 against 8 AWG's 16,510.
        found = sizing.smallest_egc(60, line="4", line_needed="6")
        self.assertEqual(found.value, "8")
        self.assertIn("16,511", " ".join(s.text for s in found.steps()))

    def test_never_larger_than_the_lines(self):
        self.assertEqual(sizing.smallest_egc(20, line="14").value, "14")

    def test_jumper_above_the_table_is_an_eighth(self):
        found = sizing.main_bonding_jumper("500", "copper", 3)  # 1,500 kcmil → 187.5 → 4/0
        self.assertEqual(found.value, "4/0")

    def test_sections_follow_the_edition(self):
        def source(edition):
            jumper = sizing.main_bonding_jumper("4/0", "aluminium", edition=edition)
            return jumper.steps()[0].source

        self.assertIn("250.24(C)", source(2023))
        self.assertIn("250.24(B)", source(2017))
