"""Lines that could be broken unseen: each figure or word of them once, by hand."""

import unittest

from returnpath import sizing
from returnpath.assume import assume
from returnpath.conductor import Wire, open_wire_reactance_per_kft
from returnpath.device import Breaker
from returnpath.network.soil import row_ohms
from returnpath.network.solver import EARTH, Network
from returnpath.site import Array, Electrode, Metal, Panel, Service
from returnpath.site.power import Device, Supply
from returnpath.study import study
from returnpath.study.array import _frame_ohm
from returnpath.study.basis import lowest_of
from returnpath.study.conductors import conductors_of
from returnpath.study.load import person
from returnpath.study.longest import LONGEST_FT, RunSeen
from returnpath.study.port import parallel
from returnpath.study.protection import _is_sooner
from returnpath.study.shock import body_working
from returnpath.study.states import States

from .houses import house
from .test_network import UTILITY, place
from .test_says_it_clears import branch


class Sizes(unittest.TestCase):
    def test_one_set_unless_said_and_half_of_two(self):
        self.assertEqual(sizing.main_bonding_jumper("4/0", "aluminium").value, "4")
        self.assertEqual(sizing.main_bonding_jumper("4/0", "aluminium", 2).value, "2")

    def test_a_jumper_of_another_metal_is_as_if_of_its_own(self):
        """1,000 kcmil copper carries 545 A, which no aluminum conductor does: the largest there is,
        4/0 by the table. 1,000 kcmil aluminum carries 445 A, as 700 kcmil copper does: 2/0."""
        self.assertEqual(sizing.main_bonding_jumper("1000", "copper", 1, "aluminium").value, "4/0")
        self.assertEqual(sizing.main_bonding_jumper("1000", "aluminium", 1, "copper").value, "2/0")

    def test_no_column_is_over_75_degrees(self):
        self.assertEqual(sizing.column_of(None, 90), 75)

    def test_a_motors_ground_is_that_of_a_175_percent_fuse(self):
        """34 A × 1.75 = 59.5, so 60 A: 10 AWG. 57 A × 1.75 = 99.75, so 100 A: 8 AWG."""
        self.assertEqual(sizing.motor_egc(34, "4").value, "10")
        self.assertEqual(sizing.motor_egc(57, "1").value, "8")

    def test_a_metric_wire_is_read_from_its_own_table(self):
        self.assertFalse(Wire("2.5mm2", "copper", "NM").is_solid)
        self.assertTrue(Wire("14", "copper", "NM").is_solid)


class Figures(unittest.TestCase):
    def test_a_branch_without_ohms_takes_everything(self):
        self.assertEqual(parallel((0, 5)), 0)
        self.assertEqual(parallel((3, 6)), 2)

    def test_of_two_rods_in_one_hole_neither_adds_more_than_the_other(self):
        """Two inches apart the mutual resistance would be nearly the rod's own: at most 98 %."""
        rods = ((20.0, 8.0, None, None), (30.0, 8.0, 0.01, 0))
        ((own, mutual), (back, other)) = row_ohms(500.0, rods)
        self.assertEqual((own, other), (20, 30))
        self.assertAlmostEqual(mutual, 0.98 * 20)
        self.assertEqual(mutual, back)

    def test_a_stated_current_is_of_the_fault_it_was_stated_for(self):
        """10 kA at 240 V between the lines through 2 %: a transformer of 48 kVA. To neutral the
        half winding's ohms count instead."""
        kva = {}
        for kind in ("line to line", "line to neutral"):
            supply = Supply(id="u1", fault_a=10_000.0, fault_kind=kind)
            done = study(place(supplies=(supply,), circuits=(branch(),)))
            kva[kind] = done.states[0].sources.highest.transformer.kva
        self.assertAlmostEqual(kva["line to line"], 48.0, delta=0.01)
        self.assertAlmostEqual(kva["line to neutral"], 32.26, delta=0.01)

    def test_a_run_that_would_clear_at_any_length_is_told_up_to_5000_ft(self):
        circuit = branch(line_size="4/0", egc_size="4/0", method="PVC", length_ft=10.0)
        loop = study(place(circuits=(circuit,), supplies=(
            UTILITY.model_copy(update={"kva": 500.0}),))).loops["c4"]  # fmt: skip
        self.assertEqual(LONGEST_FT, 5000)
        self.assertLessEqual(loop.longest_run_ft, 5000)

    def test_a_device_is_the_sooner_only_where_it_is_so_at_every_current(self):
        def is_sooner(one: float, share: float, other: float, its: float, hi: float | None = None):
            first = Breaker(one, None, None if hi is None else 10.0)
            return _is_sooner((first, share), (Breaker(other, None, hi), its))

        self.assertTrue(is_sooner(20, 1.0, 30, 1.0))
        self.assertFalse(is_sooner(30, 1.0, 20, 1.0))
        # it sees half of the fault: as slow as one of twice its rating
        self.assertFalse(is_sooner(20, 0.5, 30, 1.0))
        self.assertTrue(is_sooner(20, 1.0, 20, 0.5))
        self.assertFalse(is_sooner(20, 0.5, 20, 1.0))
        # 20 A × 10 = 200 A is not sooner than 30 A × 6 = 180 A in the magnetic band
        self.assertFalse(is_sooner(20, 1.0, 30, 1.0, 6.0))
        self.assertTrue(is_sooner(20, 1.0, 30, 1.0, 7.0))

    def test_a_supply_whose_plate_nobody_read_says_so(self):
        cases = (
            ({"system": "230"}, True),
            ({"system": "230", "r1_ohm": 0.1, "x1_ohm": 0.1}, False),
            ({"system": "120/208 wye", "fault_a": 9000.0}, True),
        )
        for facts, expected in cases:
            done = study(place(supplies=(Supply(id="u1", **facts),), circuits=(branch(),)))
            self.assertIs(done.states[0].sources.plate_assumed, expected, facts)

    def test_nothing_flows_through_who_touches_what_is_dead(self):
        assumed = assume(place(circuits=(branch(),)))
        states = States(assumed, assumed.site.supplies[0])
        self.assertEqual(person(states, "p1.ground", "p1.ground").amps, 0.0)

    def test_a_return_by_two_ways_with_a_joint_is_no_straight_line(self):
        one, two = (0.001 + 0j, 0.0), (0.002 + 0j, 0.0)
        for home, linear in (((one,), True), ((one, two), True), ((one, (0.002 + 0j, 0.5)), False)):
            self.assertIs(RunSeen(120.0, 0j, (0.001 + 0j, 0.0), home).is_linear, linear)

    def test_a_structures_bond_is_of_the_edition(self):
        old, new = (
            sizing.structure_bond("1000", "copper", 3, "copper", y).value for y in (2017, 2020)
        )
        self.assertNotEqual(old, new)
        self.assertEqual(sizing.structure_bond("1000", "copper", 3).value, new)

    def test_a_broken_branch_carries_nothing(self):
        done = study(place(circuits=(branch(load_va=1200),)))
        (lost,) = done.lost_neutrals[:1]
        self.assertEqual(lost.currents[lost.lost], 0.0)

    def test_what_does_not_add_up_is_seen(self):
        """Kirchhoff at every node; a volt too much at one of them is found there."""
        assumed = assume(place(circuits=(branch(load_va=1200),)))
        states = States(assumed, assumed.site.supplies[0])
        solution = states.loaded[0].solution
        self.assertLess(solution.imbalance(), 1e-6)
        wrong = solution.before.copy()
        wrong[0] += 1.0
        self.assertGreater(solution.imbalance(wrong), 0.1)

    def test_what_the_arc_takes_leaves_nothing_and_never_less(self):
        self.assertEqual(lowest_of(40, 1, 50), 0.0)
        self.assertAlmostEqual(lowest_of(120, 1, 0), 114.0)

    def test_the_soil_between_two_rods_is_in_the_arrays_loop(self):
        """The bond out, the array's current goes home through the soil: two rods a stride apart
        share it and are the worse for it."""
        made = {"strings": 2, "modules": 10, "isc_a": 10.0, "voc_v": 400.0, "length_ft": 50.0,
                "egc_size": "6", "frames": "bonded", "detector": "yes"}  # fmt: skip
        ohms = []
        for apart in (None, 2.0):
            one = Electrode(id="e1", kind="rod", panel="p1", lands="ground bar", length_ft=8)
            near = {"near": "e1", "spacing_ft": apart} if apart else {}
            site = place(
                arrays=(Array(id="a9", **made),), feeders=(),
                electrodes=(one, one.model_copy(update={"id": "e2", **near})),
                panels=(Panel(id="p1", main=Device(rating_a=200), bond="out"),),
            )  # fmt: skip
            assumed = assume(site)
            states = States(assumed, assumed.site.supplies[0])
            ohms.append(_frame_ohm(assumed, states, assumed.site.arrays[0]))
        self.assertAlmostEqual(ohms[0], 24.98, delta=0.01)
        self.assertAlmostEqual(ohms[1], 31.16, delta=0.01)

    def test_rods_of_one_row_stand_six_feet_apart_unless_said(self):
        """Three in a row, the third next to the first: the second is 6 ft from it by custom."""
        rods = ((20.0, 8.0, None, None), (20.0, 8.0, None, None))
        six = ((20.0, 8.0, None, None), (20.0, 8.0, 6.0, 0))
        self.assertAlmostEqual(row_ohms(500.0, rods)[0][1], row_ohms(500.0, six)[0][1])

    def test_solid_wire_has_its_own_column(self):
        """10 AWG copper, Table 8 at 75 °C: 1.21 ohms a thousand feet solid, 1.24 stranded."""
        lows = {}
        for solid in ("yes", "no"):
            circuit = branch(line_size="10", egc_size="10", solid=solid, length_ft=400.0)
            lows[solid] = study(place(circuits=(circuit,))).loops["c4"].lowest_a
        self.assertGreater(lows["yes"], lows["no"] * 1.01)

    def test_beyond_a_kilometre_two_rods_are_a_kilometre_apart(self):
        far = [row_ohms(500.0, ((20.0, 8.0, None, None), (20.0, 8.0, feet, 0)))[0][1]
               for feet in (3280.84, 5000.0, 3000.0)]  # fmt: skip
        self.assertAlmostEqual(far[0], far[1], delta=1e-9)
        self.assertGreater(far[2].real, far[0].real)

    def test_a_metric_supply_of_a_stated_current_alone_lacks_its_impedance(self):
        for facts, fact in (({"system": "230", "fault_a": 9000.0}, "u1.r1_ohm"),
                            ({"fault_a": 900.0}, "u1.kva")):  # fmt: skip
            done = study(place(supplies=(Supply(id="u1", **facts),), circuits=(branch(),)))
            lacks = [str(p) for p in done.loops["c4"].lacks]
            self.assertIn(fact, lacks)


class SeveralSources(unittest.TestCase):
    def site(self, **second):
        generator = Supply(id="u2", kind="generator", kva=10.0, breaker=Device(rating_a=40.0))
        run = Service(id="s2", supply="u2", to="p1", length_ft=25.0, neutral_size="8",
                      egc_size="10", **({"line_size": "8"} | second))  # fmt: skip
        base = place(circuits=(branch(),))
        return base.model_copy(update={
            "supplies": (*base.supplies, generator), "services": (*base.services, run),
            "last_id": 30,
        })  # fmt: skip

    def test_each_place_is_judged_once_with_each_source_that_reaches_it(self):
        done = study(self.site())
        judged = [s.supply.id for s, at in done.judged_at if at.id == "c4"]
        self.assertEqual(judged, ["u1", "u2"])

    def test_a_place_that_no_source_reaches_is_judged_once(self):
        lone = Panel(id="p9", kind="sub", bond="out")
        base = self.site()
        site = base.model_copy(update={
            "panels": (*base.panels, lone), "circuits": (branch("c4"), branch("c5", panel="p9")),
        })  # fmt: skip
        judged = [(s.supply.id, at.id) for s, at in study(site).judged_at]
        self.assertEqual([j for j in judged if j[1] == "c5"], [("u1", "c5")])

    def test_a_run_is_lacked_only_by_its_own_source(self):
        """A first panel marked as a sub-panel has no main to take the run's size from."""
        sub = Panel(id="p1", kind="sub", bond="in")
        base = self.site(line_size=None)
        runs = (base.services[0].model_copy(update={"line_size": None}), base.services[1])
        panels = (sub, *base.panels[1:])
        site = base.model_copy(update={"panels": panels, "services": runs})
        first, second = (f.lacks for f in study(site).cases if f.place == "c4")
        self.assertEqual([str(p) for p in first], ["s1.line_size"])
        self.assertEqual([str(p) for p in second], ["s2.line_size"])

    def test_a_source_is_called_what_it_is(self):
        words = [f.legs[0].label for f in study(self.site()).cases if f.place == "c4"]
        self.assertEqual(words, ["transformer", "generator"])


class Words(unittest.TestCase):
    def test_one_set_is_not_counted(self):
        (step,) = sizing.main_bonding_jumper("4/0", "aluminium").steps()
        self.assertTrue(step.text.startswith("Service of 4/0 aluminum"), step.text)
        (step,) = sizing.main_bonding_jumper("4/0", "aluminium", 2).steps()
        self.assertTrue(step.text.startswith("Service of 2 × 4/0 aluminum"), step.text)

    def test_a_leg_names_only_what_is_there(self):
        (home,) = [x for x in study(house("20A 12/2 NM 85ft den")).loops["c2"].legs
                   if x.id.part == "return"]  # fmt: skip
        self.assertEqual([(str(b), words) for b, words, _ in home.branches], [("c2.egc", "EGC")])

    def test_a_table_of_places_says_what_is_known(self):
        row = study(house("20A 12/2 NM 85ft den")).loops["c2"].html_cells()
        self.assertRegex(row, r"\d A</td>")
        lacking = study(house("20A 12/2 NM 85ft den").model_copy(update={"supplies": (
            Supply(id="u1", fault_a=900.0),)})).loops["c2"]  # fmt: skip
        self.assertIsNone(lacking.lowest_a)
        self.assertNotIn(" A</td>", lacking.html_cells())

    def test_what_to_enter_where_the_stated_current_is_too_small_to_serve(self):
        done = study(place(supplies=(Supply(id="u1", fault_a=900.0),), circuits=(branch(),)))
        self.assertIn("enter the transformer's kVA", done.states[0].sources.why_not)

    def test_how_long_a_body_current_lasts(self):
        said = [body_working(120, 1000, t, False).steps()[0].text for t in (float("inf"), 0.2)]
        self.assertTrue(said[0].endswith("for as long as it lasts"))
        self.assertTrue(said[1].endswith("for 0.2 s"))

    def test_a_structures_bond_is_called_so(self):
        steel = Metal(id="m7", kind="structure", bonded="yes", bond_size="4", panel="p1")
        site = assume(place(metals=(steel,))).site
        labels = {str(c.branch): c.label for c in conductors_of(site)}
        self.assertEqual(labels["m7.bond"], "structure bond")

    def test_heat_at_the_insulations_limit_is_that_of_the_curve_in_force(self):
        """At once from 10 ×, only delayed if from 20 ×: 0.025 s of it, not the seconds."""
        loop = study(house("40A 14/2 NM 30ft den", c2__egc_size="14", lo=None, hi=None)).loops["c2"]
        self.assertGreater(loop.heat_used_unproved, 10 * loop.heat_used)
        self.assertAlmostEqual(loop.heat_hot / loop.heat_used, 1, delta=0.2)

    def test_milliamperes_are_thousandths(self):
        self.assertEqual(body_working(120, 1000, 0.2, False).value, 120.0)

    def test_without_a_cable_or_a_marking_the_column_is_75(self):
        self.assertEqual(sizing.column_of(None, None), 75)
        self.assertEqual(sizing.column_of("EMT", None), 75)

    def test_wires_that_touch_have_no_reactance_between_them(self):
        self.assertEqual(open_wire_reactance_per_kft(Wire("500"), 0.1), 0.0)
        self.assertEqual(open_wire_reactance_per_kft(Wire("500"), 0.3) > 0, True)


class Nodes(unittest.TestCase):
    """A ladder of 140 nodes, more than are solved at once: 1 Ω from each to the next, 50 Ω from
    the first to remote earth."""

    def solution(self):
        network = Network()
        network.branch("b0", EARTH, "n0", 50)
        for n in range(140):
            network.branch(f"b{n + 1}", f"n{n}", f"n{n + 1}", 1)
        return network.factor()

    def test_one_ampere_into_a_far_node_of_a_large_network(self):
        """It comes home over the ladder and the 50 Ω."""
        solved = self.solution()
        self.assertIsNone(solved.every)
        volts = solved.unit("n100")
        self.assertAlmostEqual(solved.at("n100", volts).real, 150, delta=0.01)
        self.assertAlmostEqual(solved.at("n0", volts).real, 50, delta=0.01)
        self.assertIsNone(solved.every)

    def test_from_earth_to_a_node_is_the_way_back(self):
        solved = self.solution()
        there, back = solved.column("n3", EARTH), solved.column(EARTH, "n3")
        self.assertAlmostEqual(solved.at("n3", there).real, 53, delta=0.01)
        self.assertAlmostEqual(solved.at("n3", back).real, -53, delta=0.01)
