"""Lines that once could be broken unseen: each has its figure here."""

import math
import unittest

from returnpath import sizing, tables
from returnpath.assume import assume
from returnpath.conductor import Wire, impedance_per_kft, open_wire_reactance_per_kft, withstand_i2t
from returnpath.device import Breaker, residual_device_slow_s
from returnpath.errors import BadInput
from returnpath.network import EARTH, Network, coupled
from returnpath.network.wiring import legs_of_circuits
from returnpath.site import Device, Electrode, Metal, Panel, Set, Supply, apply
from returnpath.study import Verdict, person, study
from returnpath.study.drop import run_drop
from returnpath.study.heat import OFFSET_UNDER_S
from returnpath.study.shock import c1_ma
from returnpath.study.sources import choose
from returnpath.study.verdict import TimeLimit, criteria, verdict_of

from .houses import house
from .test_network import SERVICE, feeder, load, place
from .test_says_it_clears import branch


class LongestRun(unittest.TestCase):
    def test_an_arc_takes_its_volts_from_the_longest_run_too(self):
        plain = study(house("20A 12/2 NM 85ft x")).loops["c2"]
        arced = study(house("20A 12/2 NM 85ft x", practice__arc_v=50)).loops["c2"]
        self.assertLess(arced.longest_run_ft, 0.7 * plain.longest_run_ft)
        edge = study(house("20A 12/2 NM 85ft x", practice__arc_v=50,
                           length_ft=round(arced.longest_run_ft - 0.1, 1))).loops["c2"]  # fmt: skip
        self.assertTrue(edge.deciding.met)
        self.assertAlmostEqual(edge.lowest_a, 200, delta=1)

    def test_a_joint_does_not_grow_with_the_run(self):
        from returnpath.site import Add

        site = apply(
            house("20A 12/2 NM 85ft x"), Add(to="joints", facts={"on": "c2.egc", "ohm": 0.1})
        )
        run = study(site).loops["c2"].longest_run_ft
        there = study(apply(site, Set(path="c2.length_ft", value=round(run, 1)))).loops["c2"]
        self.assertAlmostEqual(there.lowest_a, 200, delta=1)

    def test_the_unproved_curve_has_its_own(self):
        loop = study(house("20A 12/2 NM 85ft x", lo=None, hi=None)).loops["c2"]
        self.assertLess(loop.longest_run_unproved_ft, loop.longest_run_ft)
        feet = round(loop.longest_run_unproved_ft, 1)
        edge = study(house("20A 12/2 NM 85ft x", lo=None, hi=None, length_ft=feet)).loops["c2"]
        self.assertAlmostEqual(edge.lowest_a, 400, delta=2)
        known = study(house("20A 12/2 NM 85ft x")).loops["c2"]
        self.assertEqual(known.longest_run_unproved_ft, known.longest_run_ft)

    def test_a_limited_source_has_none_that_it_cannot_drive(self):
        inverter = Supply(id="u1", kind="inverter", kva=7.6, limit=20, bond="in")
        site = place(supplies=(inverter,), feeders=(), circuits=(branch(length_ft=20),))
        loop = study(site).loops["c4"]
        self.assertAlmostEqual(loop.highest_a, 20 * 7600 / 240, delta=1)
        self.assertGreater(loop.longest_run_ft, 50)
        weak = inverter.model_copy(update={"limit": 1.5})
        self.assertIsNone(study(place(supplies=(weak,), feeders=(), circuits=(
            branch(length_ft=20),))).loops["c4"].longest_run_ft)  # fmt: skip

    def test_each_criterion_has_its_own(self):
        runs = {
            name: study(house("20A 12/2 NM 85ft x", practice__clearing=name)).loops["c2"]
            for name in ("instantaneous", "five times", "timed", "one ohm")
        }
        for name, loop in runs.items():
            with self.subTest(name):
                feet = math.floor(loop.longest_run_ft)
                site = house("20A 12/2 NM 85ft x", practice__clearing=name, length_ft=feet)
                over = house("20A 12/2 NM 85ft x", practice__clearing=name, length_ft=feet + 2)
                at, past = (study(s).loops["c2"] for s in (site, over))
                self.assertTrue(at.deciding.met and at.heat_used <= 1)
                self.assertFalse(past.deciding.met and past.heat_used <= 1)


class OtherSums(unittest.TestCase):
    def test_a_hand_on_metal_with_and_without_loads(self):
        site = place(circuits=(load("c4", "p1", 2400, 1),))
        states = study(site).states[0]
        live = person(states, "p1.L1", "p1.N", loads=False)
        self.assertAlmostEqual(live.amps, 0.12, delta=0.001)
        self.assertAlmostEqual(live.volts, live.amps * 1000)
        with self.assertRaises(BadInput):
            person(states, "p1.nowhere")

    def test_the_drop_of_three_lines(self):
        wye = Supply(id="u1", system="120/208 wye", kva=75, percent_z=2.0, x_over_r=1.0)
        three = branch(poles=3, load_va=3600, length_ft=100, space=None)
        (drop,) = study(place(supplies=(wye,), circuits=(three,))).drops
        self.assertAlmostEqual(drop.amps, 3600 / (math.sqrt(3) * 207.846), places=3)
        self.assertAlmostEqual(drop.volts, drop.amps * math.sqrt(3) * 0.193, places=3)
        self.assertAlmostEqual(drop.share, drop.volts / 207.846, places=5)

    def test_a_reactance_alone_is_an_impedance(self):
        supply = Supply(id="u1", system="230", x1_ohm=0.3, fault_a=2000)
        sources = choose(assume(place(supplies=(supply,))), assume(
            place(supplies=(supply,))).site.supply)  # fmt: skip
        self.assertAlmostEqual(sources.lowest.z1, 0.3j)

    def test_a_joint_in_one_of_two_ways_and_the_longest_run(self):
        from returnpath.site import Add

        site = house("20A #12 EMT 1/2 ground 12 85ft shop")
        site = apply(site, Add(to="joints", facts={"on": "c2.egc", "ohm": 0.2}))
        run = study(site).loops["c2"].longest_run_ft
        there = study(apply(site, Set(path="c2.length_ft", value=round(run, 1)))).loops["c2"]
        self.assertAlmostEqual(there.lowest_a, 200, delta=1.5)
        cold = study(site).loops["c2"]
        self.assertGreater(cold.longest_run_ft, 100)


class Devices(unittest.TestCase):
    def test_slow_inside_the_band_whatever_the_thermal_time(self):
        # 6 × with a band of 5 to 10: a large breaker's thermal time is over a minute at 3 ×
        device = Breaker(400, 2, 10)
        self.assertGreater(device.slow_s(900), 60)
        self.assertIs(verdict_of(device, 900), Verdict.SLOW)
        self.assertIs(verdict_of(Breaker(400, 5, 10), 900), Verdict.SLOW)  # minutes, yet it trips

    def test_the_fast_edge_of_the_types(self):
        for kind, lo in (("B", 3), ("C", 5), ("D", 10)):
            device = Breaker(16, kind=kind)
            self.assertEqual(device.fast_s(16 * lo), 0.008)
            tau = 1 / math.log(2.55**2 / (2.55**2 - 1.13**2))
            for m in (1.5, 2.0, 2.9):
                if m < lo:
                    self.assertAlmostEqual(
                        device.fast_s(16 * m), -tau * math.log1p(-((1.13 / m) ** 2))
                    )
            self.assertTrue(math.isinf(device.fast_s(16 * 1.13)))

    def test_curve_c1_at_and_between_its_points(self):
        self.assertEqual((c1_ma(0.01), c1_ma(10.0)), (500, 40))
        self.assertGreater(c1_ma(0.1), c1_ma(0.5))
        with self.assertRaises(BadInput):
            c1_ma(-1)


class Conductors(unittest.TestCase):
    def test_metric_parallel_sets(self):
        one, two = (Wire("10mm2", method="PVC", sets=n) for n in (1, 2))
        self.assertAlmostEqual(impedance_per_kft(one, 70, 50) / 2, impedance_per_kft(two, 70, 50))
        self.assertAlmostEqual(withstand_i2t(two), 4 * withstand_i2t(one))
        self.assertAlmostEqual(withstand_i2t(one), (115 * 10) ** 2)

    def test_open_wire(self):
        wire = Wire("4", method="triplex")
        gmr = 0.78 * math.sqrt(41740) / 2000
        self.assertAlmostEqual(
            open_wire_reactance_per_kft(wire, 8), 0.0230 * math.log(8 / gmr), places=5
        )
        self.assertAlmostEqual(
            open_wire_reactance_per_kft(wire, 8, 50), 0.0230 * 50 / 60 * math.log(8 / gmr), places=5
        )

    def test_solid_and_stranded(self):
        self.assertTrue(Wire("10").is_solid)
        self.assertFalse(Wire("6").is_solid)
        self.assertFalse(Wire("10", method="EMT").is_solid)
        self.assertFalse(Wire("10", solid=False).is_solid)
        self.assertFalse(Wire("10", "aluminium").is_solid)


class Sizes(unittest.TestCase):
    def test_a_neutral_is_never_assumed_over_its_lines(self):
        site = place(services=(SERVICE.model_copy(update={
            "line_size": "6", "line_material": "copper", "neutral_size": None}),))  # fmt: skip
        filled = assume(site).site.service
        self.assertLessEqual(tables.area(filled.neutral_size), tables.area("6"))
        small = feeder(line_size="14", neutral_size=None, breaker=Device(rating_a=60))
        filled = assume(place(feeders=(small,))).site.feeders[0]
        self.assertEqual(filled.neutral_size, "14")

    def test_the_edition_decides_where_a_gec_goes_on(self):
        for edition, size in ((2014, "2/0"), (2017, "6")):
            found = sizing.smallest_gec("500", "copper", 2, "rod", goes_on_to=("plate",),
                                        edition=edition)  # fmt: skip
            with self.subTest(edition):
                self.assertEqual(found.value, size)
        on = sizing.smallest_gec("500", "copper", 2, "rod", goes_on_to=("concrete",), edition=2023)
        self.assertEqual(on.value, "4")

    def test_a_cables_ground_is_of_its_metal(self):
        for method, metal in (("SE", "aluminium"), ("NM", "aluminium"), ("PVC", "copper")):
            run = feeder(method=method, line_material="aluminium", line_size="2",
                         egc_material=None, egc_size=None)  # fmt: skip
            filled = assume(place(feeders=(run,))).site.feeders[0]
            with self.subTest(method):
                self.assertEqual(filled.egc_material, metal)

    def test_a_ring_caps_its_conductor(self):
        self.assertEqual(sizing.smallest_gec("500", "copper", 2, "ring", ring="1/0").value, "1/0")
        with self.assertRaises(BadInput):
            sizing.smallest_gec("500", "copper", 2, "ring", ring="4")


class Metals(unittest.TestCase):
    def test_a_repair_cuts_its_bond(self):
        pipe = Metal(id="m5", panel="p1", kind="water", material="metal", bonded="yes")
        circuit = branch(egc="none", joined_to=("m5",))
        whole = study(place(circuits=(circuit,), metals=(pipe,))).loops["c4"]
        cut = pipe.model_copy(update={"past_repair": "yes"})
        self.assertGreater(whole.lowest_a, 100)
        self.assertEqual(study(place(circuits=(circuit,), metals=(cut,))).loops["c4"].lowest_a, 0)

    def test_only_a_metal_pipe_brings_a_fault_home(self):
        for material, comes in (("metal", True), (None, True), ("plastic", False)):
            pipe = Metal(id="m5", panel="p1", kind="water", material=material, bonded="yes")
            site = place(circuits=(branch(egc="none", joined_to=("m5",)),), metals=(pipe,))
            with self.subTest(material):
                self.assertEqual(study(site).loops["c4"].lowest_a > 100, comes)


class Panels(unittest.TestCase):
    def test_a_loose_bond_is_its_ohms(self):
        panels = (Panel(id="p1", main=Device(rating_a=200), bond="in", bond_ohm=0.5),)
        site = place(panels=panels, feeders=(), circuits=(branch(),))
        tight = study(place(circuits=(branch(),))).loops["c4"]
        self.assertAlmostEqual(study(site).loops["c4"].loop_ohm - tight.loop_ohm, 0.5, delta=0.05)


def one_ohm(ohm: float, other_metal: float):
    """The one-ohm criterion of a 20 A breaker."""
    return criteria(Breaker(20), 300, 0.025, ohm, other_metal, TimeLimit(0.8))["one ohm"]


class Edges(unittest.TestCase):
    """Each figure at the line that decides, and just off it."""

    def test_a_magnetic_trip_at_its_own_edges(self):
        given = Breaker(20, hi=10)
        self.assertIs(verdict_of(given, 200), Verdict.AT_ONCE)
        self.assertIs(verdict_of(given, 199.9), Verdict.SLOW)
        assumed = Breaker(20)
        edge = 20 * assumed.unproved_hi
        self.assertIs(verdict_of(assumed, edge), Verdict.AT_ONCE)
        self.assertIs(verdict_of(assumed, edge - 0.01), Verdict.AT_ONCE_IF_ASSUMED)
        large = Breaker(400, 2, 10)
        self.assertGreater(large.slow_s(800), 60)
        self.assertIs(verdict_of(large, 800), Verdict.SLOW)
        self.assertIs(verdict_of(large, 799.9), Verdict.SLOW)

    def test_an_rcd_at_its_rated_current(self):
        self.assertTrue(math.isinf(residual_device_slow_s(0.029995, 30)))
        self.assertEqual(residual_device_slow_s(0.03, 30), 0.3)

    def test_one_ohm_with_and_without_other_metal(self):
        bar = one_ohm(0.0, 0.0)
        self.assertTrue(bar.met)
        self.assertNotIn("other metal", bar.remark)
        pipe = one_ohm(0.0, 0.25)
        self.assertFalse(pipe.met)
        self.assertIn("25 %", pipe.remark)

    def test_the_drop_of_a_lagging_load_by_hand(self):
        volts = run_drop(10, complex(0.2, 0.1), 0.8)
        self.assertAlmostEqual(volts, 10 * 2 * (0.2 * 0.8 + 0.1 * 0.6), places=9)

    def test_when_the_offset_of_a_short_fault_is_told(self):
        self.assertEqual(OFFSET_UNDER_S, 0.1)

    def test_parallel_sets_are_named(self):
        self.assertEqual(Wire("4/0", "aluminium", "PVC", sets=2).name, "2 × 4/0 AWG aluminum")
        self.assertEqual(Wire("12", "copper", "NM").name, "12 AWG copper")

    def test_a_ground_wire_as_large_as_its_lines_is_not_said_to_be_held_back(self):
        for needed, held in (("14", True), ("12", False)):
            found = sizing.smallest_egc(20, line="10", line_needed=needed)
            said = " ".join(step.text for step in found.steps())
            with self.subTest(needed):
                self.assertEqual(found.value, "10")
                self.assertEqual("never larger" in said, held)

    def test_currents_meet_at_every_node_to_the_last_leak(self):
        net = Network()
        net.couple(coupled("source", [("a", EARTH)], [1e5], 0j, 1e4))
        net.branch("one", "a", "b", 1e4)
        net.branch("two", "b", EARTH, 1e4)
        # 33 kV over a leak of 1e-9 S is 33 µA: counted the wrong way it would show.
        self.assertLess(net.factor().imbalance(), 1e-8)

    def test_one_pole_circuits_without_a_space_pass_over_the_high_leg(self):
        supply = Supply(id="u1", system="120/240 high-leg", kva=25, percent_z=1.7, x_over_r=1.6)
        some = tuple(branch(f"c{n}", space=None) for n in range(4, 9))
        legs = legs_of_circuits(place(supplies=(supply,), circuits=some, feeders=()))
        self.assertEqual([legs[f"c{n}"] for n in range(4, 9)], [(1,), (3,), (1,), (3,), (1,)])

    def test_a_service_without_a_bond_says_what_brings_a_fault_home(self):
        for lands, said in (("ground bar", "soil"), ("neutral bar", "no path back")):
            rod = Electrode(id="e1", kind="rod", ohm=25, lands=lands)
            panel = place().panels[0].model_copy(update={"bond": "out"})
            site = place(panels=(panel,), circuits=(branch(),), feeders=(), electrodes=(rod,))
            legs = study(site).loops["c4"].legs
            with self.subTest(lands):
                self.assertEqual(legs[-1].label, said)

    def test_a_row_of_the_table_shows_its_multiple_only_where_there_is_a_device(self):
        fault = study(house("20A 12/2 NM 85ft x")).loops["c2"]
        self.assertIn(" ×</td>", fault.html_cells())
        self.assertIn(" s</td>", fault.html_cells())
        unknown = study(
            apply(house("20A 12/2 NM 85ft x"), Set(path="c2.breaker.rating_a", value=None))
        ).loops["c2"]
        self.assertNotIn("×", unknown.html_cells())
