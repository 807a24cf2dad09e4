"""Parts of the core on their own: rank-one changes, joints, legs, what an answer rests on."""

import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from returnpath import conductor, tables
from returnpath.assume import assume, electrode_ohm
from returnpath.conductor import Wire
from returnpath.device import Breaker, residual_device_slow_s
from returnpath.network import EARTH, State, build
from returnpath.network.wiring import legs_of_circuits, shared_owners
from returnpath.site import (
    Array,
    Circuit,
    Device,
    Electrode,
    Joint,
    Metal,
    Panel,
    Service,
    Set,
    Supply,
    apply,
)
from returnpath.study import Verdict, study
from returnpath.supply import Transformer, from_available_current, typical
from returnpath.vocabulary import System

from .test_network import SERVICE, UTILITY, feeder, load, place

BRANCH = {
    "neutral": "yes",
    "method": "NM",
    "line_size": "12",
    "line_material": "copper",
    "egc": "wire",
    "egc_size": "12",
    "egc_material": "copper",
}


def branch(id_, panel="p1", feet=50, **facts):
    """A 20 A branch circuit."""
    device = Device(rating_a=20, lo=5, hi=10)
    made = {"breaker": device, "length_ft": feet} | BRANCH | facts
    return Circuit(id=id_, panel=panel, **made)


class RankOne(unittest.TestCase):
    """A branch taken out or put in gives what a new network would."""

    def solved(self, site):
        done = study(site)
        return done.states[0].loaded[0]

    def test_a_branch_taken_out(self):
        site = place(circuits=(load("c4", "p2", 1800, 1), load("c5", "p2", 600, 3)))
        solved = self.solved(site)
        for lost in ("s1.neutral", "f3.neutral", "f3.egc"):
            joint = Joint(id="j9", on=lost, open="yes")
            rebuilt = self.solved(site.model_copy(update={"joints": (joint,)}))
            quick = solved.solution.opened(lost)
            for node in ("p1.N", "p2.N", "p2.case", "p2.L1", "c4.L1"):
                a = solved.solution.at(node, quick)
                b = rebuilt.solution.at(node)
                with self.subTest(lost, node=node):
                    self.assertAlmostEqual(abs(a - b), 0, delta=2e-3)

    def test_a_branch_put_in(self):
        site = place(circuits=(load("c4", "p2", 1800, 1),))
        solved = self.solved(site)
        volts, amps = solved.solution.with_branch("p2.L1", EARTH, 1000)
        net = build(assume(site).site, solved.state)
        net.branch("person", "p2.L1", EARTH, 1000)
        plain = net.factor()
        self.assertAlmostEqual(abs(amps - plain.current("person")), 0, delta=1e-6)
        for node in ("p1.N", "p2.case"):
            self.assertAlmostEqual(
                abs(plain.at(node) - solved.solution.at(node, volts)), 0, delta=1e-6
            )


class Joints(unittest.TestCase):
    def test_ohms_add_to_the_loop_wherever_they_are(self):
        site = place(circuits=(branch("c4", "p2"),))
        before = study(site).loops["c4"].loop_ohm
        for on in ("s1.line1", "s1.neutral", "f3.line1", "f3.egc", "p1.bond", "c4.line1", "c4.egc"):
            loose = site.model_copy(update={"joints": (Joint(id="j9", on=on, ohm=1.0),)})
            after = study(loose).loops["c4"].loop_ohm
            with self.subTest(on):
                self.assertAlmostEqual(after - before, 1.0, delta=0.06)

    def test_a_loose_bond_heats_and_slows(self):
        panel = Panel(id="p1", main=Device(rating_a=200), bond="in", bond_ohm=0.5)
        site = place(panels=(panel, place().panels[1]), circuits=(branch("c4"),))
        self.assertIs(study(site).loops["c4"].verdict, Verdict.SLOW)


class Legs(unittest.TestCase):
    def ids(self, site, circuit="c4"):
        return [leg.id for leg in study(site).loops[circuit].legs]

    def test_through_a_feeder(self):
        site = place(circuits=(branch("c4", "p2"),))
        self.assertEqual(
            self.ids(site),
            ["u1", "s1.line", "f3.line", "c4.line", "c4.return", "f3.return", "p1.bond",
             "s1.neutral"],
        )  # fmt: skip
        shares = [leg.share for leg in study(site).loops["c4"].legs]
        self.assertAlmostEqual(sum(shares), 1, places=6)

    def test_through_a_bond_and_neutral_where_there_is_no_ground_wire(self):
        panels = (place().panels[0], Panel(id="p2", kind="sub", bond="in"))
        site = place(panels=panels, feeders=(feeder(egc="none"),), circuits=(branch("c4", "p2"),))
        self.assertEqual(self.ids(site)[4:], ["c4.return", "p2.bond", "f3.neutral", "s1.neutral"])

    def test_through_the_soil(self):
        rods = Electrode(id="e2", panel="p2", ohm=16, lands="ground bar")
        site = place(
            feeders=(feeder(egc="none"),),
            electrodes=(*place().electrodes, rods),
            circuits=(branch("c4", "p2"),),
        )
        loop = study(site).loops["c4"]
        self.assertEqual(loop.legs[-1].id, "soil")
        self.assertGreater(loop.legs[-1].share, 0.95)
        self.assertAlmostEqual(loop.currents["e2.gec"], loop.lowest_a, delta=0.05)

    def test_the_second_line_is_the_same_loop_mirrored(self):
        first = study(place(circuits=(branch("c4", space=1),))).loops["c4"]
        second = study(place(circuits=(branch("c4", space=3),))).loops["c4"]
        self.assertAlmostEqual(first.lowest_a, second.lowest_a, places=3)
        self.assertAlmostEqual(sum(leg.share for leg in second.legs), 1, places=6)

    def test_what_an_answer_rests_on(self):
        site = place(circuits=(branch("c4", "p2"),))
        vague = apply(site, Set(path="f3.length_ft", value=None))
        vague = apply(vague, Set(path="c4.length_ft", value=None))
        vague = apply(vague, Set(path="u1.percent_z", value=None))
        paths = [a.path for a in study(vague).loops["c4"].rests_on]
        self.assertEqual(paths[:2], ["c4.length_ft", "f3.length_ft"])
        self.assertIn("u1.percent_z", paths)
        self.assertEqual(study(site).loops["c4"].rests_on, ())

    def test_every_working_is_written_out(self):
        site = place(circuits=(branch("c4", "p2"),))
        for name, made in study(site).loops["c4"].workings.items():
            with self.subTest(name):
                self.assertTrue(all(s.text for s in made.steps()))
                self.assertEqual(made.as_dict()["unit"], made.unit)


class MeasuredReturns(unittest.TestCase):
    def test_a_measured_return_replaces_the_estimate(self):
        emt = branch("c4", method="EMT", egc="raceway", raceway_size="1/2")
        before = study(place(circuits=(emt,))).loops["c4"]
        worn = emt.model_copy(update={"return_ohm": 1.5})
        after = study(place(circuits=(worn,))).loops["c4"]
        self.assertIs(before.verdict, Verdict.AT_ONCE)
        self.assertGreater(after.loop_ohm, 1.5)
        self.assertIs(after.verdict, Verdict.SLOW)

    def test_armour_counts_only_with_a_figure(self):
        armour = branch("c4", egc="none", relied_on="AC cable armour")
        unmeasured = study(place(circuits=(armour,))).loops["c4"]
        self.assertIs(unmeasured.verdict, Verdict.NOT_KNOWN)
        self.assertEqual(unmeasured.lacks, ("c4.return_ohm",))
        measured = armour.model_copy(update={"return_ohm": 0.1})
        found = study(place(circuits=(measured,))).loops["c4"]
        self.assertIs(found.verdict, Verdict.AT_ONCE)
        self.assertEqual(found.currents["c4.raceway"], found.lowest_a)


class Lines(unittest.TestCase):
    def test_spaces_take_turns(self):
        circuits = tuple(branch(f"c{n}", space=n) for n in (1, 2, 3, 4, 5))
        legs = legs_of_circuits(assume(place(circuits=circuits)).site)
        self.assertEqual([legs[f"c{n}"] for n in (1, 2, 3, 4, 5)], [(1,), (1,), (2,), (2,), (1,)])

    def test_without_spaces_they_alternate_and_two_poles_take_both(self):
        circuits = (branch("c4"), branch("c5"), branch("c6", poles=2), branch("c7"))
        legs = legs_of_circuits(assume(place(circuits=circuits)).site)
        self.assertEqual([legs[c] for c in ("c4", "c5", "c6", "c7")], [(1,), (2,), (1, 2), (1,)])

    def test_three_lines(self):
        supply = UTILITY.model_copy(update={"system": System.WYE, "kva": None, "r1_ohm": 0.05})
        circuits = tuple(branch(f"c{n}", space=n) for n in (1, 3, 5, 7))
        site = place(supplies=(supply,), circuits=circuits, feeders=())
        legs = legs_of_circuits(assume(site).site)
        self.assertEqual([legs[f"c{n}"] for n in (1, 3, 5, 7)], [(1,), (2,), (3,), (1,)])

    def test_the_earlier_of_a_pair_owns_the_neutral(self):
        pair = (branch("c4", shares_with="c5"), branch("c5"))
        self.assertEqual(shared_owners(place(circuits=pair)), {"c5": "c4"})

    def test_balanced_halves_leave_the_neutral_idle(self):
        pair = (
            branch("c4", space=1, load_va=1200),
            branch("c5", space=3, load_va=1200, shares_with="c4"),
        )
        amps = study(place(circuits=pair)).loads["u1"].currents["c4.neutral"]
        self.assertLess(amps, 0.1)
        same = (pair[0], pair[1].model_copy(update={"space": 5}))
        amps = study(place(circuits=same)).loads["u1"].currents["c4.neutral"]
        self.assertAlmostEqual(amps, 19, delta=1.5)


class Sources(unittest.TestCase):
    def test_typical_plates(self):
        self.assertEqual(typical(25), (1.7, 1.1))
        self.assertEqual(typical(30), (1.7, 1.1))
        self.assertEqual(typical(500), (2.2, 2.5))

    @settings(max_examples=50, deadline=None)
    @given(
        st.floats(100, 50_000), st.sampled_from(["line to line", "line to neutral"]),
        st.floats(0.1, 10),
    )  # fmt: skip
    def test_a_stated_current_comes_back(self, amps, kind, x_over_r):
        made = from_available_current(amps, kind, x_over_r)
        back = made.line_to_line_a if kind == "line to line" else made.line_to_neutral_a
        self.assertAlmostEqual(back / amps, 1, places=6)

    def test_a_weak_primary_lowers_it(self):
        stiff, weak = Transformer(25, 1.7, 1.6), Transformer(25, 1.7, 1.6, primary_mva=2)
        self.assertLess(weak.line_to_neutral_a, stiff.line_to_neutral_a)

    def test_open_wire_spacing_adds_reactance(self):
        near = study(place(circuits=(branch("c4"),))).loops["c4"].loop_ohm
        wide = SERVICE.model_copy(update={"spacing_in": 12})
        far = study(place(services=(wide,), circuits=(branch("c4"),))).loops["c4"]
        self.assertGreater(far.loop_ohm, near)
        one = conductor.open_wire_reactance_per_kft(Wire("4/0", "aluminium", "triplex"), 12)
        self.assertAlmostEqual(one, 0.0230 * math.log(12 / (0.78 * math.sqrt(211_600) / 2000)))

    def test_a_generators_breaker_is_in_the_path(self):
        def slow(**facts):
            unit = Supply(id="u2", kind="generator", kva=25, percent_z=10, bond="out", **facts)
            run = Service(
                id="s2", supply="u2", to="p1", length_ft=20, line_size="4",
                line_material="copper", neutral_size="4",
            )  # fmt: skip
            site = place(supplies=(UTILITY, unit), services=(SERVICE, run), feeders=())
            faults = study(site).faults
            return next(f for f in faults if f.place == "p1" and f.state == "u2").slow_s

        quick = Device(rating_a=60, lo=4, hi=6)
        self.assertLess(slow(breaker=quick), slow())

    def test_a_switched_neutral_parts_the_sources(self):
        def egc_amps(switched):
            unit = Supply(id="u2", kind="generator", kva=25, bond="in", neutral_switched=switched)
            run = Service(
                id="s2", supply="u2", to="p1", length_ft=20, line_size="4",
                line_material="copper", neutral_size="4", egc_size="8",
            )  # fmt: skip
            site = place(
                supplies=(UTILITY, unit), services=(SERVICE, run), feeders=(),
                circuits=(load("c4", "p1", 2400, 1),),
            )  # fmt: skip
            return study(site).loads["u1"].currents["s2.egc"]

        self.assertLess(egc_amps("yes"), 1e-6)


class MetalAndElectrodes(unittest.TestCase):
    def test_plastic_carries_nothing(self):
        loads = (load("c4", "p1", 1200, 1), load("c5", "p1", 3600, 3))

        def amps(material):
            pipe = Metal(
                id="m6", panel="p1", kind="water", material=material, bonded="yes",
                shared_main="yes",
            )  # fmt: skip
            site = place(circuits=loads, feeders=(), metals=(pipe,))
            return study(site).open_neutrals["u1"].currents.get("m6.main", 0.0)

        self.assertGreater(amps("metal"), 10)
        self.assertEqual(amps("plastic"), 0)

    def test_metal_within_reach(self):
        pipe = Metal(id="m6", panel="p1", kind="water", material="metal", bonded="yes")
        loose = pipe.model_copy(update={"bonded": "no", "earth_ohm": 5.0})
        circuit = branch("c4", reach=("m6",))
        bonded = study(place(circuits=(circuit,), metals=(pipe,))).loops["c4"]
        apart = study(place(circuits=(circuit,), metals=(loose,))).loops["c4"]
        self.assertAlmostEqual(bonded.touch_reach_v["m6"], bonded.touch_bar_v, delta=0.01)
        self.assertGreater(apart.touch_reach_v["m6"], bonded.touch_reach_v["m6"])

    def test_a_metal_way_between_buildings_shares_the_fault(self):
        pipe = Metal(
            id="m6", panel="p1", kind="water", material="metal", bonded="yes", also_joins="p2",
            join_ohm=0.05,
        )  # fmt: skip
        without = study(place(circuits=(branch("c4", "p2"),))).loops["c4"]
        beside = study(place(circuits=(branch("c4", "p2"),), metals=(pipe,))).loops["c4"]
        self.assertGreater(beside.lowest_a, without.lowest_a)
        self.assertGreater(beside.currents["m6.join"], 10)

    def test_ohms_from_kind_and_soil(self):
        rod = Electrode(id="e1", kind="rod")
        self.assertAlmostEqual(electrode_ohm(rod, 100), 39.9, delta=0.1)
        self.assertAlmostEqual(electrode_ohm(rod, 200), 79.8, delta=0.2)
        self.assertIsNone(electrode_ohm(Electrode(id="e1", kind="water"), 100))
        pipe = Electrode(id="e1", kind="water", length_ft=40, diameter_in=1)
        self.assertLess(electrode_ohm(pipe, 100), 30)

    def test_an_electrode_that_is_not_joined_does_nothing(self):
        apart = Electrode(id="e1", kind="rod", joined="no")
        site = place(circuits=(load("c4", "p1", 2400, 1),), feeders=(), electrodes=(apart,))
        self.assertNotIn("e1.gec", study(site).loads["u1"].currents)


class Arrays(unittest.TestCase):
    def one(self, **facts):
        inverter = branch("c4", line_size="8", egc_size="10", load_va=0)
        made = {
            "circuit": "c4", "strings": 2, "modules": 10, "isc_a": 10.0, "voc_v": 400.0,
            "length_ft": 50.0, "egc_size": "6", "frames": "bonded", "detector": "yes",
        } | facts  # fmt: skip
        array = Array(id="a9", **made)
        (found,) = study(place(circuits=(inverter,), arrays=(array,))).arrays
        return found

    def test_the_array_limits_its_own_fault(self):
        found = self.one(device_a=20)
        self.assertEqual(found.fault_a, 25)
        ohms = 0.491 * 0.05 + 1.21 * 0.05
        self.assertAlmostEqual(found.frame_v, 25 * ohms, delta=0.1)
        self.assertFalse(found.device_opens)
        self.assertIn("detector", found.cleared_by)

    def test_every_way_home_shares_it(self):
        alone = self.one()
        inverter = branch("c4", method="EMT", egc="both", raceway_size="3/4", load_va=0)
        array = Array(id="a9", circuit="c4", strings=2, modules=10, isc_a=10.0, voc_v=400.0,
                      length_ft=50.0, egc_size="6", frames="bonded", detector="yes")  # fmt: skip
        (beside,) = study(place(circuits=(inverter,), arrays=(array,))).arrays
        self.assertLess(beside.frame_v, alone.frame_v)

    def test_an_open_ground_on_the_way_is_no_way_home(self):
        inverter = branch("c4", line_size="8", egc="none", load_va=0)
        array = Array(id="a9", circuit="c4", strings=2, modules=10, isc_a=10.0, voc_v=400.0,
                      length_ft=50.0, egc_size="6", frames="bonded", detector="yes")  # fmt: skip
        (found,) = study(place(circuits=(inverter,), arrays=(array,))).arrays
        self.assertIsNone(found.egc_ohm)
        self.assertEqual(found.frame_v, 400)

    def test_bare_frames_float_at_the_strings_volts(self):
        found = self.one(frames="none", detector="no")
        self.assertEqual(found.frame_v, 400)
        self.assertAlmostEqual(found.body_a, 0.4)
        self.assertIn("while the sun shines", found.cleared_by)

    def test_its_ground_wire_by_isc_where_there_is_no_device(self):
        self.assertAlmostEqual(self.one().egc_for_a, 31.2)
        self.assertEqual(self.one(device_a=15).egc_for_a, 15)


class OtherDevices(unittest.TestCase):
    def test_types_b_c_d(self):
        for kind, lo, hi in (("B", 3, 5), ("C", 5, 10), ("D", 10, 20)):
            device = Breaker(16, kind=kind)
            with self.subTest(kind):
                self.assertEqual((device.band_lo, device.band_hi), (lo, hi))
                self.assertEqual(device.slow_s(16 * hi), 0.1)
                self.assertGreater(device.slow_s(16 * hi * 0.99), 0.1)
                self.assertFalse(device.is_assumed)
                self.assertTrue(math.isinf(device.slow_s(16 * 1.44)))
                self.assertAlmostEqual(device.slow_s(16 * 1.45), 3600, delta=1)

    def test_residual_devices(self):
        self.assertTrue(math.isinf(residual_device_slow_s(0.029, 30)))
        self.assertEqual(residual_device_slow_s(0.03, 30), 0.3)
        self.assertEqual(residual_device_slow_s(0.06, 30), 0.15)
        self.assertEqual(residual_device_slow_s(5, 30), 0.04)
        self.assertEqual(residual_device_slow_s(5, 300, delayed=True), 0.15)

    def test_metric_wires(self):
        hot = conductor.impedance(Wire("2.5mm2"), 1000 / 0.3048, 70, 50)
        self.assertAlmostEqual(hot.real, 7.41 * (1 + 0.00393 * 50), places=3)
        self.assertAlmostEqual(hot.imag, 0.10, places=6)
        self.assertAlmostEqual(conductor.withstand_i2t(Wire("2.5mm2")), (115 * 2.5) ** 2)
        thermoset = Wire("2.5mm2", insulation="thermoset")
        self.assertAlmostEqual(conductor.withstand_i2t(thermoset), (143 * 2.5) ** 2)
        self.assertEqual(tables.size_name("2.5mm2"), "2.5 mm²")

    def test_state_carries_what_drives_it(self):
        done = study(place(circuits=(branch("c4"),)))
        states = done.states[0]
        self.assertEqual([s.state.earth_ohm for s in states.hot], [5])
        self.assertEqual(states.hot[0].state.temperature_c, 75)
        self.assertEqual(states.spine.cold[0].state.temperature_c, 25)
        self.assertIsInstance(states.hot[0].state, State)
