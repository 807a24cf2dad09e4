"""The whole installation as one network: method 10's W5 to W8 and W15, and what must hold."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from returnpath.conductor import Wire, impedance
from returnpath.network import EARTH, build
from returnpath.site import (
    Circuit,
    Device,
    Electrode,
    Feeder,
    Installation,
    Joint,
    Metal,
    Panel,
    Service,
    Supply,
)
from returnpath.study import Verdict, compare, person, study

SERVICE = Service(
    id="s1",
    run="overhead",
    length_ft=60,
    line_size="4/0",
    line_material="aluminium",
    neutral_size="4/0",
    sets=1,
)
UTILITY = Supply(id="u1", kva=25, percent_z=1.7, x_over_r=1.6, earth_ohm=5)


def load(id_, panel, va, space, poles=1):
    """A load at a panel's bars: a circuit of no length."""
    return Circuit(
        id=id_,
        panel=panel,
        name=f"load {id_}",
        breaker=Device(rating_a=60, lo=5, hi=10),
        poles=poles,
        neutral="yes",
        method="PVC",
        length_ft=0,
        line_size="6",
        egc="wire",
        egc_size="10",
        load_va=va,
        space=space,
    )


def feeder(**facts):
    """W5's feeder: 60 A, 80 ft, 6 AWG lines and neutral, 10 AWG ground wire, in PVC."""
    made = {
        "breaker": Device(rating_a=60, lo=5, hi=10),
        "poles": 2,
        "sets": 1,
        "method": "PVC",
        "length_ft": 80,
        "line_size": "6",
        "line_material": "copper",
        "neutral": "yes",
        "neutral_size": "6",
        "egc": "wire",
        "egc_size": "10",
        "egc_material": "copper",
    }
    return Feeder(id="f3", source="p1", to="p2", **(made | facts))


def place(**facts) -> Installation:
    """A service with a sub-panel ``p2`` on W5's feeder."""
    made = {
        "supplies": (UTILITY,),
        "services": (SERVICE,),
        "panels": (
            Panel(id="p1", main=Device(rating_a=200), bond="in"),
            Panel(id="p2", kind="sub", bond="out"),
        ),
        "feeders": (feeder(),),
        "electrodes": (Electrode(id="e1", ohm=20, lands="neutral bar"),),
        "last_id": 20,
    }
    return Installation(**(made | facts))


class WorkedExamples(unittest.TestCase):
    def close(self, value, expected, share=0.005):
        self.assertLessEqual(abs(value - expected), share * abs(expected), f"{value}: {expected}")

    def test_w5_a_bond_left_in_at_a_sub_panel(self):
        loads = (load("c4", "p2", 120**2 / 8, 1),)
        healthy = study(place(circuits=loads)).loads["u1"]
        self.assertLess(healthy.currents["f3.egc"], 0.001)
        self.assertEqual(round(healthy.volts["p2.case"], 2), 0.08)
        self.assertEqual([s.branch for s in healthy.strays if s.branch.startswith("f3")], [])
        panels = (
            Panel(id="p1", main=Device(rating_a=200), bond="in"),
            Panel(id="p2", kind="sub", bond="in"),
        )
        wrong = study(place(circuits=loads, panels=panels)).loads["u1"]
        self.close(wrong.currents["f3.egc"], 4.22)
        self.close(wrong.currents["f3.neutral"], 10.62)
        self.close(wrong.volts["p2.case"], 0.49, 0.01)
        self.assertIn("f3.egc", [s.branch for s in wrong.strays])

    def test_w6_the_service_neutral_lost(self):
        loads = (load("c4", "p1", 1200, 1), load("c5", "p1", 3600, 3))
        site = place(circuits=loads, feeders=(), panels=place().panels[:1])
        done = study(site)
        legs = done.loads["u1"].legs("p1")
        self.close(legs["L1"], 119.9)
        self.close(legs["L2"], 119.4)
        lost = done.open_neutrals["u1"]
        legs = lost.legs("p1")
        self.close(legs["L1"], 173.2)
        self.close(legs["L2"], 66.3)
        self.close(lost.currents["e1.gec"], 2.14)
        self.close(lost.volts["p1.N"], 42.8)

    def test_w7_an_outbuilding_without_a_ground_wire(self):
        rods = Electrode(id="e2", panel="p2", ohm=16, lands="ground bar")
        electrodes = (*place().electrodes, rods)
        case = load("c4", "p2", 0, 1)
        site = place(feeders=(feeder(egc="none"),), electrodes=electrodes, circuits=(case,))
        fault = study(site).loops["c4"]
        self.close(fault.lowest_a / 0.95, 5.98)
        self.assertIs(fault.verdict, Verdict.MAY_NEVER_OPEN)
        self.close(fault.touch_earth_v, 95.7)
        self.close(fault.touch_bar_v, 119.7)

    def test_w7_with_the_ground_wire(self):
        rods = Electrode(id="e2", panel="p2", ohm=16, lands="ground bar")
        electrodes = (*place().electrodes, rods)
        site = place(electrodes=electrodes, circuits=(load("c4", "p2", 0, 1),))
        fault = study(site).loops["c4"]
        self.close(fault.lowest_a / 0.95, 752.9)
        self.close(fault.currents["f3.egc"] / 0.95, 749.0)
        self.close(fault.touch_earth_v, 62.4)
        self.close(fault.touch_bar_v, 74.4)
        self.assertEqual(fault.slow_s, 0.025)

    def test_w8_a_shared_neutral_lost(self):
        def half(id_, ohms, space, **more):
            return Circuit(
                id=id_, panel="p1", breaker=Device(rating_a=20), poles=1, neutral="yes",
                method="NM", length_ft=50, line_size="12", egc="wire", egc_size="12",
                load_va=120**2 / ohms, space=space, **more,
            )  # fmt: skip

        pair = (half("c4", 12, 1), half("c5", 48, 3, shares_with="c4"))
        (lost,) = study(place(circuits=pair)).shared_neutrals
        self.close(lost.across["c4"], 47.8)
        self.close(lost.across["c5"], 191.3)

    def test_w15_a_shared_water_main_hides_it(self):
        loads = (load("c4", "p1", 1200, 1), load("c5", "p1", 3600, 3))
        pipe = Metal(
            id="m6", panel="p1", kind="water", material="metal", bonded="yes",
            shared_main="yes", main_ohm=0.3,
        )  # fmt: skip
        site = place(circuits=loads, feeders=(), panels=place().panels[:1], metals=(pipe,))
        lost = study(site).open_neutrals["u1"]
        legs = lost.legs("p1")
        self.close(legs["L1"], 125.2)
        self.close(legs["L2"], 114.2)
        self.close(lost.currents["m6.main"], 17.9)


def random_site(data) -> Installation:
    """Panels in a tree, circuits on them, whatever bonds and joints come."""
    draw = data.draw
    sizes = st.sampled_from(["12", "10", "8", "6", "4"])
    count = draw(st.integers(1, 4))
    panels = [Panel(id="p1", main=Device(rating_a=200), bond="in")]
    feeders = []
    for n in range(2, count + 1):
        panels.append(
            Panel(
                id=f"p{n}",
                bond=draw(st.sampled_from(["in", "out"])),
                ground_bar=draw(st.sampled_from(["on case", "isolated"])),
            )
        )
        feeders.append(
            feeder().model_copy(
                update={
                    "id": f"f{20 + n}",
                    "source": f"p{draw(st.integers(1, n - 1))}",
                    "to": f"p{n}",
                    "length_ft": draw(st.floats(5, 200)),
                    "line_size": draw(sizes),
                    "egc_size": draw(sizes),
                    "egc": draw(st.sampled_from(["wire", "none"])),
                }
            )
        )
    circuits = []
    for n in range(draw(st.integers(1, 4))):
        circuits.append(
            Circuit(
                id=f"c{40 + n}",
                panel=f"p{draw(st.integers(1, count))}",
                breaker=Device(rating_a=20),
                poles=draw(st.sampled_from([1, 2])),
                neutral="yes",
                method=draw(st.sampled_from(["NM", "EMT"])),
                length_ft=draw(st.floats(1, 200)),
                line_size=draw(sizes),
                egc="wire",
                egc_size=draw(sizes),
                load_va=draw(st.floats(10, 2000)),
                outlet_bond=draw(st.sampled_from(["yes", "no"])),
            )
        )
    electrodes = [Electrode(id="e60", ohm=draw(st.floats(2, 80)))]
    if count > 1:
        electrodes.append(Electrode(id="e61", panel="p2", ohm=30, lands="ground bar"))
    return place(
        panels=tuple(panels),
        feeders=tuple(feeders),
        circuits=tuple(circuits),
        electrodes=tuple(electrodes),
        last_id=99,
    )


def dense_fault(net, a, b):
    """(open volts, Z_th) by a plain dense solve."""
    rows, columns, values, injected = net.assemble()
    size = len(net.nodes)
    matrix = np.zeros((size, size), dtype=complex)
    np.add.at(matrix, (rows, columns), values)
    before = np.linalg.solve(matrix, injected)
    rhs = np.zeros(size, dtype=complex)
    rhs[net.nodes[a]] += 1
    rhs[net.nodes[b]] -= 1
    column = np.linalg.solve(matrix, rhs)
    i, j = net.nodes[a], net.nodes[b]
    return before[i] - before[j], column[i] - column[j]


class Agreement(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.data())
    def test_every_fault_agrees_with_a_plain_dense_solve(self, data):
        site = random_site(data)
        done = study(site)
        states = done.states[0]
        for fault in done.faults:
            if fault.kind != "line-to-case" or fault.lacks or not fault.circuit:
                continue
            seen = fault.basis.low
            state = seen.solved.state
            net = build(done.assumed.site, state)  # every circuit in it, none reduced
            pole = seen.pole
            volts, ohm = dense_fault(net, f"{fault.place}.L{pole}", f"{fault.place}.case")
            plain = 0.95 * abs(volts) / abs(ohm)
            self.assertAlmostEqual(fault.lowest_a, plain, delta=max(1e-3 * plain, 2e-3))
            self.assertAlmostEqual(states.volts, 120.0, msg="the driving voltage is the system's")

    @settings(max_examples=40, deadline=None)
    @given(st.data())
    def test_current_is_conserved_with_loads_on(self, data):
        done = study(random_site(data))
        for loaded in (*done.loads.values(), *done.open_neutrals.values()):
            solution = loaded.solved.solution
            if loaded.lost:
                branch = solution.network.branches.pop(loaded.lost)
                left = solution.imbalance(loaded.volts_at)
                solution.network.branches[loaded.lost] = branch
            else:
                left = solution.imbalance(loaded.volts_at)
            self.assertLess(left, 1e-4)

    @settings(max_examples=40, deadline=None)
    @given(
        st.floats(1, 300),
        st.floats(1, 300),
        st.sampled_from(["12", "10", "8"]),
        st.sampled_from(["12", "10"]),
    )
    def test_radial_sites_agree_with_the_closed_sum(self, far, near, line, ground):
        circuit = Circuit(
            id="c4", panel="p2", breaker=Device(rating_a=20), neutral="yes", method="NM",
            length_ft=near, line_size=line, line_material="copper", egc="wire",
            egc_size=ground, egc_material="copper",
        )  # fmt: skip
        site = place(feeders=(feeder(length_ft=far),), circuits=(circuit,))
        fault = study(site).loops["c4"]
        plate = study(site).states[0].sources.lowest.transformer
        drop = impedance(Wire("4/0", "aluminium", "triplex"), 60)
        total = plate.z0 + plate.z1 + 2 * drop
        total += impedance(Wire("6", method="PVC"), far) + impedance(Wire("10", method="PVC"), far)
        total += impedance(Wire(line), near) + impedance(Wire(ground), near)
        # The soil in parallel is worth less than a thousandth.
        self.assertAlmostEqual(fault.loop_ohm / abs(total), 1, delta=1e-3)


class WhatIfs(unittest.TestCase):
    def test_a_loose_neutral_and_what_moved(self):
        loads = (load("c4", "p2", 1800, 1), load("c5", "p2", 600, 3))
        site = place(circuits=loads)
        loose = site.model_copy(update={"joints": (Joint(id="j9", on="f3.neutral", ohm=2.0),)})
        before, after = study(site), study(loose)
        moved = {(c.place, c.what) for c in compare(before, after)}
        self.assertIn(("f3.neutral", "load amperes, u1"), moved)
        self.assertGreater(abs(after.loads["u1"].legs("p2")["L1"] - 120), 3)
        self.assertEqual(compare(before, study(site)), ())

    def test_an_open_joint_in_the_return_is_no_way_home(self):
        site = place(circuits=(load("c4", "p2", 100, 1),))
        broken = site.model_copy(update={"joints": (Joint(id="j9", on="f3.egc", open="yes"),)})
        fault = study(broken).loops["c4"]
        self.assertEqual(fault.lowest_a, 0)
        self.assertIs(fault.verdict, Verdict.MAY_NEVER_OPEN)
        self.assertGreater(fault.touch_earth_v, 115)

    def test_neutral_joined_to_ground_at_an_outlet(self):
        circuit = Circuit(
            id="c4", panel="p1", breaker=Device(rating_a=20), neutral="yes", method="NM",
            length_ft=85, line_size="12", egc="wire", egc_size="12", load_va=1200,
        )  # fmt: skip
        right = study(place(circuits=(circuit,)))
        joined = circuit.model_copy(update={"outlet_bond": "yes"})
        wrong = study(place(circuits=(joined,)))
        self.assertGreater(wrong.loads["u1"].currents["c4.egc"], 4)
        self.assertLess(right.loads["u1"].currents["c4.egc"], 1e-6)
        self.assertGreater(wrong.loops["c4"].lowest_a, right.loops["c4"].lowest_a)

    def test_a_hand_on_metal(self):
        site = place(circuits=(load("c4", "p2", 1800, 1),))
        states = study(site).states[0]
        healthy = person(states, "p2.case", EARTH)
        self.assertLess(healthy.amps, 0.001)
        live = person(states, "p2.L1", EARTH)
        self.assertAlmostEqual(live.amps, 0.12, delta=0.003)
        wet = person(states, "p2.L1", EARTH, wet=True)
        self.assertAlmostEqual(wet.amps, 0.24, delta=0.006)

    def test_near_rods_are_worth_less_than_far_ones(self):
        def amps(spacing):
            rods = (
                Electrode(id="e1", kind="rod"),
                Electrode(id="e2", kind="rod", near="e1", spacing_ft=spacing),
            )
            loads = (load("c4", "p1", 1200, 1), load("c5", "p1", 3600, 3))
            site = place(circuits=loads, feeders=(), panels=place().panels[:1], electrodes=rods)
            lost = study(site).open_neutrals["u1"]
            return lost.currents["u1.earth"]

        self.assertLess(amps(2), amps(8))
        self.assertLess(amps(8), amps(100))
