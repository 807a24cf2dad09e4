"""The plan to scale: typed places, distances that stay true, what the network takes from it."""

import unittest

from returnpath.errors import BadInput
from returnpath.rules import Evidence, findings, pairs
from returnpath.rules.electrode_system import electrode_systems
from returnpath.site import Add, Set, Soil, apply, apply_all, dumps, loads
from returnpath.site.plan import known_spot, place_edits, plan_of, read_spot
from returnpath.study import study
from returnpath.study.ground import ground_study

E = {"rod 1": "e10", "rod 2": "e11"}


def placed(site, *typed):
    for id_, text in typed:
        site = apply_all(site, read_spot(site, id_, text))
    return site


class Typed(unittest.TestCase):
    def test_feet_and_from_something(self):
        site = placed(pairs.base(), ("e10", "40, 20"), ("e11", "8 ft north of rod 1"))
        self.assertEqual(known_spot(site.elements()["e11"]), (40, 28))
        self.assertEqual(site.elements()["e11"].spacing_ft, 8)
        again = placed(site, ("e11", "8 ft from rod 1, east along the wall"))
        self.assertEqual(known_spot(again.elements()["e11"]), (48, 20))
        self.assertEqual(again.elements()["e11"].near, "e10")

    def test_what_it_is_from_is_placed_with_it(self):
        site = placed(pairs.base(), ("e11", "10 ft south of rod 1"))
        a, b = (site.elements()[i] for i in ("e10", "e11"))
        self.assertEqual(known_spot(a)[1] - known_spot(b)[1], 10)

    def test_a_moved_rod_keeps_its_distance_true(self):
        site = placed(pairs.base(), ("e10", "40, 20"), ("e11", "40, 28"), ("e10", "40, 24"))
        self.assertEqual(site.elements()["e11"].spacing_ft, 4)

    def test_nothing_is_guessed(self):
        for text in ("near the tree", "8 ft from rod 1", "8 ft north", "north of rod 1", "",
                     "8 ft north south of rod 1", "8 ft north of rod 9", "99999, 2"):  # fmt: skip
            with self.subTest(text), self.assertRaises(BadInput):
                read_spot(pairs.base(), "e11", text)
        with self.assertRaises(BadInput):
            place_edits(pairs.base(), "c15", 1, 1)

    def test_the_file_holds_it(self):
        site = placed(pairs.base(), ("e10", "40, 20"))
        self.assertEqual(loads(dumps(site)), site)

    def test_everything_has_a_spot_and_what_nobody_said_is_assumed(self):
        site = pairs.base()
        plan = plan_of(site)
        self.assertEqual(
            set(plan.spots),
            {e.id for name in ("panels", "electrodes", "metals") for e in getattr(site, name)},
        )
        self.assertTrue(all(s.is_assumed for s in plan.spots.values()))
        self.assertAlmostEqual(plan.distance_ft("e10", "e11"), 8, places=6)


class InTheNetwork(unittest.TestCase):
    def ohm(self, site):
        done = study(site)
        return ground_study(done.assumed, done.states[0], "e10")

    def test_an_assumed_spot_moves_no_figure(self):
        site = pairs.base()
        lone = apply(site, Set(path="e10.east_ft", value=40))  # half a place is none
        a, b = study(site).loops["c15"], study(lone).loops["c15"]
        self.assertEqual((a.lowest_a, a.touch_earth_v), (b.lowest_a, b.touch_earth_v))

    def test_places_give_what_typed_distances_give(self):
        typed = study(pairs.base())
        by_plan = study(placed(pairs.base(), ("e10", "40, 20"), ("e11", "40, 28")))
        for fact in ("lowest_a", "touch_earth_v", "loop_ohm"):
            a, b = (getattr(s.loops["c15"], fact) for s in (typed, by_plan))
            self.assertAlmostEqual(a, b, delta=1e-4 * abs(a))

    def test_a_rod_beside_the_footing_is_worth_less(self):
        far = placed(pairs.base(), ("e9", "0, 0"), ("e10", "90, 90"), ("e11", "90, 98"))
        near = placed(pairs.base(), ("e9", "0, 0"), ("e10", "12, 1"), ("e11", "12, 9"))
        sums = [electrode_systems(Evidence(s, study(s)))[0].ohm for s in (far, near)]
        self.assertGreater(sums[1], sums[0] * 1.02)

    def test_soil_of_the_job_is_an_edit_and_scales_it(self):
        wet, dry = (apply(pairs.base(), Soil(ohm_m=v)) for v in (30, 300))
        self.assertGreater(self.ohm(wet).amps, 4 * self.ohm(dry).amps)
        self.assertTrue(self.ohm(pairs.base()).is_soil_assumed)


class TooNear(unittest.TestCase):
    def ids(self, site):
        return [f for f in findings(site, study(site)) if f.id == "rods-too-near"]

    def test_by_the_plan_also_where_no_distance_was_typed(self):
        site = apply_all(
            pairs.base(), [Set(path=f"e11.{f}", value=None) for f in ("near", "spacing_ft")]
        )
        site = placed(site, ("e10", "40, 20"), ("e11", "43, 20"))
        (found,) = self.ids(site)
        self.assertEqual((found.place, found.found[:4]), ("e11", "3 ft"))
        mended = apply_all(site, found.fix)
        self.assertEqual(self.ids(mended), [])
        self.assertEqual(known_spot(mended.elements()["e11"]), (46, 20))

    def test_driven_again_it_moves_on_the_plan_too(self):
        site = placed(pairs.base(), ("e10", "40, 20"), ("e11", "3 ft north of rod 1"))
        mended = apply_all(site, self.ids(site)[0].fix)
        rod = mended.elements()["e11"]
        self.assertEqual((known_spot(rod), rod.spacing_ft), ((40, 26), 6))
        self.assertEqual(self.ids(mended), [])

    def test_at_six_feet_it_is_quiet(self):
        self.assertEqual(self.ids(placed(pairs.base(), ("e10", "40, 20"), ("e11", "40, 26"))), [])


class PoorPath(unittest.TestCase):
    def test_a_hot_wire_on_one_rod_trips_nothing(self):
        done = study(pairs.base())
        found = ground_study(done.assumed, done.states[0], "e10")
        self.assertFalse(found.trips)
        self.assertAlmostEqual(found.amps * (found.ohm + found.rest_ohm), 120, delta=3)
        self.assertEqual([r.count for r in found.added], [1, 2, 3, 4])
        self.assertAlmostEqual(found.added[0].amps, found.amps, delta=0.02 * found.amps)
        more = [r.amps for r in found.added]
        self.assertEqual(more, sorted(more))
        top = max(v for _, v in found.profile)
        self.assertLessEqual(top, found.volts + 1e-6)
        self.assertGreater(found.step_v, 20)
        self.assertIsNone(ground_study(done.assumed, done.states[0], "nothing"))


class Counts(unittest.TestCase):
    def systems(self, *edits):
        site = apply_all(pairs.base(), edits)
        return electrode_systems(Evidence(site, study(site)))

    def test_each_answer_changes_as_facts_do(self):
        service, outbuilding = self.systems()
        self.assertTrue(all(e.counts for e in service.electrodes))
        self.assertEqual((service.missing, service.schools), ((), ()))
        self.assertEqual(len(outbuilding.electrodes), 2)
        short = self.systems(Set(path="e10.length_ft", value=6))[0]
        self.assertFalse(short.electrodes[1].counts)
        unused = self.systems(Set(path="e9.joined", value="no"))[0]
        self.assertIn("must be connected", unused.missing[0])

    def test_pipes_stand_beside_them(self):
        pipe = {"kind": "water", "material": "metal", "bonded": "yes", "bond_size": "8"}
        (service, *_) = self.systems(Add(to="metals", facts=pipe))
        found = {p.what: p for p in service.pipes[-1].parts}
        self.assertFalse(found["its bond"].met)
        self.assertTrue(found["bonded"].met)

    def test_both_schools_of_a_lone_rod(self):
        gone = ("e9", "e11")
        from returnpath.site import Remove

        for proved, says in ((None, "measure it"), (20.0, "may stand alone"), (40.0, "over 25")):
            facts = [Set(path="e10.proved_ohm", value=proved)] if proved else []
            (one, *_) = self.systems(*(Remove(id=i) for i in gone), *facts)
            answers = {name: words for name, words, _ in one.schools}
            self.assertIn("second one", answers["always two"])
            self.assertIn(says, answers["one proved at 25 Ω"])

    def test_a_pipe_alone_needs_another(self):
        from returnpath.site import Remove

        facts = {"panel": "p4", "kind": "water", "length_ft": 20, "gec_size": "4"}
        edits = (Add(to="electrodes", facts=facts), *(Remove(id=i) for i in ("e9", "e10", "e11")))
        self.assertTrue(any("another" in m for m in self.systems(*edits)[0].missing))
