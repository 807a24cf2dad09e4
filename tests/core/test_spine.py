"""The spine: kept where nothing it holds has changed, made anew where anything has."""

import unittest

from returnpath.errors import BadInput
from returnpath.rules import pairs
from returnpath.site import Add, Remove, Set, apply
from returnpath.study import study
from returnpath.study.solved import Solved
from returnpath.study.spine import KEEP_SPINES, forget_spines

from .test_findings import example, made_site


def spine(site):
    return study(site).states[0].spine


class Kept(unittest.TestCase):
    def setUp(self):
        forget_spines()
        self.site = pairs.base()
        self.circuit = self.site.circuits[0].id

    def edited(self, path, value):
        return apply(self.site, Set(path=path, value=value))

    def test_a_hanging_circuit_changes_and_the_spine_stays(self):
        first = spine(self.site)
        for path, value in (("length_ft", 71), ("breaker.rating_a", 15), ("name", "Other")):
            with self.subTest(path):
                self.assertIs(spine(self.edited(f"{self.circuit}.{path}", value)), first)
        self.assertIs(spine(apply(self.site, Add(facts={"panel": "p4", "name": "New"}))), first)
        self.assertIs(spine(apply(self.site, Remove(id=self.circuit))), first)

    def test_only_the_circuit_that_changed_is_computed_again(self):
        first = spine(self.site)
        kept = dict(first.figures)
        study(self.edited(f"{self.circuit}.length_ft", 71))
        new = [key for key, row in first.figures.items() if kept.get(key) is not row]
        self.assertEqual([key[0] for key in new], [self.circuit])

    def test_what_the_spine_holds_makes_a_new_one(self):
        first = spine(self.site)
        feeder, metal = self.site.feeders[0].id, self.site.metals[0].id
        for path, value in (
            (f"{feeder}.length_ft", 99),
            ("s1.length_ft", 99) if "s1" in self.site.elements() else (f"{feeder}.poles", 2),
            (f"{self.site.panel.id}.bond", "out"),
            (f"{metal}.bonded", "no"),
            ("practice.arc_v", 50),
            ("practice.clearing", "five times"),
        ):
            try:
                changed = self.edited(path, value)
            except (BadInput, KeyError):
                self.fail(f"{path} is no fact of the clean place")
            with self.subTest(path):
                self.assertEqual(spine(changed) is first, changed == self.site)

    def test_a_circuit_joined_to_other_metal_is_of_the_spine(self):
        first = spine(self.site)
        joined = self.edited(f"{self.circuit}.outlet_bond", "yes")
        self.assertIsNot(spine(joined), first)
        longer = apply(joined, Set(path=f"{self.circuit}.length_ft", value=71))
        self.assertIsNot(spine(longer), spine(joined))

    def test_the_line_that_a_joined_circuit_is_on_is_of_the_spine(self):
        first, second = (c.id for c in self.site.circuits[:2])
        site = self.site
        for one in (first, second):
            site = apply(site, Set(path=f"{one}.space", value=None))
        site = apply(site, Set(path=f"{second}.outlet_bond", value="yes"))
        moved = apply(site, Remove(id=first))  # the second takes the first's line
        before, after = (study(s).states[0] for s in (site, moved))
        self.assertNotEqual(before.wiring.legs[second], after.wiring.legs[second])
        self.assertIsNot(before.spine, after.spine)

    def test_a_joint_on_a_hanging_circuit_is_of_the_spine(self):
        first = study(self.site)
        loose = study(apply(self.site, Add(
            to="joints", facts={"on": f"{self.circuit}.egc", "ohm": 2.0}
        )))  # fmt: skip
        was, now = first.loops[self.circuit], loose.loops[self.circuit]
        self.assertAlmostEqual(now.loop_ohm - was.loop_ohm, 2.0, delta=0.1)

    def test_the_oldest_is_forgotten(self):
        first = spine(self.site)
        feeder = self.site.feeders[0].id
        for n in range(KEEP_SPINES):
            study(self.edited(f"{feeder}.length_ft", 200 + n))
        self.assertIsNot(spine(self.site), first)


class Ranges(unittest.TestCase):
    def test_what_was_found_good_once_still_meets_a_part_that_is_gone(self):
        site = pairs.base()
        first, second = (e.id for e in site.electrodes[:2])
        site = apply(site, Set(path=f"{second}.near", value=first))
        site = apply(site, Remove(id=first))  # what named it follows
        self.assertIsNone(site.value_at(f"{second}.near"))
        with self.assertRaisesRegex(BadInput, "There is no “e99”"):
            apply(site, Set(path=f"{second}.near", value="e99"))

    def test_a_value_out_of_its_range_is_refused_after_good_ones(self):
        site = pairs.base()
        circuit = site.circuits[0].id
        for feet in (10, 20):
            site = apply(site, Set(path=f"{circuit}.length_ft", value=feet))
        with self.assertRaises(BadInput):
            apply(site, Set(path=f"{circuit}.length_ft", value=-5))


if __name__ == "__main__":
    unittest.main()


class PortsTogether(unittest.TestCase):
    """Ports made together are what each of them is alone, with all that is read from them."""

    def test_as_one_by_one(self):
        for site in (example("pebblewick"), example("millrace"), example("larkfield"), made_site()):
            forget_spines()
            there = spine(site)
            self.assertTrue(there._prepared)
            for solved in (*there.hot, *there.cold):
                alone = Solved(solved.state, solved.solution, there.site, there.wiring)
                for (a, b), port in list(solved._ports.items()):
                    one = alone.port(a, b)
                    self.assertEqual(
                        (port.volts, port.ohm, port.each), (one.volts, one.ohm, one.each)
                    )
            for solved in there.hot:
                alone = Solved(solved.state, solved.solution, there.site, there.wiring)
                for a, b in list(there._prepared):
                    if not (solved.has(a) and solved.has(b)):
                        continue
                    port, one = solved.port(a, b), alone.port(a, b)
                    kept = [(path, round(share, 12)) for path, (_, share)
                            in there._device_shares(solved, port)]  # fmt: skip
                    again = [(path, round(share, 12)) for path, (_, share)
                             in there._device_shares(alone, one)]  # fmt: skip
                    self.assertEqual(kept, again)
                    self.assertAlmostEqual(
                        there.worst_ratio(solved, port), there.worst_ratio(alone, one), places=15
                    )
