"""The quick bench's questions: the same answers as the functions behind them, no word lost."""

import json
import unittest

from hypothesis import given
from hypothesis import strategies as st

from returnpath import earth, sizing
from returnpath.device import Breaker
from returnpath.quick import CARRY_EXAMPLES, EXAMPLES, answer
from returnpath.site import Installation, Set, apply_all, read_place
from returnpath.study import study
from returnpath.working import figures

from .test_command import run


class Quick(unittest.TestCase):
    def test_sizes_are_those_of_the_rules(self):
        for question, made in (
            ("egc 100A", sizing.smallest_egc(100)),
            ("egc 60 amps al 2017", sizing.smallest_egc(60, material="aluminium", edition=2017)),
            ("gec 2x4/0 al rod", sizing.smallest_gec("4/0", "aluminium", 2, electrode="rod")),
            ("jumper 4/0 al", sizing.main_bonding_jumper("4/0", "aluminium")),
            ("supply side jumper 500 cu", sizing.supply_side_jumper("500", "copper")),
            ("water bond 200A", sizing.water_bond("4/0", "aluminium")),
            ("gas bond 60A", sizing.gas_bond(60, False)),
            ("csst bond csst", sizing.gas_bond(None, True)),
            ("pool bond", sizing.pool_grid()),
            ("wire for 50A NM", sizing.smallest_line(50, "copper", 60)),
            ("wire for 100A", sizing.smallest_line(100, "copper", 75)),
            ("what wire for 100 amp al 60c", sizing.smallest_line(100, "aluminium", 60)),
        ):
            found = answer(question)
            self.assertEqual(found.figure, f"{made.value} AWG", question)
            self.assertEqual(found.steps, tuple(made.steps()), question)

    def test_by_hand(self):
        """Legs: 240 V × 12 / 16. Drop: 2 × 16 A × 1.98 Ω a thousand feet × 110 ft at 75 °C."""
        legs = answer("legs 12 and 4 ohm neutral lost")
        self.assertEqual(legs.figure, "180 V")
        self.assertIn("60 V on the other", legs.says)
        drop = answer("drop 16A 12 110ft")
        self.assertAlmostEqual(float(drop.figure.split()[0]), 2 * 16 * 1.98 * 0.11 / 1.2, delta=0.1)
        self.assertIn("over the 3 %", drop.says)
        self.assertIn("within", answer("drop 8A 12 50ft 240v").says)

    def test_time_and_rods(self):
        self.assertEqual(answer("20A 160 amps").figure, f"{figures(Breaker(20).slow_s(160))} s")
        self.assertIn("10 ×", answer("20A 160 amps").assumed[0].words)
        known = answer("20A 190 amps 9x")
        self.assertEqual(known.assumed, ())
        self.assertIn("nstantaneous", known.says)
        rods = earth.rods_working(8.0, 0.625, 100.0, 2, 6.0)
        self.assertEqual(answer("2 rods 6ft 100 ohm-m").figure, f"{figures(rods.value)} Ω")
        self.assertIn("clears no fault", answer("three rods").says)

    def test_a_circuit_is_solved_as_in_a_job(self):
        site = apply_all(Installation(), [Set(path="p1.bond", value="in")])
        site = apply_all(site, read_place(site, "20A 12/2 85ft").edits)
        loop = study(site).loops[site.circuits[-1].id]
        found = answer("20A 12/2 85ft")
        self.assertEqual(found.figure, f"{figures(loop.lowest_a)} A")
        self.assertIn(("Longest run", f"{int(loop.longest_run_ft)} ft"), found.rows)
        self.assertEqual(found.line, "20A 12/2 85ft")

    def test_what_is_assumed_can_be_changed_by_its_own_question(self):
        for question in EXAMPLES:
            found = answer(question)
            self.assertFalse(found.problem, question)
            self.assertTrue(found.figure and found.steps, question)
            for one in found.assumed:
                if one.other:
                    self.assertFalse(answer(one.other).problem, one.other)
        copper, other = answer("egc 100A"), answer(answer("egc 100A").assumed[0].other)
        self.assertNotEqual(copper.figure, other.figure)

    def test_no_word_is_dropped_unseen(self):
        for question, word in (
            ("egc 100A purple", "purple"), ("gec 4/0 al banana", "banana"),
            ("drop 16A 12 110ft uphill", "uphill"), ("2 rods 6ft sideways", "sideways"),
            ("egc", "Say the breaker"), ("hello", "Ask like"), ("jumper", "Say the service"),
        ):  # fmt: skip
            found = answer(question)
            self.assertIn(word, found.problem, question)
            self.assertEqual(found.figure, "", question)

    @given(st.text(max_size=60) | st.lists(st.sampled_from(
        [w for e in EXAMPLES for w in e.split()] + ["0A", "9999A", "-1ft", "1/0"]),
        max_size=7).map(" ".join))  # fmt: skip
    def test_never_raises(self, question):
        found = answer(question)
        self.assertTrue(found.problem or found.figure or not question.split())

    def test_from_the_command_line(self):
        code, out, _ = run("quick", "egc", "100A")
        self.assertEqual(code, 0)
        self.assertIn("8 AWG", out)
        code, out, _ = run("quick", "egc 100A", "--json")
        found = json.loads(out)
        self.assertEqual((found["value"], found["unit"]), ("8", "AWG"))
        self.assertEqual(found["assumptions"], ["copper", "rules of 2023"])
        self.assertEqual(found["working"][0]["kind"], "table")
        code, _, err = run("quick", "hello")
        self.assertEqual(code, 2)
        self.assertIn("Ask like", err)


class TheChain(unittest.TestCase):
    """Ampacity, bundles, fill, boxes, motors, taps, torque: by hand."""

    BY_HAND = {
        "ampacity 12 cu 130F 8 wires": "16 A",  # 30 × 0.76 × 0.70 = 15.96
        "ampacity 12 nm": "20 A",
        "ampacity 12 cu 90f": "25 A",  # 30 × 0.96 = 28.8, not over 25
        "ampacity 4/0 al 100f 0.25 in above roof": "102 A",  # 160 °F: 205 × 0.50
        "bundle 5 cables 12": "15 A each",
        "bundle 5 cables 14": "12.5 A each",
        "bundle 2 cables 14": "15 A each",
        "fill 3/4 emt 9 #12": "22.5 %",  # 0.1197 / 0.533
        "fill 1 pvc 3 #6, 1 #10 ground": "20.8 %",
        "box 4 #12, 2 #12 ground, 1 device, clamps": "18 in³",
        "box 4 #14, 1 device": "12 in³",
        "motor 3 hp 240V": "17 A",
        "motor 1 hp 120V": "16 A",
        "tap 3 cu 200A 20ft 100A main": "permitted",
        "tap 3 cu 200A 40ft 100A main": "not permitted",
        "tap 10 cu 200A 8ft": "not permitted",  # where does it end?
        "torque #4 hex": "110 in-lb",
        "neutral counts 208 wye": "yes",
        "neutral counts 120/240": "no",
        "since gfci garage": "1978",
    }

    def test_by_hand(self):
        for question, figure in self.BY_HAND.items():
            with self.subTest(question):
                self.assertEqual(answer(question).figure, figure)

    def test_every_example_is_answered_and_its_assumptions_can_be_changed(self):
        for question in CARRY_EXAMPLES:
            found = answer(question)
            self.assertFalse(found.problem, question)
            self.assertTrue(found.figure, question)
            for one in found.assumed:
                if one.other:
                    self.assertFalse(answer(one.other).problem, one.other)

    def test_a_motors_wire_and_breaker(self):
        rows = dict(answer("motor 3 hp 240V").rows)
        self.assertEqual(rows["Wire carries at least"], "21.2 A")
        self.assertEqual(rows["Largest breaker"], "45 A")  # 250 % of 17 A = 42.5, the next one up
        self.assertEqual(rows["Largest time-delay fuse"], "30 A")

    def test_a_fifth_ground_counts_a_quarter_since_2020(self):
        many = "box 4 #12, 6 #12 ground, 1 device"
        self.assertEqual(answer(f"{many} 2017").figure, "15.8 in³")
        self.assertEqual(answer(f"{many} 2020").figure, "16.9 in³")

    def test_what_is_unsure_says_so(self):
        self.assertIn("(unconfirmed)", str(answer("since gfci cabinet doors").rows))

    def test_refused_with_a_sentence(self):
        for question, words in (
            ("ampacity banana", "Say the wire"), ("bundle 12", "how many cables"),
            ("fill emt", "what is in it"), ("box 2 banana", "not understood"),
            ("hp motor", "Say its horsepower"), ("motor 99 hp 240V", "ends at 10 hp"),
            ("tap 3 cu", "device ahead"), ("torque hex", "Say the wire"),
            ("since purple", "No rule kept here"), ("ampacity 12 cu 300f", "°F"),
        ):  # fmt: skip
            self.assertIn(words, answer(question).problem, question)
