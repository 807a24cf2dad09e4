"""Networks by their source, a person on them, and the drop in a run."""

import unittest

from returnpath.assume import assume
from returnpath.conductor import Wire, impedance
from returnpath.network import State, build
from returnpath.rules import findings
from returnpath.site import (
    Add,
    Circuit,
    Device,
    Electrode,
    Installation,
    Panel,
    Service,
    Set,
    Supply,
    apply,
    apply_all,
    read_place,
)
from returnpath.study import Verdict, study

from .test_network import SERVICE, UTILITY, load, place

METRIC_SERVICE = Service(
    id="s1", length_ft=30, line_size="10mm2", line_material="copper", neutral_size="10mm2"
)


def metric_circuit(egc_size):
    """A 16 A B-type circuit in 2.5 mm² behind an RCD."""
    return Circuit(
        id="c4", panel="p1", breaker=Device(rating_a=16, kind="B"), neutral="yes",
        method="NM", length_ft=82, line_size="2.5mm2", line_material="copper", egc="wire",
        egc_size=egc_size, rcd_ma=30,
    )  # fmt: skip


class Sources(unittest.TestCase):
    def site(self, supply, **facts):
        circuit = Circuit(
            id="c4", panel="p1", breaker=Device(rating_a=20, lo=5, hi=10), neutral="yes",
            method="NM", length_ft=85, line_size="12", egc="wire", egc_size="12",
        )  # fmt: skip
        made = {"supplies": (supply,), "circuits": (circuit,), "feeders": ()}
        return place(**(made | {"panels": place().panels[:1]} | facts))

    def test_wye(self):
        supply = Supply(id="u1", system="120/208 wye", r1_ohm=0.02, x1_ohm=0.03, earth_ohm=5)
        done = study(self.site(supply))
        loop = done.loops["c4"]
        drop = 2 * impedance(Wire("4/0", "aluminium", "triplex"), 60)
        total = abs(complex(0.02, 0.03) + drop + 2 * impedance(Wire("12"), 85))
        self.assertAlmostEqual(loop.loop_ohm, total, delta=1e-3 * total)

    def test_earth_fault_of_unlike_sequences(self):
        supply = Supply(
            id="u1", system="400/230", r1_ohm=0.1, x1_ohm=0.1, r0_ohm=0.4, x0_ohm=0.4, earth_ohm=5
        )
        loop = study(self.site(supply)).loops["c4"]
        source = (2 * complex(0.1, 0.1) + complex(0.4, 0.4)) / 3
        drop = 2 * impedance(Wire("4/0", "aluminium", "triplex"), 60)
        total = abs(source + drop + 2 * impedance(Wire("12"), 85))
        self.assertAlmostEqual(loop.loop_ohm, total, delta=1e-3 * total)
        self.assertAlmostEqual(loop.lowest_a, 0.95 * 230 / total, delta=1)

    def test_high_leg(self):
        supply = Supply(
            id="u1", system="120/240 high-leg", kva=25, percent_z=1.7, x_over_r=1.6, earth_ohm=5
        )
        states = study(self.site(supply)).states[0]
        at = states.hot[0].solution.at
        self.assertAlmostEqual(abs(at("p1.L2") - at("p1.N")), 207.8, delta=0.5)
        for other in ("p1.L1", "p1.L3"):
            self.assertAlmostEqual(abs(at("p1.L2") - at(other)), 240, delta=0.5)
            self.assertAlmostEqual(abs(at(other) - at("p1.N")), 120, delta=0.5)

    def test_230_v_with_metric_wires_and_a_b_type(self):
        circuit = metric_circuit(egc_size="1.5mm2")
        supply = Supply(id="u1", system="230", earthing="TN-C-S", r1_ohm=0.2, x1_ohm=0.05)
        site = self.site(supply, services=(METRIC_SERVICE,), circuits=(circuit,), frequency_hz=50)
        loop = study(site).loops["c4"]
        hot = 1 + 0.00393 * 50
        ohms = (7.41 + 12.1) * hot * 82 * 0.3048 / 1000 + 2 * 1.83 * hot * 30 * 0.3048 / 1000 + 0.2
        self.assertAlmostEqual(loop.loop_ohm, ohms, delta=0.01 * ohms)
        self.assertEqual(loop.basis.devices.over_current_s(loop.lowest_a), 0.1)
        self.assertFalse(loop.by_rcd)  # the breaker alone is soon enough
        self.assertEqual(loop.slow_s, 0.04)  # its RCD is sooner still

    def test_tt_needs_its_rcd(self):
        circuit = metric_circuit(egc_size="2.5mm2")
        supply = Supply(id="u1", system="230", earthing="TT", earth_ohm=10)
        panel = Panel(id="p1", main=Device(rating_a=63), bond="out")
        rod = Electrode(id="e1", ohm=50, lands="ground bar")
        site = self.site(
            supply,
            services=(METRIC_SERVICE,),
            circuits=(circuit,),
            panels=(panel,),
            electrodes=(rod,),
            frequency_hz=50,
        )
        loop = study(site).loops["c4"]
        self.assertIs(loop.verdict, Verdict.AT_ONCE)
        self.assertTrue(loop.by_rcd)
        self.assertAlmostEqual(loop.lowest_a, 0.95 * 230 / 60.8, delta=0.1)
        self.assertEqual(loop.slow_s, 0.04)
        bare = circuit.model_copy(update={"rcd_ma": None, "gfci": "no"})
        without = study(site.model_copy(update={"circuits": (bare,)})).loops["c4"]
        self.assertIs(without.verdict, Verdict.MAY_NEVER_OPEN)
        unsaid = circuit.model_copy(update={"rcd_ma": None})
        asked = study(site.model_copy(update={"circuits": (unsaid,)})).loops["c4"]
        self.assertEqual(asked.lacks, ("c4.rcd_ma",))

    def test_an_islanded_inverter_gives_little_and_is_the_worst(self):
        inverter = Supply(id="u2", kind="inverter", kva=7.6, limit=1.5, bond="out")
        run = Service(
            id="s2",
            supply="u2",
            to="p1",
            length_ft=20,
            line_size="6",
            line_material="copper",
            neutral_size="6",
        )
        site = self.site(UTILITY, supplies=(UTILITY, inverter), services=(SERVICE, run))
        done = study(site)
        by_state = {f.state: f for f in done.faults if f.kind == "line-to-case" and f.circuit}
        self.assertIs(by_state["u1"].verdict, Verdict.AT_ONCE)
        self.assertAlmostEqual(by_state["u2"].lowest_a, 1.5 * 7600 / 240, delta=0.01)
        self.assertIs(done.loops["c4"], by_state["u2"])
        self.assertNotEqual(by_state["u2"].verdict, Verdict.AT_ONCE)

    def test_a_metal_part_with_no_way_home_is_an_answer(self):
        circuit = Circuit(
            id="c4", panel="p1", breaker=Device(rating_a=20), neutral="yes", method="NM",
            length_ft=85, line_size="12", egc="none",
        )  # fmt: skip
        loop = study(place(circuits=(circuit,))).loops["c4"]
        self.assertEqual((loop.lowest_a, loop.highest_a), (0, 0))
        self.assertAlmostEqual(loop.touch_earth_v, 120, delta=1)

    def test_what_is_missing_is_said(self):
        site = apply(place(circuits=(load("c4", "p2", 0, 1),)), Set(path="f3.egc", value=None))
        loop = study(site).loops["c4"]
        self.assertIs(loop.verdict, Verdict.NOT_KNOWN)
        self.assertEqual(loop.lacks, ("f3.egc",))

    def test_state_is_plain(self):
        done = assume(place())
        states = study(place()).states[0]
        net = build(done.site, State("u1", states.sources.lowest, 75.0, 75.0, 1.0))
        self.assertGreater(len(net.branches), 10)


class Bodies(unittest.TestCase):
    def test_curve_c1_between_its_points(self):
        from returnpath.study.shock import c1_ma

        self.assertEqual(c1_ma(0.001), 500)
        self.assertEqual(c1_ma(1.0), 50)
        self.assertEqual(c1_ma(float("inf")), 40)
        self.assertTrue(100 < c1_ma(0.4) < 150)

    def test_a_case_that_stays_live_passes_it(self):
        open_bond = place(
            circuits=(load("c4", "p2", 0, 1),),
            panels=(Panel(id="p1", main=Device(rating_a=200), bond="out"), place().panels[1]),
        )
        fault = study(open_bond).loops["c4"]
        self.assertGreater(fault.body_ma, fault.body_limit_ma)
        good = study(place(circuits=(load("c4", "p2", 0, 1),))).loops["c4"]
        self.assertLess(good.body_ma, good.body_limit_ma)
        self.assertIn("never a licence", good.workings["body"].steps()[-2].text)


class Drops(unittest.TestCase):
    def test_the_sum(self):
        circuit = Circuit(
            id="c4", panel="p1", breaker=Device(rating_a=20), neutral="yes", method="NM",
            length_ft=100, line_size="12", egc="wire", egc_size="12", load_va=1920,
        )  # fmt: skip
        (drop,) = study(place(circuits=(circuit,))).drops
        self.assertAlmostEqual(drop.amps, 16)
        self.assertAlmostEqual(drop.volts, 16 * 2 * 0.193, places=3)
        self.assertAlmostEqual(drop.share, 6.176 / 120, places=4)


class CleanWorkOnAnotherSource(unittest.TestCase):
    """What the utility trips is no danger because a weaker source does not: it is looked up."""

    LINES = ("service 200A 4/0 al underground 90ft", "ufer #4", "50A 6/3 NM 35ft range gfci",
             "30A 10/3 NM 40ft dryer gfci", "20A 12/2 NM 45ft den afci")  # fmt: skip

    def found(self, source: str, broken: bool = False):
        site = Installation()
        for line in (*self.LINES, source):
            reading = read_place(site, line)
            self.assertTrue(reading.is_complete, reading.problems)
            site = apply_all(site, reading.edits)
        site = apply(site, Set(path="p1.main.rating_a", value=200.0))
        site = apply(site, Set(path="p1.bond", value="in"))
        self.den = next(c.id for c in site.circuits if c.name == "Den")
        if broken:
            site = apply(site, Add(to="joints", facts={"on": f"{self.den}.egc", "open": "yes"}))
        return findings(site, study(site))

    def test_it_has_neither_danger_nor_fix_and_asks(self):
        for source, do in (
            ("generator 8kW interlock floating neutral", "Read the rating of its own breaker."),
            ("battery 10kW transfer switch", "Look up how it ends a short circuit"),
            ("battery 10kW 60A transfer switch", "Look up how it ends a short circuit"),
        ):
            found = self.found(source)
            self.assertEqual([f.id for f in found if f.level in ("danger", "fix")], [], source)
            (row,) = [f for f in found if f.id == "short-circuit-never-clears"]
            self.assertEqual(row.level, "check")
            self.assertTrue(row.do.startswith(do), row.do)

    def test_an_open_ground_is_a_danger_on_every_source(self):
        for source in ("generator 8kW interlock floating neutral", "battery 10kW transfer switch"):
            found = self.found(source, broken=True)
            levels = [f.level for f in found if f.place == self.den]
            self.assertIn("danger", levels, source)
