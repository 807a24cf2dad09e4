"""A line against other metal: pipes, frames, electrodes; and what their ties change."""

import unittest

from returnpath.rules import pairs
from returnpath.site import Add, Set, apply
from returnpath.study import Verdict, study

from .houses import house
from .test_findings import example


class OtherMetal(unittest.TestCase):
    def test_a_bonded_pipe_is_as_its_panels_case(self):
        done = study(pairs.base())
        pipe, case = done.metals["m14"], done.enclosures["p4"]
        self.assertAlmostEqual(pipe.loop_ohm / case.loop_ohm, 1, places=3)
        self.assertEqual([leg.id for leg in pipe.legs][-3:], ["m14.bond", "p4.bond", "s1.neutral"])
        self.assertAlmostEqual(sum(leg.share for leg in pipe.legs), 1, places=6)

    def test_a_pipe_that_is_cut_off_never_opens_anything(self):
        site = apply(pairs.base(), Set(path="m14.past_repair", value="yes"))
        pipe = study(site).metals["m14"]
        self.assertIs(pipe.verdict, Verdict.MAY_NEVER_OPEN)
        self.assertEqual(pipe.lowest_a, 0)
        self.assertEqual(pipe.legs[-1].label, "no bond")

    def test_a_shared_main_is_a_way_home_without_a_bond(self):
        site = apply(pairs.base(), Set(path="m14.bonded", value="no"))
        site = apply(site, Set(path="m14.shared_main", value="yes"))
        pipe = study(site).metals["m14"]
        self.assertGreater(pipe.currents["m14.main"], 100)

    def test_metal_that_is_not_there_has_no_loop(self):
        for material in ("plastic", "none"):
            site = apply(
                pairs.base(), Add(to="metals", facts={"kind": "gas", "material": material})
            )
            self.assertEqual(set(study(site).metals) & {site.metals[-1].id}, set())

    def test_electrodes_by_the_bar_they_land_on(self):
        for bar, bond in (("neutral bar", False), ("ground bar", True)):
            site = house("20A 12/2 NM 85ft a")
            site = apply(site, Set(path="e1.kind", value="rod"))
            site = apply(site, Set(path="e1.lands", value=bar))
            legs = [leg.id for leg in study(site).metals["e1"].legs]
            self.assertEqual("p1.bond" in legs, bond, bar)
            self.assertEqual(legs[-1], "s1.neutral")

    def test_another_buildings_rod_comes_home_by_the_feeder(self):
        done = study(example("pebblewick"))
        rod = next(f for f in done.metals.values() if f.basis.place.panel == "p7")
        self.assertIn("f9.return", [leg.id for leg in rod.legs])
        self.assertAlmostEqual(rod.loop_ohm, done.enclosures["p7"].loop_ohm, places=3)
