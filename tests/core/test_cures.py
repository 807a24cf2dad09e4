"""A cure is the least that cures: the place with it is computed again."""

import unittest

from returnpath import tables
from returnpath.rules import findings
from returnpath.site import Set, apply
from returnpath.study import study

from .houses import house
from .test_findings import example


def heat_of(site, place):
    """The finding that a conductor of this place's loop does not live through the fault."""
    for finding in findings(site, study(site)):
        if (finding.id, finding.place) == ("loop-heat", place):
            return finding
    return None


class Heat(unittest.TestCase):
    def test_the_ground_wire_that_cures_is_the_least_and_never_over_its_lines(self):
        plain = example("pebblewick")
        feeder = next(f for f in plain.feeders if f.name == "Boathouse feeder")
        for feet, wanted in ((100, None), (140, "6"), (180, "4"), (220, "3"), (400, None)):
            with self.subTest(feet):
                site = apply(plain, Set(path=f"{feeder.id}.length_ft", value=feet))
                finding = heat_of(site, feeder.to)
                if finding is None or not finding.fix:
                    self.assertIsNone(wanted)
                    continue
                (edit,) = finding.fix
                self.assertEqual((edit.path, edit.value), (f"{feeder.id}.egc_size", wanted))
                self.assertLessEqual(tables.area(wanted), tables.area(feeder.line_size))
                self.assertIsNone(heat_of(apply(site, edit), feeder.to))
                sizes = tables.sizes("copper")
                smaller = sizes[sizes.index(wanted) - 1]
                least = apply(site, Set(path=edit.path, value=smaller))
                self.assertTrue(heat_of(least, feeder.to) or smaller == feeder.egc_size)

    def test_a_size_that_nobody_has_seen_is_asked_for_and_is_no_danger(self):
        site = house("20A 12/2 NM 60ft counter", s1__length_ft=150)
        service = site.service
        site = apply(site, Set(path=f"{service.id}.neutral_size", value=None))
        finding = heat_of(site, site.panel.id)
        self.assertEqual((finding.level, finding.fix), ("check", ()))
        self.assertEqual(finding.asks, f"{service.id}.neutral_size")
        self.assertIn("as assumed", finding.found)
        assumed = study(site).assumed.site.service.neutral_size
        read = apply(site, Set(path=f"{service.id}.neutral_size", value=assumed))
        finding = heat_of(read, site.panel.id)
        # Read, and as large as its table asks: physics beyond the rule is a check, and the row of
        # the breaker's curve says it.
        self.assertIsNone(finding)
        (row,) = [f for f in findings(read, study(read)) if f.place == "p1" and "curve" in f.found]
        self.assertEqual(row.level, "check")
        for edit in (Set(path="p1.main.lo", value=5), Set(path="p1.main.hi", value=10)):
            read = apply(read, edit)
        finding = heat_of(read, site.panel.id)
        self.assertEqual(finding.level, "danger")  # the entered curve proves it
        for edit in finding.fix:
            read = apply(read, edit)
        self.assertIsNone(heat_of(read, site.panel.id))


class Longest(unittest.TestCase):
    def test_a_run_of_next_to_no_length_has_no_longest_and_is_answered(self):
        for clearing in ("instantaneous", "one ohm", "five times", "timed"):
            for feet in (0.0, 5e-324, 1e-300, 1e-9, 0.009, 0.01, 1.0):
                for back in (None, 0.0, 1e-300, 0.5):
                    facts = {"length_ft": feet, "return_ohm": back, "practice__clearing": clearing}
                    with self.subTest(**facts):
                        loop = study(house("20A 12/2 NM 60ft x", **facts)).loops["c2"]
                        self.assertIs(loop.longest_run_ft is None, feet < 0.01)
                        self.assertGreater(loop.lowest_a, 100)


if __name__ == "__main__":
    unittest.main()
