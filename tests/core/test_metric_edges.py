"""The edges of the metric checks: what is just enough is not told, what is just short is."""

import unittest

from returnpath import sizing
from returnpath.assume import assume
from returnpath.device import Breaker
from returnpath.errors import BadInput
from returnpath.fuse import Fuse
from returnpath.rules import findings
from returnpath.rules.metric_sizes import metric_rows
from returnpath.site import Building, Device, Feeder, Metal, Panel, Service, apply
from returnpath.site.arrangement import Arrangement
from returnpath.study import study
from returnpath.study.protection import DeviceSet
from returnpath.vocabulary import Size

from .test_metric_by_hand import M, circuit, place


def told(site, check, level=""):
    """The elements that a check names."""
    found = findings(site, study(site))
    return {f.place for f in found if f.id == check and level in ("", f.level)}


class Bonding(unittest.TestCase):
    """Main bonding by the supply's own size (IEC 60364-5-54, 544.1)."""

    def site(self, earthing, line, bond):
        return place(
            circuit(), earthing=earthing,
            services=(Service(id="s1", to="p1", line_size=Size(line), neutral_size=Size(line)),),
            metals=(Metal(id="m3", kind="water", material="metal", panel="p1", bonded="yes",
                          bond_size=Size(bond)),),
        )  # fmt: skip

    def test_half_of_the_earthing_conductor_in_tn_s_and_by_the_pen_in_tn_c_s(self):
        for earthing, line, needed, short in (
            ("TN-S", "10mm2", "6mm2", "4mm2"),
            ("TN-S", "25mm2", "10mm2", "6mm2"),
            ("TN-C-S", "10mm2", "10mm2", "6mm2"),
            ("TN-C-S", "35mm2", "10mm2", "6mm2"),
            ("TN-C-S", "50mm2", "16mm2", "10mm2"),
        ):
            with self.subTest(earthing, line=line):
                own = Arrangement(earthing)
                self.assertEqual(sizing.main_bonding(own, line, line).value, needed)
                enough, less = (self.site(earthing, line, b) for b in (needed, short))
                self.assertEqual(told(enough, "main-bonding-small"), set())
                self.assertEqual(told(less, "main-bonding-small"), {"m3"})


class Sockets(unittest.TestCase):
    def test_up_to_32_a_and_not_beyond(self):
        for rating, size, is_told in ((20, "4mm2", True), (32, "6mm2", True), (40, "10mm2", False)):
            one = circuit(breaker=Device(rating_a=rating, kind="B"), line_size=Size(size),
                          egc_size=Size(size), rcd_ma=None, year=2022)  # fmt: skip
            found = told(place(one), "socket-without-30ma") == {"c1"}
            self.assertEqual((rating, found), (rating, is_told))

    def test_thirty_milliamperes_serve_and_a_hundred_do_not(self):
        for ma, is_told in ((10, False), (30, False), (100, True)):
            one = circuit(rcd_ma=ma, rcd_type="A", year=2022)
            self.assertEqual((ma, told(place(one), "socket-without-30ma") == {"c1"}),
                             (ma, is_told))  # fmt: skip

    def test_an_rcd_that_nobody_spoke_of_is_asked_for_only_where_none_is_known(self):
        unsaid = circuit(gfci=None, rcd_ma=None, year=2022)
        for ma, asks in ((None, True), (30, False)):
            board = Panel(id="p1", name="Board", insulated="yes", rcd_ma=ma, rcd_type="A")
            site = place(unsaid, panels=(board,))
            found = [f for f in findings(site, study(site)) if f.id == "socket-without-30ma"]
            self.assertEqual([bool(f.asks) for f in found], [True] if asks else [])
        site = place(circuit(gfci="no", rcd_ma=None, year=2022))
        found = [f for f in findings(site, study(site)) if f.id == "socket-without-30ma"]
        self.assertEqual([bool(f.asks) for f in found], [False])


class Selective(unittest.TestCase):
    def test_the_next_rating_that_is_three_times_and_delayed(self):
        for ma, cure in ((10, 30), (30, 100), (100, 300)):
            one = circuit(rcd_ma=ma, rcd_type="A")
            board = Panel(id="p1", name="Board", insulated="yes", rcd_ma=ma, rcd_type="A")
            site = place(one, panels=(board,))
            found = [f for f in findings(site, study(site)) if f.id == "rcd-not-selective"]
            edits = {e.path: e.value for e in found[0].fix}
            self.assertEqual(edits, {"p1.rcd_ma": cure, "p1.rcd_delayed": "yes"})
            for edit in found[0].fix:
                site = apply(site, edit)
            self.assertEqual(told(site, "rcd-not-selective"), set())


class InTheGround(unittest.TestCase):
    def test_half_a_metre_of_cover(self):
        for mm, is_told in ((450, True), (490, True), (500, False), (600, False)):
            site = place(
                circuit(),
                buildings=(Building(id="b1"), Building(id="b2")),
                panels=(Panel(id="p1", building="b1", insulated="yes"),
                        Panel(id="p2", building="b2", insulated="yes")),
                feeders=(Feeder(id="f3", source="p1", to="p2", length_ft=20 * M, egc="wire",
                                egc_size=Size("6mm2"), line_size=Size("6mm2"), method="SWA",
                                breaker=Device(rating_a=32, kind="B"), route="underground",
                                cover_in=mm / 25.4),),
            )  # fmt: skip
            self.assertEqual((mm, told(site, "cable-shallow") == {"f3"}), (mm, is_told))


class Afloat(unittest.TestCase):
    """The supply's earth at what is named a caravan, unless it is a place of its own here."""

    def test_a_building_of_that_kind_is_judged_as_one(self):
        buildings = (Building(id="b1", name="House", permit="dwelling"),
                     Building(id="b2", name="Pitch", permit="caravan"))  # fmt: skip
        named = circuit(name="Caravan hook-up", rcd_ma=30, rcd_type="A")
        panels = (Panel(id="p1", building="b1", insulated="yes"),)
        for building, elements in ((None, {"c1"}), ("b2", {"b2"})):
            one = named.model_copy(update={"building": building})
            site = place(one, buildings=buildings, panels=panels)
            found = told(site, "export-forbidden")
            self.assertEqual((building, found), (building, elements))


class Devices(unittest.TestCase):
    """Several devices in one path, each at its own share of the fault."""

    def test_each_is_judged_at_its_share(self):
        small, fuse = Breaker(32, kind="B"), Fuse(63)
        both = DeviceSet(((small, 0.1), (fuse, 1.0)))
        # 20 A of 200 through the breaker: the fuse alone opens; 200 of 2,000 A: the breaker.
        self.assertEqual(both.slow_s(200.0), fuse.slow_s(200.0))
        self.assertLess(both.slow_s(2000.0), 0.11)
        self.assertEqual(both.fast_s(200.0), fuse.fast_s(200.0))
        self.assertEqual(DeviceSet(((small, 0.1),)).slow_s(1500.0), small.slow_s(150.0))

    def test_a_fuse_between_the_listed_ones_is_judged_by_its_neighbours(self):
        for rating, larger, smaller in ((45, 50, 40), (6, 16, None), (10, 16, None)):
            one = Fuse(rating)
            for amps in (1.3 * rating, 3.0 * rating, 8.0 * rating, 40.0 * rating):
                self.assertEqual(one.slow_s(amps), Fuse(larger).slow_s(amps))
                least = 0.0 if smaller is None else Fuse(smaller).fast_s(amps)
                self.assertEqual(one.fast_s(amps), least)
            working = str(one.opens_working(500.0).as_dict())
            self.assertIn(f"one of {larger} A clears no sooner", working)
        with self.assertRaises(BadInput):
            Fuse(200)
        shed = place(circuit(breaker=Device(rating_a=6, kind="gG")))
        self.assertIsNotNone(study(shed).loops["c1"].lowest_a)

    def test_a_line_carries_its_device_to_the_ampere(self):
        # 6 mm² clipped: capacities of the table, and one ampere more.
        capacity = sizing.current_capacity("6mm2", "thermoplastic", 2, "C")
        for rating, is_told in ((capacity, False), (capacity + 1, True)):
            one = circuit(line_size=Size("6mm2"), breaker=Device(rating_a=rating, kind="gG"))
            self.assertEqual((rating, told(place(one), "device-over-capacity") == {"c1"}),
                             (rating, is_told))  # fmt: skip

    def test_a_drop_is_told_beyond_its_advice(self):
        for metres, is_told in ((20, False), (60, True)):
            one = circuit(name="Heater", length_ft=metres * M, load_va=3600.0)
            self.assertEqual((metres, told(place(one), "drop-over-advice") == {"c1"}),
                             (metres, is_told))  # fmt: skip


class JoinedAgain(unittest.TestCase):
    """Neutral and earth joined again in an outbuilding: the cure is only to part them where a
    protective conductor came along; else the neutral was the only way home."""

    def test_the_cure_where_a_protective_conductor_came_along_and_where_none_did(self):
        for egc, level, parted in (("wire", "danger", True), ("none", "fix", False)):
            site = place(
                circuit(panel="p2"), earthing="TN-C-S",
                buildings=(Building(id="b1"), Building(id="b2")),
                panels=(Panel(id="p1", building="b1", insulated="yes"),
                        Panel(id="p2", building="b2", insulated="yes", bond="in")),
                feeders=(Feeder(id="f3", source="p1", to="p2", length_ft=20 * M, egc=egc,
                                neutral="yes", neutral_size=Size("10mm2"),
                                egc_size=Size("10mm2") if egc == "wire" else None,
                                line_size=Size("10mm2"), method="SWA",
                                breaker=Device(rating_a=40, kind="B")),),
            )  # fmt: skip
            found = [f for f in findings(site, study(site)) if f.id == "neutral-joined-again"]
            self.assertEqual([(f.place, f.level) for f in found], [("p2", level)])
            edits = [(e.path, e.value) for e in found[0].fix]
            self.assertEqual(edits, [("p2.bond", "out")] if parted else [])


class Sizes(unittest.TestCase):
    def rows(self, *circuits, **more):
        site = place(*circuits, **more)
        done = study(site)
        return {(r.path, r.label): r for r in metric_rows(assume(site), done)}

    def test_a_circuit_has_its_line_and_its_protective_conductor(self):
        rows = self.rows(circuit(breaker=Device(rating_a=32, kind="B")))
        line = rows["c1.line_size", "Line"]
        self.assertEqual((line.needed, line.meets), ("4mm2", False))
        by_heat = rows["c1.egc_size", "Protective conductor (by heat)"]
        self.assertTrue(by_heat.meets)
        thin = self.rows(circuit(egc_size=Size("1mm2"), length_ft=2 * M,
                                 breaker=Device(rating_a=63, kind="gG")), ze=0.05)  # fmt: skip
        by_table = thin["c1.egc_size", "Protective conductor (by the table)"]
        self.assertEqual((by_table.needed, by_table.meets), ("2.5mm2", False))

    def test_nothing_is_sized_by_what_nobody_knows(self):
        unknown = circuit(breaker=Device(kind="B"))
        self.assertEqual([p for p, _ in self.rows(unknown) if p.startswith("c1")], [])

    def test_the_least_that_is_needed_mends_what_was_told(self):
        site = place(circuit(breaker=Device(rating_a=32, kind="B")))
        found = [f for f in findings(site, study(site)) if f.id == "device-over-capacity"]
        self.assertEqual(len(found), 1)
        for edit in found[0].fix:
            site = apply(site, edit)
        self.assertEqual(told(site, "device-over-capacity"), set())


if __name__ == "__main__":
    unittest.main()
