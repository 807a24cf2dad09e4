"""More lines that once could be broken unseen; each has its figure here."""

import unittest

from returnpath import sizing
from returnpath.assume import assume
from returnpath.conductor import Wire, impedance_per_kft
from returnpath.device import Breaker
from returnpath.network import build
from returnpath.site import Array
from returnpath.site.base import Segment
from returnpath.study import study
from returnpath.study.states import States
from returnpath.study.verdict import TimeLimit, criteria

from .houses import house
from .test_findings import example
from .test_network import place
from .test_says_it_clears import branch, joined


class Conductors(unittest.TestCase):
    def test_the_ground_of_a_segment_is_of_its_own_metal(self):
        """60 ft of aluminum lines with a copper ground: by hand, its ground is copper."""
        facts = {"method": "PVC", "length_ft": 60, "line_size": "8", "line_material": "aluminium",
                 "egc": "wire", "egc_size": "10", "egc_material": "copper"}  # fmt: skip
        circuit = branch(segments=(Segment(**facts),))
        loop = study(place(circuits=(circuit,))).loops["c4"]
        none = study(place(circuits=(branch(method="PVC", length_ft=0.001),))).loops["c4"]
        ground = impedance_per_kft(Wire("10", "copper", "PVC"), 75.0, 60.0) * 0.06
        line = impedance_per_kft(Wire("8", "aluminium", "PVC"), 75.0, 60.0) * 0.06
        added = abs(loop.basis.low.ohm - none.basis.low.ohm)
        self.assertAlmostEqual(added, abs(ground + line), delta=0.001)

    def test_parallel_sets(self):
        """Two of 3/0 copper carry 400 A; one of 14 AWG stays at its small-conductor rule."""
        self.assertEqual(sizing.smallest_run(400, "copper", 75, 2023, 2).value, "3/0")
        self.assertEqual(sizing.smallest_run(400, "copper", 75, 2023, 1).value, "500")
        self.assertEqual(sizing.smallest_run(20, "copper", 60, 2023, 1).value, "12")
        self.assertEqual(sizing.device_allowed_sets("14", "copper", 60, 1), 15)
        self.assertEqual(sizing.device_allowed_sets("250", "copper", 75, 2), 600)

    def test_the_column_is_the_lower_of_cable_and_terminals(self):
        for method, terminals, column in (
            ("PVC", 60, 60), ("PVC", None, 75), ("PVC", 75, 75), ("NM", 75, 60), ("NM", None, 60),
        ):  # fmt: skip
            self.assertEqual(sizing.column_of(method, terminals), column)

    def test_wire_and_steel_come_home_to_where_each_lands(self):
        """A bar whose strap is open leaves the steel; a joint in it is in the wire's way alone."""
        amps = {}
        for way in ("wire", "raceway", "both"):
            size = None if way == "raceway" else "12"
            circuit = branch(method="EMT", raceway_size="1/2", egc=way, egc_size=size)
            for joint in ((), (("p1.strap", "open"),), (("p1.strap", 2.0),)):
                loop = study(joined(*joint, circuits=(circuit,))).loops["c4"]
                amps[way, joint[0][1] if joint else 0] = loop.lowest_a
        self.assertLess(amps["wire", "open"], 0.01)
        self.assertAlmostEqual(amps["raceway", "open"], amps["raceway", 0], delta=0.01)
        self.assertAlmostEqual(amps["both", "open"], amps["raceway", 0], delta=0.01)
        self.assertGreater(amps["both", 2.0], amps["raceway", 0] + 1)
        self.assertGreater(amps["both", 0], amps["both", 2.0] + 50)

    def test_an_arrays_ground_is_of_its_own_metal(self):
        made = {"strings": 2, "modules": 10, "isc_a": 10.0, "voc_v": 400.0, "length_ft": 50.0,
                "egc_size": "6", "frames": "bonded", "detector": "yes"}  # fmt: skip
        found = {}
        for metal in (None, "copper", "aluminium"):
            array = Array(id="a9", egc_material=metal, **made)
            (found[metal],) = study(place(arrays=(array,))).arrays
        self.assertEqual(found[None].frame_v, found["copper"].frame_v)
        # 0.808 and 0.491 ohms a thousand feet at 75 °C
        grown = found["aluminium"].frame_v / found["copper"].frame_v
        self.assertAlmostEqual(grown, 0.808 / 0.491, delta=0.08)

    def test_loads_lag_their_volts(self):
        """An inductive load: its ohms have a positive reactance, at every number of legs."""
        one = branch("c4", load_va=1200, power_factor=0.8)
        two = branch("c5", load_va=4800, power_factor=0.8, poles=2, space=3)
        assumed = assume(place(circuits=(one, two)))
        states = States(assumed, assumed.site.supplies[0])
        state = states.loaded[0].state
        branches = build(assumed.site, state).branches
        self.assertAlmostEqual(branches["c4.load"].ohm, 12 * complex(0.8, 0.6), delta=1e-6)
        self.assertAlmostEqual(branches["c5.load"].ohm, 12 * complex(0.8, 0.6), delta=1e-6)


class Words(unittest.TestCase):
    LIMIT = TimeLimit(0.8)

    def told(self, breaker, amps, **more):
        given = {"slow_s": 0.02, "return_ohm": 0.3, "other_metal": 0.0, "limit": self.LIMIT}
        return criteria(breaker, amps, **(given | more))

    def test_only_what_leans_on_the_assumed_curve_says_so(self):
        assumed, known = Breaker(20), Breaker(20, lo=5, hi=10)
        remarks = {
            amps: self.told(assumed, amps)["instantaneous"].remark for amps in (150, 300, 500)
        }
        self.assertEqual(remarks, {150: "", 300: "on the assumed curve", 500: ""})
        self.assertEqual(self.told(known, 300)["instantaneous"].remark, "")

    def test_what_is_needed_is_named(self):
        told = self.told(Breaker(20, lo=5, hi=10), 130)["instantaneous"]
        self.assertEqual(told.figures, "6.5 × of 10 × needed")
        for rating, remark in ((20, "lax: a guideline"), (30, "meaningless above 20 A")):
            one_ohm = self.told(Breaker(rating, lo=5, hi=10), 400)["one ohm"]
            self.assertEqual(one_ohm.remark, remark)

    def test_a_breaker_is_called_by_its_type(self):
        self.assertEqual(Breaker(16, kind="B").name, "16 A type B breaker")
        self.assertEqual(Breaker(20).name, "20 A breaker")

    def test_the_working_judges_an_assumed_curve_again(self):
        late = "If its magnetic trip only began at 20"
        for breaker, is_there in ((Breaker(20), True), (Breaker(20, lo=5, hi=10), False)):
            text = str(breaker.opens_working(300.0).as_dict())
            self.assertEqual(late in text, is_there)

    def test_heat_over_five_seconds_is_overstated_and_says_so(self):
        for feet, is_there in ((172, True), (164, False)):
            loop = study(house(f"20A 12/2 NM {feet}ft x")).loops["c2"]
            self.assertEqual(5 < loop.worst_heat.slow_s < 6, is_there)
            self.assertEqual("overstates" in str(loop.workings["heat"].as_dict()), is_there)

    def test_the_way_home_of_metal_is_called_by_what_ties_it(self):
        metals = study(example("pebblewick")).metals
        for at, part, label in (
            ("m16", "bond", "its bond"),
            ("e10", "gec", "electrode conductor"),
            ("m15", "", "no bond"),
        ):
            labels = {leg.label: leg.id for leg in metals[at].legs}
            self.assertEqual(labels.get(label), f"{at}.{part}" if part else "soil")

    def test_a_table_of_places_has_its_touch_volts(self):
        loop = study(house("20A 12/2 NM 85ft x")).loops["c2"]
        self.assertIn(" V</td>", loop.html_cells())


if __name__ == "__main__":
    unittest.main()
