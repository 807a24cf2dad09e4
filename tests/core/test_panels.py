"""The face of a panel, the amperes on its legs, and the fewest moves that even them out."""

import itertools
import random
import unittest

from returnpath.errors import BadInput
from returnpath.network.wiring import legs_of_circuits
from returnpath.panels import (
    Counted,
    LoadItem,
    dwelling_load,
    even_out,
    face_of,
    fits,
    legs_after,
    legs_of_panel,
    rooms,
    swaps,
    typed_item,
)
from returnpath.panels.balance import CLOSE_A, CLOSE_SHARE
from returnpath.panels.demand import lighting_demand, range_demand
from returnpath.rules import findings
from returnpath.site import Array, Building, Device, Panel
from returnpath.site.circuits import Circuit
from returnpath.study import study

from .test_findings import example
from .test_network import place


def panel(*circuits, spaces=None, **facts):
    """The face of one panel with circuits given as (space, volt-amperes) or whole Circuits."""
    made = [
        c if isinstance(c, Circuit) else Circuit(
            id=f"c{n + 20}", panel="p1", space=c[0], load_va=c[1], breaker=Device(rating_a=20))
        for n, c in enumerate(circuits)
    ]  # fmt: skip
    here = Panel(id="p1", main=Device(rating_a=200), bond="in", spaces=spaces)
    return face_of(place(circuits=tuple(made), panels=(here,), feeders=(), **facts), "p1")


class Faces(unittest.TestCase):
    def test_spaces_stand_two_to_a_row_each_row_on_the_next_leg(self):
        face = panel((1, 100.0), spaces=12)
        self.assertEqual([s.leg for s in face.spaces], [1, 1, 2, 2, 1, 1, 2, 2, 1, 1, 2, 2])
        self.assertEqual(face.free, tuple(range(2, 13)))
        self.assertTrue(face.is_counted)
        self.assertFalse(panel((1, 100.0)).is_counted)

    def test_two_poles_take_the_space_below_too_and_fit_only_where_both_are_free(self):
        range_ = Circuit(id="c30", panel="p1", space=2, poles=2, breaker=Device(rating_a=50))
        face = panel((1, 100.0), (6, 100.0), range_, spaces=8)
        (unit,) = [u for u in face.units if u.id == "c30"]
        self.assertEqual(unit.spaces, (2, 4))
        self.assertEqual(fits(face, unit), (3, 5))  # 3 and 5, 5 and 7; 4 and 6 is taken
        (single,) = [u for u in face.units if u.first == 1]
        self.assertEqual(fits(face, single), (3, 5, 7, 8))

    def test_a_space_taken_twice_is_seen_unless_it_is_a_tandem(self):
        tandem = [Circuit(id=f"c3{n}", panel="p1", space=3, tandem="yes") for n in (0, 1)]
        self.assertFalse(panel(*tandem, spaces=8).spaces[2].is_taken_twice)
        self.assertTrue(panel((3, 1.0), (3, 1.0), spaces=8).spaces[2].is_taken_twice)

    def test_what_has_no_space_is_listed(self):
        face = panel(Circuit(id="c30", panel="p1"), (1, 1.0))
        self.assertEqual([u.id for u in face.unplaced], ["c30"])

    def test_the_demo_panel(self):
        site = example("pebblewick")
        face = face_of(site, site.panel.id)
        legs = legs_of_panel(face)
        # 120 V: 1200+300+350 … on L1; a dryer and a heater on both; by hand from the job file
        ones = sum((1200, 1300, 600, 800, 700)) / 120
        twos = sum((900, 300, 350)) / 120
        both = (5000 + 3800) / 240
        self.assertAlmostEqual(legs.amps[0], ones + both, places=6)
        self.assertAlmostEqual(legs.amps[1], twos + both, places=6)
        self.assertAlmostEqual(legs.neutral, ones - twos, places=6)


class Moving(unittest.TestCase):
    def test_the_legs_before_and_after_one_move(self):
        range_ = Circuit(id="c30", panel="p1", space=2, poles=2, load_va=4800.0)
        face = panel((1, 2400.0), (5, 1200.0), (7, 600.0), range_, spaces=12)
        self.assertEqual(legs_of_panel(face).amps, (50.0, 25.0))
        after = legs_after(face, next(u for u in face.units if u.first == 5))
        self.assertEqual((after.amps, after.neutral), ((40.0, 35.0), 5.0))
        self.assertIsNone(legs_after(face, next(u for u in face.units if u.id == "c30")))


class EvenOut(unittest.TestCase):
    def test_the_multiwire_pair_of_the_demo_ends_on_opposite_legs(self):
        site = example("pebblewick")
        found = even_out(face_of(site, site.panel.id))
        face = face_of(site, site.panel.id)
        to = {m.unit.name: m.to for m in found.moves}
        where = {u.name: to.get(u.name, u.first) for u in face.units}
        legs = {face.leg_of(where[n]) for n in ("Dining left", "Dining right")}
        self.assertEqual(legs, {1, 2})
        self.assertTrue(found.is_proven)
        self.assertLess(abs(found.after[0] - found.after[1]), 5)

    def test_nothing_to_do_where_the_legs_are_even_or_cannot_be(self):
        self.assertIsNone(even_out(panel((1, 1200.0), (3, 1200.0), spaces=12)))
        self.assertIsNone(even_out(panel((1, 6000.0), (3, 600.0), spaces=12)))

    def test_by_space_each_pole_counts_as_one(self):
        face = panel(*((n, None) for n in (1, 2, 5, 6, 9)), spaces=12)
        found = even_out(face, by_space=True)
        self.assertEqual(len(found.moves), 2)
        self.assertEqual(sorted(found.after), [2.0, 3.0])

    def test_a_full_panel_swaps(self):
        loads = ((1, 2400.0), (2, 2400.0), (3, 240.0), (4, 240.0))
        found = even_out(panel(*loads, spaces=4))
        self.assertEqual(len(found.moves), 2)
        self.assertEqual({m.to for m in found.moves} & {1, 2} != set(), True)
        self.assertAlmostEqual(found.after[0], found.after[1])

    def test_what_feeds_in_and_two_poles_never_move(self):
        solar = Circuit(id="c40", panel="p1", name="Roof inverter", space=1, load_va=0.0)
        face = panel(solar, (5, 1800.0), (6, 1200.0), (9, 600.0), spaces=14)
        moved = {m.unit.id for m in even_out(face).moves}
        self.assertNotIn("c40", moved)

    def test_what_is_said_to_stay_never_moves(self):
        """25 A and 15 A: the 5 A on the other leg evens them out, unless all are held."""
        free = panel((1, 2400), (5, 600), (3, 1800), spaces=8)
        self.assertIsNotNone(even_out(free))
        held = tuple(
            Circuit(id=f"c{n + 20}", panel="p1", space=space, load_va=va, stays="yes",
                    breaker=Device(rating_a=20))
            for n, (space, va) in enumerate(((1, 2400), (5, 600), (3, 1800)))
        )  # fmt: skip
        face = panel(*held, spaces=8)
        self.assertIsNone(even_out(face))
        unit = face.units[0]
        self.assertEqual((fits(face, unit), swaps(face, unit)), ((), ()))
        self.assertNotEqual(swaps(free, free.units[0]), ())

    def test_a_generators_inlet_feeds_in(self):
        inlet = Circuit(id="c20", panel="p1", name="Generator inlet", space=1, load_va=2400,
                        breaker=Device(rating_a=30))  # fmt: skip
        face = panel(inlet, spaces=8)
        self.assertTrue(face.units[0].is_source)
        self.assertEqual(legs_of_panel(face).amps, (0.0, 0.0))

    def test_as_few_moves_as_trying_them_all(self):
        """Random panels of up to nine breakers against every subset of them."""
        for seed in range(40):
            chance = random.Random(seed)
            spaces = chance.sample(range(1, 17), chance.randrange(2, 10))
            face = panel(*((s, 120.0 * chance.randrange(1, 16)) for s in spaces), spaces=16)
            before = legs_of_panel(face)
            close = max(CLOSE_A, CLOSE_SHARE * sum(before.amps) / 2)
            apart = before.amps[0] - before.amps[1]
            free = [sum(face.leg_of(n) == leg for n in face.free) for leg in (1, 2)]
            best = None
            units = face.units
            for size in range(len(units) + 1):
                for chosen in itertools.combinations(units, size):
                    sign = [1 if face.leg_of(u.first) == 1 else -1 for u in chosen]
                    gained = sum(sign)  # more on leg 2
                    shift = sum(-2 * g * u.load_va / 120 for g, u in zip(sign, chosen, strict=True))
                    if -free[0] <= gained <= free[1] and abs(apart + shift) <= close + 1e-9:
                        best = min(1e9 if best is None else best, abs(apart + shift))
                if best is not None:
                    break
            found = even_out(face)
            if best is None or size == 0:
                self.assertIsNone(found, seed)
                continue
            self.assertEqual(len(found.moves), size, seed)
            self.assertAlmostEqual(abs(found.after[0] - found.after[1]), best, places=6)
            taken = [m.to for m in found.moves]
            self.assertEqual(len(taken), len(set(taken)))


class DwellingLoads(unittest.TestCase):
    """1,500 sq ft: 4,500 VA; two kitchen circuits and the laundry 4,500; a 12 kW range, a dryer
    (5,000 at least), a 4.5 kW water heater: 30,500 VA together."""

    def circuits(self, *more):
        rows = (
            ("Range", 12_000.0, 2, 50),
            ("Dryer", 4_000.0, 2, 30),
            ("Water heater", 4_500.0, 2, 30),
            ("Kitchen counter", None, 1, 20),
            ("Bedroom lights", 350.0, 1, 15),
            *more,
        )
        return tuple(
            Circuit(
                id=f"c{n + 20}",
                panel="p1",
                name=name,
                load_va=va,
                poles=poles,
                breaker=Device(rating_a=rating),
            )
            for n, (name, va, poles, rating) in enumerate(rows)
        )

    def load(self, *more, **asked):
        home = Building(id="b9", name="House", permit="dwelling", floor_area_sqft=1500)
        return dwelling_load(place(circuits=self.circuits(*more), buildings=(home,)), **asked)

    def test_an_existing_dwelling(self):
        """8,000 + 40 % of 22,500 = 17,000 VA."""
        found = self.load()
        self.assertAlmostEqual(found.va, 17_000)
        self.assertAlmostEqual(found.amps, 17_000 / 240)
        self.assertAlmostEqual(found.room_a, 200 - 17_000 / 240)
        self.assertEqual(found.unknown, ())

    def test_with_cooling_and_heat_the_larger(self):
        """35,500: 8,000 + 40 % of 27,500 = 19,000. New: 10,000 + 40 % of 20,500 + 5,000."""
        cooling = ("AC condenser", 5_000.0, 2, 30)
        heat = ("Baseboard heat", 4_000.0, 2, 20)
        self.assertAlmostEqual(self.load(cooling, heat).va, 19_000)
        self.assertAlmostEqual(self.load(cooling, heat, method="new").va, 23_200)
        more = ("Electric heat strips", 10_000.0, 2, 60)
        # 65 % of 14,000 = 9,100 beside 18,200
        self.assertAlmostEqual(self.load(cooling, heat, more, method="new").va, 27_300)
        four = tuple((f"Baseboard {n}", 4_000.0, 2, 20) for n in range(4))
        self.assertAlmostEqual(self.load(cooling, *four, method="new").va, 18_200 + 6_400)

    def test_a_vehicle_stands_outside_the_forty_per_cent(self):
        self.assertAlmostEqual(self.load(("EV charger", 11_520.0, 2, 60)).va, 17_000 + 11_520)
        self.assertAlmostEqual(self.load(("EV charger", 3_000.0, 2, 20)).va, 17_000 + 7_200)
        added = self.load(add=LoadItem("charger", 48 * 240, Counted.VEHICLE, True))
        self.assertAlmostEqual(added.va, 17_000 + 11_520)

    def test_what_nobody_read_is_named_and_what_feeds_in_is_no_load(self):
        found = self.load(("Dishwasher", None, 1, 20), ("Roof inverter", 4_000.0, 2, 40))
        self.assertEqual(found.unknown, ("Dishwasher",))
        self.assertAlmostEqual(found.va, 17_000)
        self.assertAlmostEqual(self.load(("Dishwasher", 1_000.0, 1, 20)).va, 17_400)
        self.assertAlmostEqual(self.load(("Kitchen hood", 1_000.0, 1, 20)).va, 17_400)

    def test_while_a_nameplate_is_not_known_no_room_is_promised(self):
        """What is at least 17,000 VA may be more: nothing “fits” on that."""
        found = self.load(("Dishwasher", None, 1, 20))
        self.assertIsNone(found.room_a)
        self.assertIsNone(found.fits)
        self.assertIs(self.load().fits, True)
        over = LoadItem("welder", 40_000.0, Counted.VEHICLE, True)
        self.assertIs(self.load(("Dishwasher", None, 1, 20), add=over).fits, False)

    def test_an_arrays_circuit_feeds_in_whatever_it_is_called(self):
        more = ("Roof east", 4_000.0, 2, 40)
        self.assertGreater(self.load(more).va, 17_000)
        home = Building(id="b9", name="House", permit="dwelling", floor_area_sqft=1500)
        circuits = self.circuits(more)
        site = place(circuits=circuits, buildings=(home,),
                     arrays=(Array(id="a1", circuit=circuits[-1].id),))  # fmt: skip
        self.assertAlmostEqual(dwelling_load(site).va, 17_000)
        (unit,) = [u for u in face_of(site, "p1").unplaced if u.id == circuits[-1].id]
        self.assertTrue(unit.is_source)

    def test_by_the_standard_method(self):
        """9,000 VA of lighting and circuits: 3,000 + 35 % of 6,000 = 5,100. A 12 kW range is
        8,000, the dryer 5,000, one fastened appliance 4,500 in full: 22,600 VA."""
        found = self.load(method="standard")
        self.assertAlmostEqual(found.va, 22_600)
        # Three more appliances make four: 75 % of all, 0.75 × (4,500 + 3,600).
        more = tuple((name, 1_200.0, 1, 20) for name in ("Dishwasher", "Disposal", "Microwave"))
        self.assertAlmostEqual(
            self.load(*more, method="standard").va, 22_600 - 4_500 + 0.75 * 8_100
        )
        # Cooling in full and a quarter of it as the largest motor; heating larger: no motor then.
        cooling, heat = ("AC condenser", 5_000.0, 2, 30), ("Baseboard heat", 6_000.0, 2, 30)
        self.assertAlmostEqual(self.load(cooling, method="standard").va, 22_600 + 6_250)
        self.assertAlmostEqual(self.load(cooling, heat, method="standard").va, 22_600 + 6_000)

    def test_ranges_by_the_columns_of_the_table(self):
        for nameplates, demand in (
            ([12_000.0], 8_000),
            ([9_000.0], 8_000),
            ([14_600.0], 8_000 * 1.15),
            ([14_400.0], 8_000 * 1.10),
            ([8_000.0], 6_400),
            ([3_000.0], 2_400),
            ([4_000.0, 5_000.0], 0.65 * 9_000),
            ([12_000.0, 4_000.0], 8_000 + 3_200),
            ([], 0),
        ):
            self.assertAlmostEqual(range_demand(nameplates), demand, msg=nameplates)

    def test_large_lighting_loads_by_their_three_steps(self):
        self.assertAlmostEqual(lighting_demand(2_000), 2_000)
        self.assertAlmostEqual(lighting_demand(120_000), 3_000 + 0.35 * 117_000)
        self.assertAlmostEqual(lighting_demand(140_000), 3_000 + 0.35 * 117_000 + 5_000)

    def test_new_cooling_in_an_existing_dwelling_counts_in_full(self):
        """26,000 VA of the rest, 8,000 + 40 % of 22,500 = 17,000, and the 5,000 beside it."""
        added = LoadItem("cooling", 5_000.0, Counted.COOLING, True)
        self.assertAlmostEqual(self.load(add=added).va, 22_000)
        self.assertAlmostEqual(self.load(("AC condenser", 5_000.0, 2, 30)).va, 19_000)

    def test_the_neutral_carries_what_is_between_a_line_and_it(self):
        """5,100 VA of lighting, range and dryer at 70 % of 13,000 VA; the water heater, which
        needs two lines alone, nothing. A 120 V dishwasher on one leg: 10 A."""
        plain = (5_100 + 0.7 * 13_000) / 240
        self.assertAlmostEqual(self.load().neutral_a, plain)
        self.assertAlmostEqual(self.load(method="standard").neutral_a, plain)
        dishwasher = ("Dishwasher", 1_200.0, 1, 20)
        self.assertAlmostEqual(self.load(dishwasher).neutral_a, plain + 10)
        cooled = self.load(("AC condenser", 5_000.0, 2, 30))
        self.assertAlmostEqual(cooled.neutral_a, plain)

    def test_over_two_hundred_amperes_the_rest_of_the_neutral_counts_seventy_per_cent(self):
        kiln = ("Kiln", 26_400.0, 1, 250)  # 220 A between a line and the neutral
        whole = (5_100 + 0.7 * 13_000) / 240 + 220
        self.assertAlmostEqual(self.load(kiln).neutral_a, 200 + 0.7 * (whole - 200))

    def test_a_service_neutral_under_its_load_is_found(self):
        """59 A of neutral; a kiln of 60 A between a line and it makes 119: 6 AWG aluminum carries
        50 A and 2 AWG 90, 1/0 AWG 120."""
        home = Building(id="b9", name="House", permit="dwelling", floor_area_sqft=1500)
        circuits = self.circuits(("Kiln", 7_200.0, 1, 80))
        for size, needed in (("6", "1/0"), ("2", "1/0"), ("1/0", None), ("2/0", None)):
            site = place(circuits=circuits, buildings=(home,))
            run = site.services[0].model_copy(update={"neutral_size": size})
            site = site.model_copy(update={"services": (run,)})
            found = [f for f in findings(site, study(site)) if "dwelling's load" in f.found]
            self.assertEqual([e.value for f in found for e in f.fix], [needed] if needed else [])
            for finding in found:
                self.assertIn("220.61", str(finding.authority))
                self.assertAlmostEqual(finding.working.value, (5_100 + 9_100) / 240 + 60)

    def test_a_load_typed_as_spoken(self):
        for text, va, counted in (
            ("48", 11_520, Counted.VEHICLE), ("48 A charger", 11_520, Counted.VEHICLE),
            ("50 A hot tub", 12_000, Counted.APPLIANCE), ("7.2kW EVSE", 7_200, Counted.VEHICLE),
            ("9600 W electric heat", 9_600, Counted.HEATING), ("30a dryer", 7_200, Counted.DRYER),
        ):  # fmt: skip
            item = typed_item(text)
            self.assertEqual((item.va, item.counted), (va, counted), text)

    def test_a_load_in_another_unit_is_never_taken_for_amperes(self):
        for text in ("1.5 hp pump", "3 ton air conditioner", "40 gallon water heater", "hot tub",
                     "2 48A chargers", "240 V heater", "-5 A tub", "0 A tub"):  # fmt: skip
            with self.assertRaises(BadInput, msg=text):
                typed_item(text)

    def test_a_small_load_still_needs_a_hundred_amperes(self):
        self.assertEqual(self.load().least_service_a, 100)

    def test_a_third_kitchen_circuit_counts(self):
        more = (("Kitchen island", None, 1, 20), ("Dining", None, 1, 20))
        self.assertAlmostEqual(self.load(*more).va, 17_000 + 0.4 * 1_500)

    def test_without_a_floor_area_there_is_no_answer(self):
        self.assertIsNone(dwelling_load(place(circuits=self.circuits())))
        self.assertAlmostEqual(
            dwelling_load(place(circuits=self.circuits()), area_sqft=1500).va, 17_000
        )


class AnotherLeg(unittest.TestCase):
    """A multiwire pair on one leg goes to a space that is free on the other."""

    def fix(self, *more):
        rows = ((1, 1, ""), (2, 1, "c20"), (3, 1, ""), (4, 1, ""), (5, 2, ""), *more)
        circuits = tuple(
            Circuit(id=f"c{n + 20}", panel="p1", space=space, poles=poles, shares_with=of or None,
                    neutral="yes", line_size="12", length_ft=30, egc="wire", egc_size="12",
                    breaker=Device(rating_a=20))
            for n, (space, poles, of) in enumerate(rows)
        )  # fmt: skip
        here = Panel(id="p1", main=Device(rating_a=200), bond="in", spaces=8)
        site = place(circuits=circuits, panels=(here,), feeders=())
        found = [f for f in findings(site, study(site)) if f.id == "shared-neutral-same-leg"]
        self.assertEqual([f.place for f in found], ["c21"])
        return found[0].fix

    def test_the_space_under_a_two_pole_breaker_is_not_free(self):
        (edit,) = self.fix()
        self.assertEqual((edit.path, edit.value), ("c21.space", 8))

    def test_a_full_panel_offers_none(self):
        self.assertEqual(self.fix((8, 1, "")), ())


class Numbered(unittest.TestCase):
    """Six spaces: which leg a number is on, and what is under it, by the way they are numbered."""

    def face(self, numbering, *circuits):
        here = Panel(id="p1", main=Device(rating_a=200), bond="in", spaces=6, numbering=numbering)
        made = tuple(
            Circuit(id=f"c{n + 20}", panel="p1", space=space, poles=poles, load_va=1200,
                    breaker=Device(rating_a=20))
            for n, (space, poles) in enumerate(circuits)
        )  # fmt: skip
        return face_of(place(circuits=made, panels=(here,), feeders=()), "p1")

    def test_the_leg_of_each_number(self):
        for numbering, legs in (
            (None, [1, 1, 2, 2, 1, 1]),
            ("across", [1, 1, 2, 2, 1, 1]),
            ("down", [1, 2, 1, 1, 2, 1]),
            ("column", [1, 2, 1, 2, 1, 2]),
        ):
            face = self.face(numbering)
            self.assertEqual([face.leg_of(n) for n in range(1, 7)], legs, numbering)

    def test_two_poles_take_what_is_under_them(self):
        for numbering, spaces in ((None, (1, 3)), ("down", (1, 2)), ("column", (1, 2))):
            (unit,) = self.face(numbering, (1, 2)).units
            self.assertEqual(unit.spaces, spaces)
        # Down the left ends at 3: two poles do not go round the corner.
        self.assertEqual(rooms(self.face("down"), 2), (1, 2, 4, 5))
        self.assertEqual(rooms(self.face("column"), 2), (1, 2, 3, 4, 5))
        self.assertEqual(rooms(self.face(None), 2), (1, 2, 3, 4))

    def test_the_network_has_the_same_legs(self):
        """Spaces 1 and 4 share a neutral: two legs where they are numbered across, and one, with
        both loads on the neutral, where they are numbered down the left."""
        for numbering, legs in ((None, [1, 2]), ("down", [1, 1]), ("column", [1, 2])):
            here = Panel(id="p1", main=Device(rating_a=200), bond="in", spaces=6,
                         numbering=numbering)  # fmt: skip
            pair = tuple(
                Circuit(id=f"c{n + 20}", panel="p1", space=space, breaker=Device(rating_a=20),
                        line_size="12", egc="wire", egc_size="12", length_ft=40.0, neutral="yes",
                        shares_with="c20" if n else None)
                for n, space in enumerate((1, 4))
            )  # fmt: skip
            site = place(circuits=pair, panels=(here,), feeders=())
            found = legs_of_circuits(site)
            self.assertEqual([found["c20"][0], found["c21"][0]], legs, numbering)
            ids = {f.id for f in findings(site, study(site))}
            self.assertEqual("shared-neutral-same-leg" in ids, legs[0] == legs[1], numbering)
