"""What the metric findings propose, and the figures they say: beside whether they are found."""

import unittest

from returnpath import earth, sizing, tables
from returnpath.assume import assume
from returnpath.assume_metric import cpc_of_twin
from returnpath.rules import findings
from returnpath.rules.checks.metric_protective import capacity_of
from returnpath.rules.metric_sizes import metric_rows
from returnpath.site import Building, Device, Electrode, Feeder, Metal, Panel, Service
from returnpath.study import study
from returnpath.vocabulary import Size

from .any_place import any_metric_place
from .test_metric_by_hand import M, circuit, place


def found(site, check):
    """place → the finding of one check."""
    return {f.place: f for f in findings(site, study(site)) if f.id == check}


def sets(finding):
    """path → value of what a finding's cure sets."""
    return {str(e.path): e.value for e in finding.fix if e.op == "set"}


BOARD = Panel(id="p1", name="Board", building="b1", insulated="yes")
HOUSE = Building(id="b1", name="House", permit="dwelling")


class Farms(unittest.TestCase):
    def site(self, **facts):
        barn = Building(id="b1", name="Barn", permit="farm")
        return place(circuit(year=2022, **facts), panels=(BOARD,), buildings=(barn,))

    def test_socket_outlets_get_30_ma_and_the_rest_300(self):
        for name, ma in (("Sockets", 30.0), ("Yard lights", 300.0)):
            one = found(self.site(name=name), "farm-without-rcd")["c1"]
            self.assertEqual(sets(one)["c1.rcd_ma"], ma, name)
            self.assertIn(f"{ma:g} mA", one.do)

    def test_300_ma_is_enough_and_500_is_not(self):
        for ma, places in ((100, set()), (300, set()), (500, {"c1"})):
            site = self.site(name="Yard lights", rcd_ma=ma, rcd_type="A", gfci=None)
            self.assertEqual((ma, set(found(site, "farm-without-rcd"))), (ma, places))


class NoWayHome(unittest.TestCase):
    def test_its_cure_is_the_conductor_that_such_a_cable_has(self):
        for method, line, size in (("twin", "2.5mm2", "1.5mm2"), ("twin", "6mm2", "2.5mm2"),
                                   ("multicore", "2.5mm2", "2.5mm2")):  # fmt: skip
            bare = circuit(method=method, line_size=Size(line), egc="none", egc_size=None)
            one = found(place(bare), "protective-conductor-missing")["c1"]
            self.assertEqual(sets(one), {"c1.egc": "wire", "c1.egc_size": size}, (method, line))
            if method == "twin":
                self.assertEqual(cpc_of_twin(line), size)

    def test_where_no_size_is_known_none_is_made_up(self):
        bare = circuit(line_size=None, egc="none", egc_size=None, breaker=Device())
        one = found(place(bare), "protective-conductor-missing")["c1"]
        self.assertEqual(sets(one), {"c1.egc": "wire"})


class ExportOrOwn(unittest.TestCase):
    """230 V over the electrode and 1 Ω; 30 mA over the electrode."""

    def site(self, *electrodes, load=3000.0, rcd=None, name="b2"):
        shed = Building(id="b2", name="Shed", permit="dwelling accessory")
        there = Panel(id="p2", name="Shed", building=name, kind="sub", bond="out", insulated="yes",
                      rcd_ma=rcd, rcd_type="A" if rcd else None)  # fmt: skip
        feeder = Feeder(
            id="f1", source="p1", to="p2", length_ft=30 * M, method="SWA", line_size=Size("6mm2"),
            neutral="yes", neutral_size=Size("6mm2"), egc="both", egc_size=Size("6mm2"),
            breaker=Device(rating_a=40, kind="B"),
        )  # fmt: skip
        loads = (circuit(load_va=load), circuit(id="c2", name="Bench", panel="p2", load_va=None))
        return place(*loads, panels=(BOARD, there), feeders=(feeder,), buildings=(HOUSE, shed),
                     electrodes=electrodes)  # fmt: skip

    def told(self, *electrodes, **more):
        return found(self.site(*electrodes, **more), "export-or-own-electrode")["b2"]

    def rod(self, id, ohm, **facts):
        return Electrode(id=id, kind="rod", panel="p2", ohm=ohm, lands="ground bar", **facts)

    def test_an_electrode_that_is_there_is_what_it_is(self):
        self.assertIn("(40 Ω, as entered) with 30 mA: at most 1.2 V on it unseen, 5.61 A",
                      self.told(self.rod("e1", 40.0)).found)  # fmt: skip

    def test_two_stand_side_by_side_and_one_that_is_not_joined_counts_for_nothing(self):
        two = self.told(self.rod("e1", 40.0), self.rod("e2", 40.0))
        self.assertIn("(20 Ω, as entered)", two.found)
        one = self.told(self.rod("e1", 40.0), self.rod("e2", 40.0, joined="no"))
        self.assertIn("(40 Ω, as entered)", one.found)

    def test_without_one_a_rod_of_two_metres_forty_in_the_soil_assumed(self):
        soil = tables.assumed_number("soil resistivity ohm-m")
        ohm = earth.rod(soil, 2.4, 0.008)
        self.assertIn(f"({ohm:.3g} Ω, a 2.4 m rod in {soil:g} Ω·m)", self.told().found)

    def test_it_says_whether_the_loads_were_given(self):
        self.assertIn("(loads as entered)", self.told().found)  # one of two is
        self.assertIn("(loads assumed)", self.told(load=None).found)

    def test_the_cure_gives_its_own_electrode_and_a_residual_device(self):
        cure = self.told().fix
        values = {str(e.path): e.value for e in cure if e.op == "set"}
        self.assertEqual(values, {"f1.egc": "none", "p2.bond": "out", "p2.rcd_ma": 30.0})
        rod = next(e for e in cure if e.op == "add")
        self.assertEqual(
            (rod.to, rod.facts["panel"], rod.facts["kind"]), ("electrodes", "p2", "rod")
        )
        there = self.told(self.rod("e1", 40.0), rcd=30.0).fix
        self.assertEqual({str(e.path) for e in there}, {"f1.egc", "p2.bond"})


class CablesOfTT(unittest.TestCase):
    """A board behind a cable with no RCD told ahead of it: a fault to the protective conductor or
    to the armour that comes with it."""

    def told(self, insulated, method, egc, ma=None):
        there = Panel(id="p2", name="Annexe", building="b1", kind="sub", bond="out",
                      insulated=insulated)  # fmt: skip
        feeder = Feeder(
            id="f1", source="p1", to="p2", length_ft=30 * M, method=method,
            line_size=Size("6mm2"), neutral="yes", neutral_size=Size("6mm2"), egc=egc,
            egc_size=Size("6mm2"), breaker=Device(rating_a=40, kind="B"), rcd_ma=ma,
            rcd_type="A" if ma else None,
        )  # fmt: skip
        rod = Electrode(id="e1", kind="rod", panel="p1", ohm=50.0, lands="ground bar")
        site = place(circuit(panel="p2"), panels=(BOARD, there), feeders=(feeder,),
                     buildings=(HOUSE,), electrodes=(rod,), earthing="TT", ze=None)  # fmt: skip
        return "p2" in found(site, "tt-without-rcd")

    def test_an_insulating_board_is_told_unless_no_protective_conductor_comes(self):
        for insulated, method, egc, is_told in (
            ("yes", "multicore", "wire", True), ("no", "multicore", "wire", True),
            ("yes", "SWA", "both", True), ("yes", "multicore", "none", False),
        ):  # fmt: skip
            with self.subTest(insulated=insulated, method=method):
                self.assertEqual(self.told(insulated, method, egc), is_told)
        self.assertFalse(self.told("no", "multicore", "wire", ma=100.0))


class DistributionCircuits(unittest.TestCase):
    """A run to an insulating board is judged by what it brings: 411.3.2.1, 5 s in TN."""

    def told(self, kind, metres, method="SWA", egc="both"):
        there = Panel(id="p2", name="Annexe", building="b1", kind="sub", bond="out",
                      insulated="yes")  # fmt: skip
        feeder = Feeder(
            id="f1", source="p1", to="p2", length_ft=metres * M, method=method,
            line_size=Size("6mm2"), neutral="yes", neutral_size=Size("6mm2"), egc=egc,
            egc_size=Size("6mm2"), breaker=Device(rating_a=40, kind=kind),
        )  # fmt: skip
        site = place(circuit(panel="p2", rcd_ma=30.0, rcd_type="A", gfci=None),
                     panels=(BOARD, there), feeders=(feeder,), buildings=(HOUSE,),
                     earthing="TN-S")  # fmt: skip
        return set(found(site, "disconnects-late"))

    def test_every_run_that_brings_a_protective_conductor_is_judged(self):
        judged = 0
        for seed in range(12):
            site = any_metric_place(seed)
            panels = tuple(p.model_copy(update={"insulated": "yes"}) for p in site.panels)
            done = study(site.model_copy(update={"panels": panels}))
            for run in site.feeders:
                if run.egc not in (None, "none"):
                    self.assertIn(run.to, done.enclosures, (seed, run.id))
                    judged += 1
            self.assertEqual(set(done.loops), {c.id for c in site.circuits}, seed)
        self.assertGreater(judged, 5)

    def test_one_that_is_cleared_too_late_is_told(self):
        for method, egc in (("SWA", "both"), ("multicore", "wire")):
            self.assertEqual(self.told("D", 60, method, egc), {"p2"}, method)
            self.assertEqual(self.told("B", 20, method, egc), set(), method)


class Capacities(unittest.TestCase):
    def test_a_cable_carries_by_its_own_insulation(self):
        for kind in ("thermoplastic", "thermoset"):
            run = circuit(method="multicore", line_size=Size("4mm2"), insulation=kind)
            self.assertEqual(capacity_of(run), sizing.current_capacity("4mm2", kind, 2, "C"))
        plain = circuit(method="multicore", line_size=Size("4mm2"))
        self.assertEqual(
            capacity_of(plain), sizing.current_capacity("4mm2", "thermoplastic", 2, "C")
        )

    def test_the_larger_line_that_is_proposed_is_the_least_for_its_insulation(self):
        cured = {}
        for kind in ("thermoplastic", "thermoset"):
            run = circuit(method="multicore", line_size=Size("1.5mm2"), insulation=kind,
                          egc_size=Size("1.5mm2"),
                          breaker=Device(rating_a=40, kind="B"))  # fmt: skip
            told = [f for f in findings(place(run), study(place(run)))
                    if "c1.line_size" in sets(f) and "it carries" in f.found]  # fmt: skip
            cured[kind] = sets(told[0])["c1.line_size"]
            self.assertEqual(cured[kind], sizing.smallest_metric_line(40, kind, 2, "C").value)
        self.assertNotEqual(cured["thermoplastic"], cured["thermoset"])


class Conductors(unittest.TestCase):
    def test_a_breaker_whose_trip_is_told_is_not_asked_for_its_type(self):
        for facts, is_asked in (
            ({}, True),
            ({"lo": 5, "hi": 10}, False),
            ({"lo": 5}, False),
            ({"magnetic_nominal": 8}, False),
            ({"kind": "B"}, False),
        ):
            one = circuit(breaker=Device(rating_a=16, **facts))
            self.assertEqual("c1" in found(place(one), "device-type-unknown"), is_asked, facts)

    def test_lights_are_told_at_three_percent_and_the_rest_at_five(self):
        # 1,200 VA on 1.5 mm² (12.1 Ω/km at 20 °C, both ways) at 230 V.
        for metres, lights, rest in ((40, False, False), (60, True, False), (100, True, True)):
            for name, is_told in (("Lights", lights), ("Sockets", rest)):
                one = circuit(name=name, length_ft=metres * M, line_size=Size("1.5mm2"),
                              load_va=1200.0, breaker=Device(rating_a=10, kind="B"))  # fmt: skip
                self.assertEqual("c1" in found(place(one), "drop-over-advice"), is_told,
                                 (metres, name))  # fmt: skip


class Rows(unittest.TestCase):
    """The rows of the schedule of sizes."""

    def rows(self, **more):
        site = place(circuit(), **more)
        return {r.path: r for r in metric_rows(assume(site), study(site))}

    def test_an_earthing_conductor_by_the_supply_cable(self):
        rod = Electrode(id="e1", kind="rod", panel="p1", gec_size=Size("6mm2"))
        tails = Service(id="s1", to="p1", line_size=Size("25mm2"), neutral_size=Size("25mm2"))
        row = self.rows(electrodes=(rod,), services=(tails,))["e1.gec_size"]
        self.assertEqual((row.needed, row.meets), ("16mm2", False))
        off = Electrode(id="e1", kind="rod", panel="p1", joined="no")
        self.assertNotIn("e1.gec_size", self.rows(electrodes=(off,), services=(tails,)))

    def test_metal_is_bonded_and_plastic_is_not(self):
        tails = Service(id="s1", to="p1", line_size=Size("25mm2"), neutral_size=Size("25mm2"))
        for material in ("metal", None, "plastic", "none"):
            pipe = Metal(id="m3", kind="water", material=material, panel="p1", bonded="yes")
            rows = self.rows(metals=(pipe,), services=(tails,))
            self.assertEqual("m3.bond_size" in rows, material in ("metal", None), material)


if __name__ == "__main__":
    unittest.main()
