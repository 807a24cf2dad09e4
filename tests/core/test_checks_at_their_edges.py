"""Checks at their thresholds: equality meets, a hair beyond does not; what is missing is asked."""

import unittest

from returnpath.rules import findings, pairs
from returnpath.site import Add, Remove, Set, apply
from returnpath.study import study


def edited(*edits):
    """The clean place after edits, given as (path, value) or as Edits."""
    site = pairs.base()
    for edit in edits:
        site = apply(site, Set(path=edit[0], value=edit[1]) if isinstance(edit, tuple) else edit)
    return site


def found(*edits):
    """The findings of the clean place after edits, by id."""
    site = edited(*edits)
    return {f.id: f for f in findings(site, study(site))}


def rod(**facts):
    return Add(to="electrodes", facts={"panel": "p4", "gec_size": "2", **facts})


ONE_ROD = Remove(id="e13")
OLD = (
    ("f8.egc", "none"),
    ("p6.bond", "in"),
    ("f8.ground_fault_protected", "no"),
    ("f8.metal_paths", "no"),
)
GENERATOR = (
    Add(to="supplies", facts={"kind": "generator", "kva": 20, "bond": "in"}),
    Add(
        to="services",
        facts={
            "supply": "u31",
            "to": "p4",
            "run": "underground",
            "length_ft": 20,
            "line_size": "4",
            "line_material": "copper",
            "neutral_size": "4",
            "egc_size": "8",
        },
    ),
)

# (check, edits at the limit: not found, edits beyond it: found)
EDGES = [
    ("rods-too-near", [("e11.spacing_ft", 6)], [("e11.spacing_ft", 5.9)]),
    ("rod-short", [("e10.length_ft", 8)], [("e10.length_ft", 7.9)]),
    ("rod-over-25", [ONE_ROD, ("e12.proved_ohm", 25)], [ONE_ROD, ("e12.proved_ohm", 25.1)]),
    (
        "water-pipe-short",
        [rod(kind="water", length_ft=10)],
        [rod(kind="water", length_ft=9.9)],
    ),
    ("ring-small", [rod(kind="ring", length_ft=20)], [rod(kind="ring", length_ft=19)]),
    ("ring-small", [rod(kind="ring", depth_in=30)], [rod(kind="ring", depth_in=29)]),
    ("plate-small", [rod(kind="plate", area_sqft=2)], [rod(kind="plate", area_sqft=1.9)]),
    ("plate-small", [rod(kind="plate", depth_in=30)], [rod(kind="plate", depth_in=29)]),
    ("concrete-encased-short", [("e9.length_ft", 20)], [("e9.length_ft", 19.9)]),
    (
        "gec-exposed-small",
        [("e10.gec_exposed", "yes"), ("e10.gec_size", "6")],
        [("e10.gec_exposed", "yes"), ("e10.gec_size", "8")],
    ),
    (
        "gec-exposed-small",
        [("e10.gec_exposed", "yes"), ("e10.gec_size", "8"), ("e10.gec_sleeve", "plastic")],
        [("e10.gec_exposed", "yes"), ("e10.gec_size", "8"), ("e10.gec_sleeve", "none")],
    ),
    (
        "gec-aluminium-low",
        [("e10.gec_material", "aluminium"), ("e10.gec_size", "4"), ("e10.gec_height_in", 18)],
        [("e10.gec_material", "aluminium"), ("e10.gec_size", "4"), ("e10.gec_height_in", 17)],
    ),
    ("clamp-two-wires", [("e10.clamp_wires", 1)], [("e10.clamp_wires", 2)]),
    ("gec-small", [("e9.gec_size", "4")], [("e9.gec_size", "6")]),
    ("water-bond-small", [("m14.bond_size", "4")], [("m14.bond_size", "6")]),
    ("service-neutral-small", [("s1.neutral_size", "2")], [("s1.neutral_size", "3")]),
    ("feeder-neutral-small", [("f7.neutral_size", "10")], [("f7.neutral_size", "12")]),
    ("two-under-one-screw", [("p4.most_under_screw", 1)], [("p4.most_under_screw", 2)]),
    (
        "nameplate-breaker-over",
        [("c15.nameplate_max_a", 20)],
        [("c15.nameplate_max_a", 19)],
    ),
    (
        "wire-breaker-mismatch",
        [("f7.breaker.rating_a", 70), ("f7.egc_size", "8")],
        [("f7.breaker.rating_a", 80), ("f7.egc_size", "8")],
    ),
    (
        "egc-not-a-lawful-path",
        [("c15.egc", "none"), ("c15.relied_on", "FMC"), ("c15.flex_ft", 6)],
        [("c15.egc", "none"), ("c15.relied_on", "FMC"), ("c15.flex_ft", 6.1)],
    ),
    (
        "egc-not-a-lawful-path",
        [("c15.egc", "none"), ("c15.relied_on", "AC cable armour")],
        [("c15.egc", "none"), ("c15.relied_on", "armoured cable of old without a strip")],
    ),
    (
        "egc-not-a-lawful-path",
        [("c15.egc", "wire"), ("c15.relied_on", "the building frame")],
        [("c15.egc", "none"), ("c15.relied_on", "the building frame")],
    ),
    ("interrupting-rating-low", [("c15.breaker.interrupting_ka", 8)],
     [("c15.breaker.interrupting_ka", 5)]),
    ("interrupting-rating-low",
     [("c15.breaker.interrupting_ka", 5), ("c15.breaker.series_ka", 10)],
     [("c15.breaker.interrupting_ka", 5), ("c15.breaker.series_ka", 5)]),
    ("three-wire-new", [*OLD, ("f8.year", 2007)], [*OLD, ("f8.year", 2008)]),
    ("shared-neutral-same-leg", [("c21.space", 12)], [("c21.space", 10)]),
    ("disconnect-missing", [("b3.disconnect", "no"), ("p6.main.rating_a", 60)],
     [("b3.disconnect", "no")]),
    ("electrode-required", [Remove(id="e12")], [Remove(id="e12"), Remove(id="e13")]),
    ("pool-bonding-missing",
     [Add(to="metals", facts={"kind": "pool", "bonded": "yes", "panel": "p4", "bond_size": "8"})],
     [Add(to="metals", facts={"kind": "pool", "bonded": "yes", "panel": "p4", "bond_size": "10"})]),
    (
        "meter-to-panel-parallel-wire",
        [*GENERATOR],  # whether its neutral is switched is asked, not assumed
        [*GENERATOR, ("u31.neutral_switched", "no")],
    ),
    (
        "meter-to-panel-parallel-wire",
        [*GENERATOR, ("u31.neutral_switched", "no"), ("u31.bond", "out")],
        [*GENERATOR, ("u31.neutral_switched", "no")],
    ),
    ("intersystem-termination-missing", [("p4.intersystem", "yes")], [("p4.intersystem", "no")]),
    ("small-conductor-retaped",
     [("f7.retaped", "yes"), ("f7.neutral_size", "4")], [("f7.retaped", "yes")]),
    ("two-wire-receptacles",
     [("c15.egc", "none"), ("c15.outlets", "labelled"), ("c15.gfci", "yes")],
     [("c15.egc", "none"), ("c15.outlets", "labelled"), ("c15.gfci", "no")]),
    ("method-not-for-class", [("b3.permit", "commercial")], [("b3.permit", "farm")]),
]  # fmt: skip

# (check, edits that leave a fact out, the fact it asks for)
ASKS = [
    ("bond-missing-service", [("p4.bond", None)], "p4.bond"),
    ("lost-neutral-hidden-by-pipe", [("m14.shared_main", None)], "m14.shared_main"),
    ("water-bond-missing", [("m14.bonded", None)], "m14.bonded"),
    ("water-pipe-short", [rod(kind="water")], "e31.length_ft"),
    (
        "gec-aluminium-low",
        [("e10.gec_material", "aluminium"), ("e10.gec_size", "4")],
        "e10.gec_height_in",
    ),
    ("three-wire-new", [("f8.egc", "none"), ("p6.bond", "in")], "f8.year"),
    (
        "three-wire-existing",
        [("f8.egc", "none"), ("p6.bond", "in"), ("f8.year", 1990)],
        "f8.ground_fault_protected",
    ),
    ("disconnect-missing", [("b3.disconnect", None)], "b3.disconnect"),
    (
        "shared-neutral-no-common-opening",
        [("c21.common_opening", None)],
        "c21.common_opening",
    ),
    (
        "three-wire-range",
        [("c15.load_kind", "range"), ("c15.egc", "none"), ("c15.line_size", "10")],
        "c15.year",
    ),
    ("nameplate-missing", [("c15.load_kind", "cooling")], "c15.nameplate_max_a"),
    (
        "electrode-none",
        [Remove(id="e10"), Remove(id="e11"), ("e9.kind", None)],
        "e9.kind",
    ),
]  # fmt: skip


class Edges(unittest.TestCase):
    def test_equality_meets_and_beyond_does_not(self):
        for id, at, beyond in EDGES:
            with self.subTest(id, beyond=str(beyond)[:80]):
                self.assertNotIn(id, found(*at))
                self.assertIn(id, found(*beyond))

    def test_what_is_missing_is_asked_never_guessed(self):
        for id, edits, path in ASKS:
            with self.subTest(id):
                finding = found(*edits)[id]
                self.assertEqual(finding.level, "check")
                self.assertEqual(finding.asks, path)
                self.assertEqual(finding.fix, ())
                site = edited(*edits)
                site.value_at(path)  # the fact is there to be entered


class FiveConditions(unittest.TestCase):
    """An old three-wire feeder may stay only while all of them hold."""

    def level(self, *edits):
        finding = found(*OLD, ("f8.year", 1990), *edits).get("three-wire-existing")
        return finding.level, finding.found

    def test_all_hold(self):
        self.assertEqual(self.level()[0], "note")

    def test_a_metal_path_between_the_buildings(self):
        pipe = Add(
            to="metals",
            facts={
                "name": "Iron pipe",
                "kind": "water",
                "material": "metal",
                "bonded": "yes",
                "panel": "p4",
                "also_joins": "p6",
                "shared_main": "no",
            },
        )
        level, words = self.level(pipe)
        self.assertEqual(level, "fix")
        self.assertIn("Iron pipe joins them", words)

    def test_ground_fault_protection_upstream(self):
        level, words = self.level(("f8.ground_fault_protected", "yes"))
        self.assertEqual(level, "fix")
        self.assertIn("no ground-fault protection is upstream: there is", words)

    def test_not_bonded_over_there(self):
        level, words = self.level(("p6.bond", "out"))
        self.assertEqual(level, "danger")  # nothing but soil brings a fault back
        self.assertIn("the neutral is bonded over there: no", words)

    def test_a_neutral_too_small_as_a_ground_wire(self):
        level, words = self.level(("f8.neutral_size", "12"))
        self.assertEqual(level, "fix")
        self.assertIn("12 AWG, under 10 AWG", words)

    def test_a_neutral_too_small_for_its_load(self):
        level, words = self.level(("f8.neutral_size", "10"), ("c19.load_va", 6000))
        self.assertEqual(level, "fix")
        self.assertIn("50 A on 35 A", words)

    def test_an_older_edition_does_not_change_when_it_was_run(self):
        finding = found(*OLD, ("f8.year", 2009), ("practice.edition", 2008))["three-wire-new"]
        self.assertEqual(finding.level, "fix")


class OldWork(unittest.TestCase):
    def test_outlets(self):
        bare = ("c15.egc", "none")
        unknown = found(bare, ("c15.outlets", "two-slot"))["two-wire-receptacles"]
        self.assertEqual((unknown.level, unknown.asks), ("check", "c15.year"))
        old = ("c15.year", 1955)
        two = found(bare, old, ("c15.outlets", "two-slot"))["two-wire-receptacles"]
        three = found(bare, ("c15.outlets", "three-slot"))["two-wire-receptacles"]
        labelled = found(bare, ("c15.outlets", "labelled"), ("c15.gfci", "yes"))
        self.assertEqual((two.level, three.level), ("note", "fix"))
        none = found(bare, ("c15.outlets", "three-slot"), ("c15.gfci", "no"))
        only_label = found(bare, ("c15.outlets", "three-slot"), ("c15.gfci", "yes"))
        self.assertEqual(none["two-wire-receptacles"].level, "danger")
        self.assertIn("label", only_label["two-wire-receptacles"].found)
        self.assertNotIn("two-wire-receptacles", labelled)
        self.assertIn("rod-does-not-ground-outlets", labelled)
        self.assertNotIn("egc-missing", labelled)

    def test_a_range_on_three_wires(self):
        def judged(**facts):
            base = {"load_kind": "range", "egc": "none", "year": 1980, "line_size": "6"}
            base |= {"strap": "in", "method": "SE", "neutral_bare": "no"} | facts
            return found(*((f"c15.{k}", v) for k, v in base.items()))["three-wire-range"]

        self.assertEqual(judged().level, "note")
        self.assertEqual(judged(year=1995).level, "note")
        self.assertIn("before 1996", judged(year=1996).found)
        self.assertIn("neutral is under 10", judged(line_size="12").found)
        self.assertEqual(judged(strap="out").level, "danger")
        self.assertEqual(judged(strap=None).asks, "c15.strap")
        self.assertIn("never", judged(method="NM", neutral_bare="yes").found)
        self.assertIn("service panel", self.moved().found)

    def moved(self):
        """The same range at the sub-panel."""
        site = edited(
            Add(
                facts={
                    "panel": "p5",
                    "name": "Range",
                    "load_kind": "range",
                    "egc": "none",
                    "year": 1980,
                    "line_size": "6",
                    "strap": "in",
                    "method": "SE",
                    "neutral_bare": "yes",
                    "breaker": {"rating_a": 50},
                    "poles": 2,
                },
            )
        )
        return next(f for f in findings(site, study(site)) if f.id == "three-wire-range")


class Nameplates(unittest.TestCase):
    def test_a_cooling_unit_may_have_the_larger_breaker(self):
        unit = [
            ("c15.load_kind", "cooling"),
            ("c15.breaker.rating_a", 35),
            ("c15.egc_size", "10"),
            ("c15.nameplate_mca_a", 20),  # NM is used in the 60 °C column: 20 A for 12 AWG
            ("c15.nameplate_max_a", 35),
        ]
        self.assertNotIn("wire-breaker-mismatch", found(*unit))
        heavier = [*unit[:3], ("c15.nameplate_mca_a", 22), unit[4]]
        self.assertIn("wire-breaker-mismatch", found(*heavier))
        plain = [("c15.breaker.rating_a", 35), ("c15.egc_size", "10")]
        self.assertIn("wire-breaker-mismatch", found(*plain))

    def test_terminals_decide_at_60(self):
        self.assertNotIn("terminal-temperature", found(("p4.terminals_c", 60)))
        hot = found(("p4.terminals_c", 60), ("f7.breaker.rating_a", 70), ("f7.egc_size", "8"))[
            "terminal-temperature"
        ]
        self.assertIn("at these 60 °C terminals 60 A", hot.found)


class FiguresAreTheNetworks(unittest.TestCase):
    def test_amperes_volts_and_seconds(self):
        site = edited(("p5.bond", "in"))
        done = study(site)
        amps = done.loads["u1"].currents["f7.egc"]
        bond = next(f for f in findings(site, done) if f.id == "bond-downstream")
        self.assertIn(f"{amps:.3g} A of load", bond.found)

        site = edited(("c15.outlet_bond", "yes"))
        done = study(site)
        amps = done.loads["u1"].currents["c15.egc"]
        self.assertGreater(amps, 1)
        joined = next(f for f in findings(site, done) if f.id == "neutral-joined-at-outlet")
        self.assertIn(f"{amps:.3g} A", joined.found)

        site = edited(("f8.egc", "none"), ("f8.year", 2020))
        done = study(site)
        soil = [f for f in findings(site, done) if f.id == "earth-only-return"]
        self.assertEqual({f.place for f in soil}, {"c19", "p6"})
        for finding in soil:
            fault = done.loops.get(finding.place) or done.enclosures[finding.place]
            self.assertIn(f"{fault.touch_earth_v:.3g} V", finding.found)

    def test_what_the_plumber_meets(self):
        site = edited(("m14.shared_main", "yes"), ("c15.load_va", 2400))
        done = study(site)
        lost = done.open_neutrals["u1"].currents["m14.main"]
        finding = next(f for f in findings(site, done) if f.id == "lost-neutral-hidden-by-pipe")
        self.assertIn(f"{lost:.3g} A with the service neutral lost", finding.found)

    def test_the_cure_of_a_slow_loop_cures_it(self):
        bare = (("c15.breaker.lo", None), ("c15.breaker.hi", None))
        site = edited(("c15.length_ft", 200), ("c15.load_va", 200), *bare)
        slow = next(f for f in findings(site, study(site)) if f.id == "loop-slow")
        for edit in slow.fix:
            site = apply(site, edit)
        self.assertTrue(study(site).loops["c15"].deciding.met)
        ids = {f.id for f in findings(site, study(site))}
        self.assertFalse(ids & {"loop-slow", "egc-not-upsized", "egc-small"})
