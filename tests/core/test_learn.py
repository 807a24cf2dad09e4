"""Learn: every experiment's claim is computed, every hidden place can be found, questions."""

import unittest

from returnpath.errors import BadInput
from returnpath.learn import (
    BOXES,
    before,
    experiments,
    hidden_place,
    is_named,
    next_box,
    outcome,
    question,
    read_experiments,
    topics,
)
from returnpath.learn.measure import Measured
from returnpath.rules import pairs


class Experiments(unittest.TestCase):
    def test_what_each_claims_is_what_the_network_computes(self):
        self.assertGreaterEqual(sum(not e.is_metric for e in experiments().values()), 23)
        self.assertGreaterEqual(sum(e.is_metric for e in experiments().values()), 6)
        for key, one in experiments().items():
            with self.subTest(key):
                found = outcome(one)
                self.assertTrue(found.as_claimed, found.said)
                self.assertNotIn("{", " ".join(found.said))

    def test_most_measures_would_not_hold_of_the_clean_place(self):
        """A measure that holds whatever is done proves nothing, where something is done."""
        moved = 0
        # There the point is that it holds as well.
        same = {"conduit-counts", "same-anyway", "tester-proves"}
        changed = [e for k, e in experiments().items() if e.edits and k not in same]
        for one in changed:
            clean = Measured(before(one))
            try:
                moved += any(not m.holds(clean.value(m.of)) for m in one.measures)
            except BadInput:
                moved += 1  # what it measures is not even there before
        self.assertEqual(moved, len(changed))

    def test_a_teachers_file_is_checked(self):
        good = ("- {key: a, believed: b, ask: c, options: {x: X, y: Y}, right: x, done: d,"
                " edits: [], circuit: c15, measures: [{of: fault c15, above: 1, say: s}],"
                " why: w}")  # fmt: skip
        self.assertEqual(read_experiments(good)[0].key, "a")
        for text, words in (("a: [", "YAML"), ("a: 1", "a list"), ("- {key: a}", "Experiment 1"),
                            (good.replace("right: x", "right: z"), "one of the options"),
                            (good.replace("key: a", "key: A b"), "key")):  # fmt: skip
            with self.subTest(words), self.assertRaises(BadInput) as caught:
                read_experiments(text)
            self.assertIn(words, caught.exception.sentence)
        for wrong in (
            "",
            "lope c15",
            "fault c99",
            "fault",
            "through e10.gec",
            "hand x",
            "leg p4 9",
        ):
            with self.subTest(wrong), self.assertRaises(BadInput):
                Measured(pairs.base()).value(wrong)


class Hidden(unittest.TestCase):
    def test_the_same_seed_is_the_same_place(self):
        one, other = hidden_place(5, 2), hidden_place(5, 2)
        self.assertEqual(one.site, other.site)
        self.assertEqual([d.key for d in one.hidden], [d.key for d in other.hidden])
        self.assertEqual(one.meter.read("loop", "c10"), other.meter.read("loop", "c10"))
        self.assertNotEqual(one.site, hidden_place(6, 2).site)
        with self.assertRaises(BadInput):
            hidden_place(1, 9)

    def test_the_diagnosis_finds_most_in_the_given_minutes(self):
        found = []
        rounds = [(s, g) for g in (1, 2) for s in range(6)] + [(1, 3), (2, 3)]
        for seed, grade in rounds:
            place = hidden_place(seed, grade)
            par = place.par
            self.assertLessEqual(par.minutes, place.minutes)
            found.append(par.named)
        self.assertGreaterEqual(sum(found), len(found) - 1, found)

    def test_naming_needs_all_of_it(self):
        place = hidden_place(3, 3)
        keys = [d.key for d in place.hidden]
        self.assertEqual(len(keys), 2)
        self.assertTrue(is_named(place, keys))
        self.assertFalse(is_named(place, keys[:1]))
        self.assertTrue(is_named(place, [" + ".join(keys)]))


class Questions(unittest.TestCase):
    def test_the_right_answer_is_among_the_options_and_worked_out(self):
        for topic in topics():
            for seed in range(25):
                one = question(topic, seed)
                with self.subTest(topic, seed=seed):
                    self.assertIn(one.right, one.options)
                    self.assertEqual(len(set(one.options)), len(one.options))
                    self.assertTrue(one.working)
                    self.assertEqual(one, question(topic, seed))
        self.assertEqual({question("egc", s).right for s in range(60)} & {"10 AWG"}, {"10 AWG"})

    def test_a_buildings_question_is_answered_by_its_facts(self):
        rights = set()
        for seed in range(60):
            one = question("building", seed)
            rights.add(one.right)
            three = "three wires" in one.ask
            old = int(one.ask.split("run in ")[1][:4]) < 2008
            broken = "a metal pipe joins" in one.ask or "there is ground" in one.ask
            broken = broken or "neutral 12" in one.ask
            bonded = "is bonded" in one.ask
            expected = (
                "Four wires were asked for when it was run" if three and not old
                else "It may not remain: run an EGC first" if three and broken
                else "It may remain; bars together there" if three
                else "Take the bond out over there" if bonded
                else "It needs an electrode of its own" if "no electrode" in one.ask
                else "Nothing: it is as it should be"
            )  # fmt: skip
            with self.subTest(seed=seed, ask=one.ask):
                self.assertEqual(one.right, expected)
        self.assertEqual(len(rights), 6)

    def test_what_is_wrong_comes_back_at_once_and_what_is_known_late(self):
        box, days = 0, []
        for _ in range(5):
            box, wait = next_box(box, True)
            days.append(wait)
        self.assertEqual(days, [1, 3, 7, 21, 21])
        self.assertEqual(next_box(4, False), (0, BOXES[0]))
