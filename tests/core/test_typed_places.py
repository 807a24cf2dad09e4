"""A place typed line by line; duplicating and removing; what can be tried; what a meter reads."""

import math
import unittest

from returnpath.errors import BadInput
from returnpath.readings import expected_loop
from returnpath.rules import (
    curve_question,
    deciding_question,
    is_proven,
    pairs,
    unproven,
    whatifs,
)
from returnpath.site import (
    Add,
    Installation,
    apply,
    apply_all,
    duplicate,
    read_lines,
    read_place,
    removal,
)
from returnpath.study import Verdict, study

from .houses import house
from .test_findings import example


def typed(site, *lines):
    """The site after lines were typed; each must be understood."""
    for line in lines:
        reading = read_place(site, line)
        assert reading.is_complete, (line, reading.problems)
        site = apply_all(site, reading.edits)
    return site


class TypedPlaces(unittest.TestCase):
    def test_a_bond_of_nothing_that_is_known_is_no_circuit(self):
        for line in ("railing bonded #6", "exhaust hood bonded #8"):
            self.assertIn("What is bonded?", " ".join(read_place(Installation(), line).problems))
        self.assertTrue(read_place(Installation(), "20A 12/2 bonded outlets 30ft").edits)

    def test_a_second_of_a_name_is_read_back_as_one(self):
        shed = "shed sub panel 60A 6-3 NM 80 ft"
        site = typed(Installation(), "15A 14/2 kitchen lights 40 ft", shed, "20A 12/2 40 ft")
        second = "a second of this name: one is here already"
        for line in (shed, "15A 14/2 KITCHEN lights 12 ft"):
            self.assertIn(second, read_place(site, line).remarks, line)
        panel = next(p.id for p in site.panels if p.name == "Shed")
        for line, at in (("15A 14/2 kitchen lights 40 ft", panel), ("20A 12/2 40 ft", ""),
                         ("barn sub panel 60A 6-3 NM 80 ft", "")):  # fmt: skip
            self.assertNotIn(second, read_place(site, line, at).remarks, line)

    def test_a_sub_panel_and_its_feeder(self):
        site = typed(house("20A 12/2 NM 85ft a"), "panel Loft studio from Panel 60A 6/3 NM 40ft")
        panel, feeder = site.panels[-1], site.feeders[-1]
        self.assertEqual((panel.name, panel.kind, panel.bond), ("Loft studio", "sub", None))
        self.assertEqual((feeder.source, feeder.to), ("p1", panel.id))
        self.assertEqual((feeder.breaker.rating_a, feeder.line_size), (60, "6"))
        self.assertEqual((feeder.length_ft, feeder.poles, feeder.egc), (40, 2, "wire"))
        self.assertEqual((feeder.egc_size, feeder.neutral_size), ("10", "6"))

    def test_a_panel_may_be_called_by_its_mark(self):
        for line, name in (
            ("panel A2 60A 6/3 NM 40ft", "A2"),
            ("sub-panel LP-1 225A MLO 4/0 SER 20ft", "LP-1"),
        ):
            self.assertEqual(typed(house("20A 12/2 NM 85ft a"), line).panels[-1].name, name)
        for line in ("20A 12/2 NM 40ft A2", "panel Loft2x 60A"):
            self.assertFalse(read_place(house("20A 12/2 NM 85ft a"), line).is_complete)

    def test_a_multiwire_pair_shares_its_neutral_and_a_spoken_number_makes_several(self):
        site = typed(
            Installation(), "multiwire 12/3 20 amp, no tie, dishwasher", "two 20A 12/2 bath"
        )
        first, second, *baths = site.circuits[-4:]
        self.assertEqual(
            [(c.poles, c.neutral, c.common_opening) for c in (first, second)],
            [(1, "yes", "no")] * 2,
        )
        self.assertEqual((first.shares_with, second.shares_with), (None, first.id))
        self.assertEqual([c.name for c in baths], ["Bath 1", "Bath 2"])
        self.assertEqual({c.shares_with for c in baths}, {None})
        third = typed(site, "20A 12/3 fridge, shares its neutral with Bath 1").circuits[-1]
        self.assertEqual((third.shares_with, third.poles), (baths[0].id, 1))
        for line in ("20A 12/2 multiwire den", "20A 12/3 shared neutral den", "7 20A 12/2 den"):
            reading = read_place(site, line)
            self.assertFalse(reading.is_complete, line)
            self.assertTrue(reading.problems, line)

    def test_what_nothing_says_is_asked_and_never_taken_for_a_circuit(self):
        site = house("20A 12/2 NM 85ft a")
        for line in ("rain gutter", "chain link fence", "meter combo 200A", "cutoff on pole 200A"):
            reading = read_place(site, line)
            self.assertFalse(reading.is_complete, line)
            self.assertEqual([k for k, _ in reading.offered][:2], ["circuit", "metal"])
            self.assertTrue(read_place(site, line, as_kind="circuit").is_complete, line)
        for line in ("bad splice at kitchen", "kitchen neutral loose"):
            self.assertIn("select that part", " ".join(read_place(site, line).problems), line)
        for line in ("bedroom lights", "spare 20A", "den", "Zanzibar 12/2 20A"):
            self.assertTrue(read_place(site, line).is_complete, line)

    def test_the_other_kinds_in_other_words(self):
        site = house("20A 12/2 NM 85ft a")
        for line, kind in (
            ("feed barn 60A #6 PVC 100ft ground 10", "panel"),
            ("subfeed to the shop 100A 2-2-2-4 SER 90ft", "panel"),
            ("battery 10kW", "supply"),
            ("standby gen 18kW", "supply"),
            ("cold water bond number 4", "metal"),
            ("rebar ground #4", "electrode"),
            ("building barn 120 ft away", "building"),
        ):
            self.assertEqual(read_place(site, line).kind, kind, line)
        made = read_place(site, "standby gen 18kW").facts
        self.assertEqual((made["kind"], made["kva"]), ("generator", 18))

    def test_the_utility_and_a_well_casing(self):
        site = house("20A 12/2 NM 85ft a")
        for line in ("utility 37.5 kVA 1.9%Z", "utility transformer 37.5kVA 1.9 %"):
            supply = typed(site, line).supplies[0]
            self.assertEqual((supply.kva, supply.percent_z), (37.5, 1.9))
        self.assertEqual(read_place(site, "utility room 20A 12/2 NM 30ft").kind, "circuit")
        metal = typed(site, "well casing steel bonded 6").metals[-1]
        self.assertEqual((metal.name, metal.kind, metal.bonded), ("Well casing", "other", "yes"))

    def test_in_another_building_from_another_panel(self):
        site = typed(
            Installation(),
            "shed Boathouse",
            "panel Studio 60A 6/3 NM 40ft",
            "panel Bench in Boathouse from studio 30A 10/3 UF 60ft",
        )
        self.assertEqual(site.buildings[0].permit, "dwelling accessory")
        self.assertEqual(site.panels[-1].building, site.buildings[0].id)
        self.assertEqual(site.feeders[-1].source, site.panels[1].id)

    def test_electrodes_pipes_and_a_generator(self):
        site = typed(
            Installation(),
            "rod 8ft wire 6",
            "rod 8ft wire 6, 7ft from the last",
            "footing steel 24ft wire 4",
            "water pipe copper bonded 4",
            "gas pipe metal not bonded",
            "generator 8kVA",
        )
        one, two, steel = site.electrodes  # the first was not described yet
        self.assertEqual((one.kind, one.length_ft, one.gec_size), ("rod", 8, "6"))
        self.assertEqual((two.near, two.spacing_ft), (one.id, 7))
        self.assertEqual((steel.kind, steel.length_ft, steel.gec_size), ("concrete", 24, "4"))
        water, gas = site.metals
        self.assertEqual((water.material, water.bonded, water.bond_size), ("metal", "yes", "4"))
        self.assertEqual((gas.kind, gas.bonded), ("gas", "no"))
        self.assertEqual((site.supplies[-1].kva, site.services[-1].supply),
                         (8, site.supplies[-1].id))  # fmt: skip

    def test_two_rods_at_a_panel_that_is_named(self):
        site = typed(
            Installation(),
            "panel Barn from main 60A 6/3 UF 120ft",  # the service's own panel has no name
            "2 rods 8ft wire 6 7ft apart at barn",
            "two rods",
        )
        barn = site.panels[-1].id
        self.assertEqual(site.feeders[-1].source, site.panel.id)
        one, two, three, four = (e for e in site.electrodes if e.kind == "rod")
        self.assertEqual([e.panel for e in (two, three)], [barn, barn])
        self.assertEqual((three.near, three.spacing_ft, three.gec_size), (two.id, 7, "6"))
        self.assertEqual([e.panel for e in (one, four)], [site.panel.id] * 2)
        self.assertEqual((four.near, four.spacing_ft), (one.id, None))

    def test_a_panel_of_a_shed_stands_in_a_building_of_its_own(self):
        for line, own in (("sub panel shed 60A 6/3 UF 80ft", "Shed"),
                          ("60A 6-3 UF to greenhouse 80 ft", "Greenhouse"),
                          ("sub panel garage 60A 6/3 NM 30ft", None),
                          ("sub panel garage panel 60A 6/3 UF 30ft", "Garage")):  # fmt: skip
            with self.subTest(line):
                site = apply_all(Installation(), read_place(Installation(), line).edits)
                there = {b.id: b.name for b in site.buildings}
                self.assertEqual(there.get(site.panels[-1].building), own)
                self.assertEqual(site.feeders[0].to, site.panels[-1].id)
        listed = read_lines(Installation(), "20A 12/2 bath\nsub panel shed 60A 6/3 UF 80ft")
        self.assertIn("in a building of its own (assumed)", listed.words[1])
        near = apply_all(Installation(), read_place(Installation(), "detached garage").edits)
        garage = apply_all(near, read_place(near, "sub panel garage 60A 6/3 UF 30ft").edits)
        self.assertEqual((len(garage.buildings), garage.panels[-1].building),
                         (1, near.buildings[0].id))  # fmt: skip
        tool = apply_all(Installation(), [Add(to="buildings", facts={"name": "Tool shed"})])
        pump = apply_all(tool, read_place(tool, "sub panel pump shed 60A 6/3 UF 80ft").edits)
        self.assertEqual([b.name for b in pump.buildings], ["Tool shed", "Pump shed"])
        self.assertEqual(pump.panels[-1].building, pump.buildings[1].id)
        # Where the building is here already, it goes there and makes no other.
        site = apply_all(Installation(), read_place(Installation(), "barn").edits)
        made = read_place(site, "sub panel barn 60A 6/3 UF 80ft")
        site = apply_all(site, made.edits)
        self.assertEqual((len(site.buildings), site.panels[-1].building), (1, site.buildings[0].id))
        self.assertEqual(len(apply_all(site, read_place(site, "barn").edits).buildings), 1)
        site = apply_all(site, read_place(site, "barn 1998").edits)
        self.assertEqual([b.wired_year for b in site.buildings], [1998])

    def test_the_neutral_bond_of_a_panel_is_typed_as_it_is_said(self):
        plain = Installation()
        for said in ("bond screw out", "neutral floating", "no bond strap", "isolated neutrals",
                     "neutrals and grounds separated"):  # fmt: skip
            site = apply_all(
                plain, read_place(plain, f"sub panel studio 60A 6/3 40ft {said}").edits
            )
            self.assertEqual((said, site.panels[-1].bond), (said, "out"))
        for said in ("bond screw in", "bonded neutral", "neutral and ground on the same bar"):
            site = apply_all(
                plain, read_place(plain, f"sub panel studio 60A 6/3 40ft {said}").edits
            )
            self.assertEqual((said, site.panels[-1].bond), (said, "in"))
        alone = apply_all(plain, read_place(plain, "main bonding jumper in").edits)
        self.assertEqual(alone.panel.bond, "in")
        for line in ("the bond screw is still in at the sub panel",
                     "neutral and ground bonded at the sub"):  # fmt: skip
            self.assertEqual(read_place(plain, line).problems,
                             ["Whose bond? Select that panel and enter it there."])  # fmt: skip
        both = read_place(plain, "sub panel studio 60A 6/3 40ft bond in bond out")
        self.assertIn("Write one of them", both.problems[0])
        of_a_circuit = read_place(plain, "20A 12/2 kitchen 40ft bond screw in")
        self.assertIn("panel", of_a_circuit.problems[0])

    def test_what_is_not_understood_says_so_and_makes_nothing(self):
        site = Installation()
        for line, words in (
            ("panel Loft from Nowhere 60A 6/3 NM 40ft", "no panel called “Nowhere”"),
            ("rod of steal", "was not used"),
            ("gas pipe purple", "was not used"),
            ("generator big", "was not used"),
            ("20 12/2 NM", "needs its unit"),
            ("panel Loft 60A 6/9 NM", "6/2 or 6/3"),
        ):
            with self.subTest(line):
                reading = read_place(site, line)
                self.assertFalse(reading.is_complete)
                self.assertIn(words, " ".join(reading.problems))
        self.assertFalse(read_place(site, "").is_complete)

    def test_a_pasted_list_names_the_line_that_is_wrong(self):
        good = read_lines(Installation(), "15A 14/2 NM 40ft lights\n\n20A 12/2 NM 60ft bath\n")
        self.assertEqual((len(good.edits), good.problems), (2, []))
        bad = read_lines(Installation(), "15A 14/2 NM 40ft lights\n15 14/2 porch\n20A 12/2 bath")
        self.assertIn("Line 2, “15 14/2 porch”", bad.problems[0])
        self.assertIn("300 lines", read_lines(Installation(), "15A 14/2 a\n" * 301).problems[0])

    def test_any_text_is_read_without_an_error(self):
        odd = ("panel", "rod", "water", "shed", "generator", "panel from", "panel in from 9")
        for line in (*odd, "rod 0.0001ft", "rod 9999ft", "gas bonded 77", "panel a 9999A 6/3"):
            reading = read_place(Installation(), line)
            if reading.is_complete:
                try:
                    apply_all(Installation(), reading.edits)
                except BadInput as error:
                    self.assertTrue(error.sentence)


class Parts(unittest.TestCase):
    def test_a_duplicate_is_the_same_but_for_its_name_and_space(self):
        site = pairs.base()
        done = apply(site, duplicate(site, "c21"))
        one, copy = site.circuit("c21"), done.circuits[-1]
        self.assertEqual(copy.name, f"{one.name} copy")
        self.assertEqual((copy.space, copy.shares_with), (None, None))
        self.assertEqual((copy.line_size, copy.length_ft), (one.line_size, one.length_ft))
        self.assertNotEqual(copy.id, one.id)

    def test_a_panel_goes_with_what_hangs_on_it(self):
        site = example("pebblewick")
        panel = next(p for p in site.panels if p.name == "Boathouse")
        for edit in removal(site, panel.id):
            site = apply(site, edit)
        self.assertNotIn(panel.id, site.elements())
        self.assertTrue(all(c.panel != panel.id for c in site.circuits))
        self.assertTrue(all(f.to != panel.id for f in site.feeders))
        self.assertTrue(study(site).loops)

    def test_every_part_of_the_demos_can_be_removed_or_says_why_not(self):
        for name in ("pebblewick", "millrace", "larkfield"):
            site = example(name)
            for element in site.elements():
                if element == "practice":
                    continue
                changed = site
                try:
                    for edit in removal(site, element):
                        changed = apply(changed, edit)
                except BadInput as error:
                    self.assertIn("keeps", error.sentence)
                    continue
                self.assertNotIn(element, changed.elements())
                study(changed)


class Tries(unittest.TestCase):
    def test_each_can_be_made_and_moves_something(self):
        site = example("pebblewick")
        before = study(site)
        seen = set()
        for at in site.elements():
            for one in whatifs(site, at, site.circuits[0].id):
                if one.key in seen:
                    continue
                seen.add(one.key)
                changed = site
                for edit in one.edits:
                    changed = apply(changed, edit)
                with self.subTest(one.words):
                    after = study(changed)
                    self.assertEqual(len(after.loops), len(before.loops))
        kinds = {k.partition("-")[0] for k in seen}
        self.assertEqual(kinds, {"drop", "loose", "longer", "open", "close", "lose", "generator"})

    def test_a_dropped_ground_wire_and_an_open_bond(self):
        site = house("20A 12/2 NM 85ft kitchen")
        for key, verdict in (
            ("drop-c2", Verdict.MAY_NEVER_OPEN),
            ("open-p1", Verdict.MAY_NEVER_OPEN),
        ):
            one = next(w for w in whatifs(site, "c2", "c2") if w.key == key)
            changed = site
            for edit in one.edits:
                changed = apply(changed, edit)
            self.assertIs(study(changed).loops["c2"].verdict, verdict)


class Proving(unittest.TestCase):
    def test_one_answer_for_the_curve_of_all_breakers(self):
        site = example("pebblewick")
        done = study(site)
        question = curve_question(done)
        waiting = [f for f in done.loops.values() if f.verdict is Verdict.AT_ONCE_IF_ASSUMED]
        self.assertGreaterEqual(len(question.places), len(waiting))
        answers = dict(question.answers)
        proven = site
        for edit in answers["Yes"]:
            proven = apply(proven, edit)
        after = study(proven)
        self.assertIsNone(curve_question(after))
        for f in waiting:
            self.assertIs(after.loops[f.place].verdict, Verdict.AT_ONCE)
        late = site
        for edit in answers["No"]:
            late = apply(late, edit)
        for f in waiting:
            self.assertIs(study(late).loops[f.place].verdict, Verdict.SLOW)
        cannot = site
        for edit in answers["Can't tell"]:
            cannot = apply(cannot, edit)
        self.assertIsNone(curve_question(study(cannot)))
        self.assertEqual(len(unproven(study(cannot))), len(unproven(done)))

    def test_proven_means_no_plausible_length_flips_it(self):
        known = study(house("20A 12/2 NM 85ft a"))
        self.assertTrue(is_proven(known, known.loops["c2"]))
        open_length = house("20A 12/2 NM a", length_ft=None)
        done = study(open_length)
        self.assertIs(done.loops["c2"].verdict, Verdict.AT_ONCE)
        self.assertFalse(is_proven(done, done.loops["c2"]))
        no = deciding_question(done.assumed, done.loops["c2"]).answers[0][1]
        settled = study(apply(open_length, no))
        self.assertTrue(is_proven(settled, settled.loops["c2"]))


class Expected(unittest.TestCase):
    def test_w3_between_cold_and_hot(self):
        fault = study(house("20A 12/2 NM 85ft kitchen")).loops["c2"]
        band = expected_loop(fault)
        self.assertAlmostEqual(band.high, fault.loop_ohm)
        self.assertAlmostEqual(band.high, 114 / 326.9, delta=0.002)  # W3
        # Copper warms by 0.393 % a degree from 20 °C: 25 against 75 °C.
        cold = (1 + 0.00393 * 5) / (1 + 0.00393 * 55)
        self.assertAlmostEqual(band.low / band.high, cold, delta=0.02)
        self.assertAlmostEqual(band.suspect, band.high + 0.1, places=6)
        self.assertIn("–", band.words())

    def test_a_long_loop_is_suspect_at_a_fifth_over(self):
        fault = study(house("20A 12/2 NM 300ft pump")).loops["c2"]
        band = expected_loop(fault)
        self.assertAlmostEqual(band.suspect / band.high, 1.2, places=6)

    def test_no_way_home_has_no_reading(self):
        fault = study(house("20A 12/2 NM 85ft a", p1__bond="out")).loops["c2"]
        self.assertTrue(fault.lowest_a == 0 or math.isinf(fault.loop_ohm))
        self.assertIsNone(expected_loop(fault))
