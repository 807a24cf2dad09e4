"""Protection by place: what is asked of each circuit, and what is to be bought."""

import unittest

from returnpath.rules import Evidence, Standing, rows_by_place, shopping_list
from returnpath.site import Building, Device, Panel
from returnpath.site.circuits import Circuit
from returnpath.study import study

from .test_network import place


class ByPlace(unittest.TestCase):
    """A house of 2024 under the edition of 2023."""

    def circuits(self):
        def one(n, name, **facts):
            rating = facts.pop("rating", 20)
            return Circuit(id=f"c{n + 20}", panel="p1", name=name,
                           breaker=Device(rating_a=rating), **facts)  # fmt: skip

        return (
            one(0, "Kitchen counter", gfci="no", afci="no"),
            one(1, "Bathroom receptacles", gfci="no"),
            one(2, "Bedroom", afci="no", rating=15),
            one(3, "Laundry", gfci="yes"),
            one(4, "Dryer", poles=2, rating=30, gfci="no"),
            one(5, "Garage", gfci="no", year=1970),
            one(6, "Living room", afci="no", rating=15, method="EMT"),
            one(7, "Kitchen left", gfci="no", afci="no"),
            one(8, "Kitchen right", gfci="yes", afci="no", shares_with="c27"),
            one(9, "Water heater", poles=2, rating=30),
        )

    def evidence(self, at="breaker", line=None, edition=2023):
        house = Building(id="b9", name="House", permit="dwelling", wired_year=2024)
        panel = Panel(id="p1", main=Device(rating_a=200), bond="in", breaker_line=line)
        site = place(circuits=self.circuits(), buildings=(house,), panels=(panel,), feeders=())
        practice = site.practice.model_copy(update={"gfci_at": at, "edition": edition})
        site = site.model_copy(update={"practice": practice})
        return Evidence(site, study(site))

    def test_every_circuit_stands_somewhere(self):
        rows = {(r.name, r.protection): r.standing for r in rows_by_place(self.evidence())}
        self.assertEqual(rows["Kitchen counter", "GFCI"], Standing.MISSING)
        self.assertEqual(rows["Kitchen counter", "AFCI"], Standing.MISSING)
        self.assertEqual(rows["Laundry", "GFCI"], Standing.FITTED)
        self.assertEqual(rows["Laundry", "AFCI"], Standing.NOT_KNOWN)
        self.assertEqual(rows["Garage", "GFCI"], Standing.MAY_REMAIN)
        self.assertNotIn(("Water heater", "GFCI"), rows)
        self.assertNotIn(("Bathroom receptacles", "AFCI"), rows)

    def test_an_older_edition_asks_for_less(self):
        rows = {(r.name, r.protection) for r in rows_by_place(self.evidence(edition=2011))}
        self.assertNotIn(("Dryer", "GFCI"), rows)
        self.assertNotIn(("Kitchen counter", "AFCI"), rows)
        self.assertIn(("Bedroom", "AFCI"), rows)

    def bought(self, **asked):
        return {p.what: (p.count, p.circuits) for p in shopping_list(self.evidence(**asked), "p1")}

    def test_breakers_of_the_panels_line(self):
        self.assertEqual(self.bought(line="Alder"), {
            "20 A 1-pole GFCI and AFCI breaker, Alder": (1, ("Kitchen counter",)),
            "20 A 1-pole GFCI breaker, Alder": (1, ("Bathroom receptacles",)),
            "15 A 1-pole AFCI breaker, Alder": (2, ("Bedroom", "Living room")),
            "30 A 2-pole GFCI breaker, Alder": (1, ("Dryer",)),
            # A pair that shares a neutral opens and is guarded together.
            "20 A 2-pole GFCI and AFCI breaker, Alder": (1, ("Kitchen left with Kitchen right",)),
        })  # fmt: skip

    def test_at_the_receptacle_where_it_can_be(self):
        """An AFCI receptacle only behind metal all the way; two poles keep the breaker."""
        found = self.bought(at="outlet")
        self.assertEqual(found["20 A GFCI receptacle, first on the circuit"][1],
                         ("Bathroom receptacles",))  # fmt: skip
        self.assertEqual(found["15 A AFCI receptacle, first on the circuit"][1], ("Living room",))
        listed = ", listed for the panel"
        self.assertEqual(found[f"15 A 1-pole AFCI breaker{listed}"][1], ("Bedroom",))
        self.assertIn(f"20 A 1-pole GFCI and AFCI breaker{listed}", found)
        self.assertIn(f"30 A 2-pole GFCI breaker{listed}", found)
        self.assertEqual(sum(count for count, _ in found.values()), 6)

    def test_nothing_missing_nothing_to_buy(self):
        self.assertEqual(shopping_list(self.evidence(), "p1")[0].count, 1)
        fitted = tuple(c.model_copy(update={"gfci": "yes", "afci": "yes"}) for c in self.circuits())
        site = self.evidence().site.model_copy(update={"circuits": fitted})
        self.assertEqual(shopping_list(Evidence(site, study(site)), "p1"), ())
