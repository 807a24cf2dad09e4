"""Whose earth a metric place has: a lost PEN, export or an electrode, TT cables, by hand sums."""

import unittest

from returnpath import armour
from returnpath.rules import findings
from returnpath.site import (
    Building,
    Device,
    Electrode,
    Feeder,
    Installation,
    Panel,
    Set,
    Supply,
    apply,
)
from returnpath.site.arrangement import arrangement_at, electrode_ohm_at
from returnpath.study import Verdict, study
from returnpath.vocabulary import Size

from .test_metric_by_hand import M, circuit, ohm, place


class LostPen(unittest.TestCase):
    def test_three_loads_and_an_electrode(self):
        """230 V over 23 Ω of loads in series with 30 Ω here and 2 Ω at the source."""
        loads = [
            circuit(id=f"c{n}", name=f"Load {n}", load_va=va, power_factor=1.0)
            for n, va in ((1, 1150.0), (2, 690.0), (3, 460.0))
        ]
        site = place(
            *loads,
            supplies=(Supply(id="u1", system="230", earthing="TN-C-S", ze_ohm=0.2, earth_ohm=2),),
            electrodes=(Electrode(id="e4", kind="rod", ohm=30),),
        )
        done = study(site)
        lost = done.open_neutrals["u1"]
        r_loads = 230**2 / 2300
        volts = 230 * 30 / (30 + 2 + r_loads)
        self.assertAlmostEqual(lost.volts["p1.ground"], volts, delta=1)
        told = [f for f in findings(site, done) if f.id == "open-pen-touch"]
        self.assertIn("125 V", told[0].found)


class Export(unittest.TestCase):
    """An outbuilding on the supply's earth against one on its own rod and RCD."""

    def site(self, egc, **panel):
        return Installation(
            frequency_hz=50, last_id=40,
            supplies=(Supply(id="u1", system="230", earthing="TN-C-S", ze_ohm=0.3, earth_ohm=5),),
            buildings=(Building(id="b1", name="House"), Building(id="b2", name="Shed")),
            panels=(Panel(id="p1", building="b1", insulated="yes"),
                    Panel(id="p2", building="b2", insulated="yes", bond="out", **panel)),
            feeders=(Feeder(id="f3", source="p1", to="p2", length_ft=25 * M, egc=egc, method="SWA",
                            line_size=Size("6mm2"), breaker=Device(rating_a=32, kind="B")),),
            electrodes=(Electrode(id="e1", kind="rod", ohm=25),
                        Electrode(id="e5", panel="p2", kind="rod", ohm=40)),
            circuits=(circuit(panel="p2", rcd_ma=30, gfci=None, load_va=2500.0),),
        )  # fmt: skip

    def test_each_building_is_named_by_what_is_there(self):
        exported, own = self.site("raceway"), self.site("none")
        self.assertEqual(arrangement_at(exported, "p2"), "TN-C-S")
        self.assertEqual(arrangement_at(own, "p2"), "TT")
        self.assertEqual(arrangement_at(own, "p1"), "TN-C-S")
        both = electrode_ohm_at(exported, "p2")
        self.assertAlmostEqual(both, 1 / (1 / 25 + 1 / 40))
        self.assertEqual(electrode_ohm_at(own, "p2"), 40)

    def test_both_ways_by_hand(self):
        exported = study(self.site("raceway")).loops["c1"]
        steel = armour.armour_ohm("6mm2", 2, 25 * M, 70).real
        run = ohm(3.08, 25) + steel + ohm(7.41, 20) + ohm(12.1, 20)
        self.assertAlmostEqual(exported.loop_ohm, 0.3 + run, delta=0.01)
        self.assertFalse(exported.by_rcd)
        own = study(self.site("none")).loops["c1"]
        self.assertTrue(own.by_rcd)
        # 40 Ω there, home by 25 Ω and 5 Ω side by side: the house's electrode is on the neutral.
        soil = 40 + 25 * 5 / 30
        self.assertAlmostEqual(own.loop_ohm, soil, delta=0.02 * soil)
        self.assertEqual(own.basis.time_limit().seconds, 0.2)

    def test_forbidden_for_a_caravan(self):
        site = apply(self.site("raceway"), Set(path="b2.permit", value="caravan"))
        ids = {f.id: f.level for f in findings(site, study(site))}
        self.assertEqual(ids["export-forbidden"], "fix")
        self.assertNotIn("export-or-own-electrode", ids)

    def test_the_other_way_can_be_tried(self):
        site = self.site("raceway")
        told = next(f for f in findings(site, study(site)) if f.id == "export-or-own-electrode")
        tried = site
        for edit in told.fix:
            tried = apply(tried, edit)
        self.assertEqual(arrangement_at(tried, "p2"), "TT")
        self.assertIs(study(tried).loops["c1"].verdict, Verdict.AT_ONCE)


class JoinedAtTheOrigin(unittest.TestCase):
    def test_only_tn_c_s_joins_neutral_and_earth(self):
        cases = (("TN-S", "in", True), ("TT", "in", True), ("TN-S", "out", False),
                 ("TN-C-S", "in", False))  # fmt: skip
        for earthing, bond, told in cases:
            board = Panel(id="p1", name="Board", insulated="yes", bond=bond)
            site = place(circuit(rcd_ma=30.0), earthing=earthing, panels=(board,))
            found = [f for f in findings(site, study(site)) if f.key == "neutral-joined-again:p1"]
            self.assertEqual(bool(found), told, earthing)
            for f in found:
                after = apply(site, f.fix[0])
                keys = [x.key for x in findings(after, study(after))]
                self.assertNotIn("neutral-joined-again:p1", keys)


class CablesOfTt(unittest.TestCase):
    def test_a_board_behind_armour_wants_an_rcd_where_its_cable_begins(self):
        feeder = Feeder(
            id="f2", source="p1", to="p2", method="SWA", egc="raceway", line_size=Size("10mm2"),
            length_ft=40 * M, breaker=Device(rating_a=40, kind="gG"),
        )  # fmt: skip
        boards = (Panel(id="p1", name="Board", insulated="yes"), Panel(id="p2", kind="sub"))
        rod = Electrode(id="e1", panel="p1", kind="rod", proved_ohm=25)
        site = place(earthing="TT", ze=None, panels=boards, feeders=(feeder,), electrodes=(rod,))
        found = next(f for f in findings(site, study(site)) if f.key == "tt-without-rcd:p2")
        for edit in found.fix:
            site = apply(site, edit)
        done = study(site)
        self.assertNotIn("tt-without-rcd:p2", [f.key for f in findings(site, done)])
        self.assertLess(done.enclosures["p2"].slow_s, 1.0)


class OnWheels(unittest.TestCase):
    def test_a_circuit_named_for_a_caravan_is_told_unless_it_has_its_own_earth(self):
        for name, egc, told in (("Caravan hookup", "wire", True), ("Caravan hookup", "none", False),
                                ("Boat house lights", "wire", False)):  # fmt: skip
            site = place(circuit(name=name, egc=egc))
            keys = [f.key for f in findings(site, study(site))]
            self.assertEqual("export-forbidden:c1" in keys, told, name)
