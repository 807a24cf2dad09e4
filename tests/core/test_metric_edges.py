"""The edges of the metric checks: what is just enough is not told, what is just short is."""

import unittest

from returnpath import sizing
from returnpath.assume import assume
from returnpath.rules import findings
from returnpath.rules.metric_sizes import metric_rows
from returnpath.site import Building, Device, Feeder, Metal, Panel, Service, apply
from returnpath.site.arrangement import Arrangement
from returnpath.study import study
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
