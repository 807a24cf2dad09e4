"""Lines of networks and of their solver that once could be broken unseen, each with its figure."""

import math
import unittest

import numpy as np

from returnpath.conductor import Wire, impedance_per_kft
from returnpath.errors import BadInput
from returnpath.network import EARTH, Network, Nudged, coupled
from returnpath.network.solver import SMALL
from returnpath.site import Circuit, Device, Electrode, Supply
from returnpath.study import FaultKind, study

from .test_network import SERVICE, UTILITY, feeder, load, place
from .test_says_it_clears import branch


class Networks(unittest.TestCase):
    def test_a_switched_neutral_is_open_while_the_other_source_drives(self):
        loads = (load("c4", "p1", 1800, 1),)
        run = SERVICE.model_copy(update={"id": "s2", "supply": "u2"})
        for switched, carries in (("yes", False), ("no", True)):
            generator = Supply(id="u2", kind="generator", kva=7.5, bond="in",
                               neutral_switched=switched)  # fmt: skip
            site = place(supplies=(UTILITY, generator), services=(SERVICE, run), circuits=loads)
            utility = study(site).loads["u1"].currents
            with self.subTest(switched):
                self.assertEqual("s2.neutral" in utility, carries)

    def test_distances_between_rods_of_a_row(self):
        rods = (
            Electrode(id="e1", kind="rod", lands="ground bar"),
            Electrode(id="e2", kind="rod", near="e1", spacing_ft=6, lands="ground bar"),
            Electrode(id="e3", kind="rod", near="e2", spacing_ft=10, lands="ground bar"),
        )
        site = place(electrodes=rods, feeders=(), panels=place().panels[:1])
        coupling = study(site).states[0].hot[0].network.couplings
        (row,) = [c for c in coupling.values() if not any(c.volts)]
        names = [port[0].partition(".")[0] for port in row.ports]

        def mutual(a, b):
            return row.ohms[names.index(a)][names.index(b)].real

        def by_hand(feet):
            d, length = feet * 0.3048, 8 * 0.3048
            far = d / (2 * length)
            term = math.asinh(1 / far) + far - math.sqrt(1 + far**2)
            return 100 / (2 * math.pi * length) * term

        self.assertAlmostEqual(mutual("e1", "e2"), by_hand(6), places=3)
        self.assertAlmostEqual(mutual("e2", "e3"), by_hand(10), places=3)
        self.assertAlmostEqual(mutual("e1", "e3"), by_hand(16), places=3)

    def test_rods_driven_side_by_side_are_two_inches_apart_at_least(self):
        rods = (
            Electrode(id="e1", kind="rod", ohm=90, lands="ground bar"),
            Electrode(id="e2", kind="rod", ohm=90, near="e1", spacing_ft=0.05, lands="ground bar"),
        )
        site = place(electrodes=rods, feeders=(), panels=place().panels[:1])
        coupling = study(site).states[0].hot[0].network.couplings
        (row,) = [c for c in coupling.values() if not any(c.volts)]
        far = 2 * 0.0254 / (2 * 8 * 0.3048)
        by_hand = 100 / (2 * math.pi * 8 * 0.3048)
        by_hand *= math.asinh(1 / far) + far - math.sqrt(1 + far**2)
        self.assertAlmostEqual(row.ohms[0][1].real, by_hand, places=6)

    def test_a_supply_side_wire_is_of_its_lines_metal_where_that_is_made(self):
        from returnpath.network.build import supply_side_wire

        self.assertEqual(supply_side_wire(SERVICE.model_copy(update={"egc_size": "4"})).material,
                         "aluminium")  # fmt: skip
        self.assertEqual(supply_side_wire(SERVICE.model_copy(update={"egc_size": "14"})).material,
                         "copper")  # fmt: skip

    def test_touch_of_a_limited_source_collapses_with_its_current(self):
        inverter = Supply(id="u2", kind="inverter", kva=7.6, limit=1.5, bond="in")
        run = SERVICE.model_copy(update={"id": "s2", "supply": "u2"})
        site = place(supplies=(UTILITY, inverter), services=(SERVICE, run),
                     circuits=(branch(panel="p2"),))  # fmt: skip
        fault = next(f for f in study(site).cases if f.state == "u2" and f.place == "c4")
        self.assertAlmostEqual(fault.lowest_a, 1.5 * 7600 / 240, places=6)
        free = abs(fault.basis.low.amps())
        self.assertGreater(free, 2 * fault.lowest_a)
        self.assertAlmostEqual(
            fault.touch_earth_v,
            abs(fault.basis.low.case_volts(fault.basis.low.amps())) * fault.lowest_a / free,
            delta=0.05 * fault.touch_earth_v,
        )

    def test_the_interrupting_check_takes_the_largest(self):
        wye = Supply(id="u1", system="120/208 wye", kva=75, percent_z=2.0, x_over_r=1.5)
        done = study(place(supplies=(wye,)))
        # bolted three-phase at the service: 1.05 × 120 over the phase's source and run
        base = 3 * 120**2 / 75_000
        r = 0.9 * 0.02 * base / math.hypot(1, 1.5)
        run = impedance_per_kft(Wire("4/0", "aluminium", "triplex"), -20) * 0.060
        self.assertAlmostEqual(
            done.available["p1"], 1.05 * 120 / abs(complex(r, 1.5 * r) + run), delta=15
        )
        split = study(place()).available["p1"]
        self.assertGreater(split, study(place()).worst_fault("p1", FaultKind.NEUTRAL).highest_a)

    def test_unknown_impedance_of_a_wye_is_weaker_for_the_lowest(self):
        known = Supply(id="u1", system="120/208 wye", kva=75, percent_z=5.0, x_over_r=1.0)
        assumed = Supply(id="u1", system="120/208 wye", kva=75)
        a, b = (study(place(supplies=(s,))).states[0].sources for s in (known, assumed))
        self.assertAlmostEqual(abs(a.lowest.z1), abs(b.lowest.z1))
        self.assertAlmostEqual(abs(b.highest.z1), abs(b.lowest.z1) / 1.25)
        self.assertAlmostEqual(abs(b.interrupting.z1), abs(b.highest.z1) * 1.2 / 4)
        weak = Supply(id="u1", system="230")
        ohms = study(place(supplies=(weak,), services=(SERVICE.model_copy(update={
            "line_size": "10mm2", "neutral_size": "10mm2", "line_material": "copper"}),),
            feeders=(), panels=place().panels[:1])).states[0].sources  # fmt: skip
        self.assertAlmostEqual(ohms.lowest.z1.real, 0.25)
        self.assertAlmostEqual(ohms.highest.z1.real, 0.2)
        self.assertAlmostEqual(ohms.interrupting.z1.real, 0.18)

    def test_loads_of_a_high_leg_and_of_a_one_pole_feeder(self):
        delta = Supply(id="u1", system="120/240 high-leg", kva=50, percent_z=1.7, x_over_r=1.6)
        three = Circuit(id="c4", panel="p1", breaker=Device(rating_a=60), poles=3, neutral="yes",
                        method="PVC", length_ft=0, line_size="6", egc="wire", egc_size="10",
                        load_va=2400)  # fmt: skip
        two = three.model_copy(update={"id": "c5", "poles": 2, "space": 1})
        site = place(supplies=(delta,), circuits=(three, two), feeders=(),
                     panels=place().panels[:1])  # fmt: skip
        amps = study(site).loads["u1"].currents
        self.assertAlmostEqual(amps["c5.load"], 10, delta=0.1)  # 2,400 VA at 240 V
        self.assertAlmostEqual(amps["c4.load1"], 10 / 3, delta=0.05)
        one = feeder(poles=1)
        loads = (load("c4", "p2", 1200, 1), load("c5", "p2", 1200, 3), load("c6", "p2", 2400, 5, 2))
        amps = study(place(feeders=(one,), circuits=loads)).loads["u1"].currents
        self.assertAlmostEqual(amps["c4.load"], 10, delta=0.3)
        self.assertAlmostEqual(amps["c5.load"], 10, delta=0.3)
        self.assertNotIn("c6.load", amps)


class Solver(unittest.TestCase):
    """Networks too large to be solved for every node at once, and what is changed in one branch."""

    def ladder(self, count: int) -> Network:
        net = Network()
        net.couple(coupled("source", [("n0", "g0")], [120.0], 0j, 0.05 + 0.02j))
        net.branch("earth", "g0", EARTH, 5.0)
        for n in range(count):
            net.branch(f"line{n}", f"n{n}", f"n{n + 1}", 0.01 + 0.002j)
            net.branch(f"back{n}", f"g{n + 1}", f"g{n}", 0.02)
            net.branch(f"rung{n}", f"n{n + 1}", f"g{n + 1}", 40.0 + n)
        return net

    def test_large_and_small_are_solved_alike(self):
        for count in (20, 90):
            net = self.ladder(count)
            self.assertEqual(len(net.nodes) > SMALL, count == 90)
            solution = net.factor()
            rows, columns, values, injected = net.assemble()
            dense = np.zeros((len(net.nodes),) * 2, dtype=complex)
            np.add.at(dense, (rows, columns), values)
            plain = np.linalg.inv(dense)
            far, back = f"n{count}", f"g{count}"
            i, j = net.nodes[far], net.nodes[back]
            with self.subTest(count):
                fault = solution.fault(far, back)
                ohm = plain[i, i] + plain[j, j] - plain[i, j] - plain[j, i]
                self.assertAlmostEqual(fault.thevenin_ohm, ohm, places=9)
                self.assertAlmostEqual(
                    fault.open_volts, (plain @ injected)[i] - (plain @ injected)[j]
                )
                self.assertLess(solution.imbalance(fault.volts, fault), 1e-6)
                to_earth = solution.column(far, EARTH)
                self.assertAlmostEqual(to_earth[i], plain[i, i])
                self.assertAlmostEqual(solution.column(EARTH, far)[i], -plain[i, i])

    def test_one_branch_changed_is_as_solved_anew(self):
        for count in (20, 90):
            base = self.ladder(count).factor()
            nudged = Nudged(base, "earth", 25.0)
            net = self.ladder(count)
            net.branches["earth"] = net.branches["earth"].__class__("earth", "g0", EARTH, 25.0 + 0j)
            anew = net.factor()
            for node in ("n3", f"g{count}", "g0"):
                self.assertTrue(
                    np.allclose(nudged.unit(node), anew.unit(node), rtol=1e-9, atol=1e-9)
                )
            self.assertTrue(np.allclose(nudged.before, anew.before))
            self.assertTrue(np.allclose(nudged.opened("rung4"), anew.opened("rung4")))

    def test_a_branch_taken_out_and_one_more(self):
        solution = self.ladder(20).factor()
        less = self.ladder(20)
        del less.branches["back7"]
        self.assertTrue(np.allclose(solution.opened("back7"), less.factor().before))
        more = self.ladder(20)
        more.branch("person", "n20", EARTH, 1000.0)
        volts, amps = solution.with_branch("n20", EARTH, 1000.0)
        anew = more.factor()
        self.assertTrue(np.allclose(volts, anew.before))
        self.assertAlmostEqual(amps, anew.current("person"))
        between = self.ladder(20)
        between.branch("person", "n20", "g18", 1000.0)
        volts, amps = solution.with_branch("n20", "g18", 1000.0)
        self.assertTrue(np.allclose(volts, between.factor().before))
        self.assertAlmostEqual(amps, between.factor().current("person"))

    def test_no_two_of_one_name(self):
        net = self.ladder(3)
        with self.assertRaises(BadInput):
            net.branch("line0", "n0", "n1")
        with self.assertRaises(BadInput):
            net.branch("source", "n0", "n1")
        with self.assertRaises(BadInput):
            net.couple(coupled("source", [("n0", "g0")], [0.0], 0j, 1.0))
        with self.assertRaises(BadInput):
            net.couple(coupled("line0", [("n0", "g0")], [0.0], 0j, 1.0))
        with self.assertRaises(BadInput):
            net.branch("nothing", "n0", "n1", complex("nan"))
        with self.assertRaises(BadInput):
            net.factor().unit("nowhere")
