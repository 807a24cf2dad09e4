"""Findings: each has a pair, the demo sites have exactly their own, fixes mend, causes fold."""

import json
import re
import unittest
from functools import cache
from pathlib import Path

from returnpath import tables
from returnpath.errors import BadInput
from returnpath.rules import (
    LEVELS,
    all_checks,
    deciding_questions,
    findings,
    fold,
    next_step,
    pairs,
    summary,
)
from returnpath.rules.pages import page
from returnpath.site import Set, apply, dumps_practice, loads, loads_practice
from returnpath.study import study

from .test_command import ROOT, made_site, run

CATALOGUE = (Path(__file__).parent / "fixtures" / "catalogue.txt").read_text("utf-8").split()


def found_in(site):
    return findings(site, study(site))


@cache
def bad_case(id):
    """(the place with the bad example of a check, what is found in it): three tests look at it."""
    site = pairs.edited(pairs.pair(id)[0], id)
    return site, found_in(site)


def example(name):
    return loads((ROOT / "examples" / f"{name}.json").read_text("utf-8"))


class Pairs(unittest.TestCase):
    def test_the_whole_catalogue_of_these_families(self):
        self.assertEqual(set(all_checks()), set(CATALOGUE))
        self.assertEqual(pairs.ids(), set(CATALOGUE))

    def test_nothing_is_found_in_the_clean_place(self):
        self.assertEqual(found_in(pairs.base()), ())
        self.assertEqual(found_in(pairs.base("ring-broken")), ())

    def test_bad_gives_exactly_it_and_good_does_not(self):
        for id in all_checks():
            _, good, also = pairs.pair(id)
            with self.subTest(id):
                ids = {f.id for f in bad_case(id)[1]}
                self.assertIn(id, ids)
                self.assertLessEqual(ids, {id, *also})
                self.assertNotIn(id, {f.id for f in found_in(pairs.edited(good, id))})

    def test_most_come_alone(self):
        alone = [i for i in all_checks() if not pairs.pair(i)[2]]
        self.assertGreaterEqual(len(alone), 60)

    def test_each_says_what_why_and_what_to_do(self):
        for id in all_checks():
            finding = next(f for f in bad_case(id)[1] if f.id == id)
            with self.subTest(id):
                self.assertIn(finding.level, LEVELS)
                for text in (finding.found, finding.why, finding.do, finding.place_name):
                    self.assertRegex(text, r"\S")
                    self.assertNotRegex(text, re.compile(r"\b(safe|compliant)\b", re.I))
                self.assertTrue(str(finding.authority))

    def test_a_fix_mends(self):
        mended = 0
        for id in all_checks():
            site, found = bad_case(id)
            finding = next(f for f in found if f.id == id)
            if not finding.fix:
                continue
            with self.subTest(id):
                for edit in finding.fix:
                    site = apply(site, edit)
                self.assertNotIn(finding.key, {f.key for f in found_in(site)})
                mended += 1
        self.assertGreaterEqual(mended, 55)


class DemoSites(unittest.TestCase):
    NAMES = ("pebblewick", "millrace", "larkfield", "foxglove", "thistle")

    def test_exactly_their_planned_findings(self):
        for name in self.NAMES:
            file = ROOT / "examples" / f"{name}.findings.json"
            planned = {tuple(row) for row in json.loads(file.read_text("utf-8"))}
            found = {(f.id, f.place, f.level) for f in found_in(example(name))}
            with self.subTest(name):
                self.assertEqual(found, planned)

    def test_pebblewick_has_its_honest_faults(self):
        ids = {f.id for f in found_in(example("pebblewick"))}
        self.assertLessEqual(
            {
                "bond-downstream",
                "gec-exposed-small",
                "rods-too-near",
                "wire-breaker-mismatch",
                "egc-not-upsized",
                "shared-neutral-same-leg",
                "water-bond-missing",
            },
            ids,
        )

    def test_all_fixes_leave_no_danger_and_no_fix(self):
        for name in self.NAMES:
            site = example(name)
            for _ in range(4):
                bad = [f for f in found_in(site) if f.level in ("danger", "fix")]
                for finding in bad:
                    for edit in finding.fix:
                        site = apply(site, edit)
            left = [f.key for f in found_in(site) if f.level in ("danger", "fix")]
            self.assertEqual(left, [], name)

    def test_figures_come_from_the_network(self):
        site = example("pebblewick")
        done = study(site)
        bond = next(f for f in findings(site, done) if f.id == "bond-downstream")
        amps = done.loads["u1"].currents["f8.egc"]
        self.assertIn(f"{amps:.2f} A", bond.found)


class Folding(unittest.TestCase):
    def test_only_what_gives_a_way_home_takes_other_findings_away(self):
        """Why the others are not tried for folding: mending them takes nothing else away."""
        sites = [made_site(), *(example(n) for n in ("pebblewick", "millrace", "larkfield"))]
        sites += [pairs.edited(pairs.pair(i)[0]) for i in ("neutral-joined-at-outlet",
                  "bond-downstream", "bonded-with-egc", "grounds-on-isolated-neutral")]  # fmt: skip
        tried = 0
        for site in sites:
            before = {f.key: f for f in found_in(site)}
            for finding in before.values():
                if finding.level != "danger" or all_checks()[finding.id].root or not finding.fix:
                    continue
                if finding.id.startswith(("loop-", "shared-")):
                    continue
                mended = site
                for edit in finding.fix:
                    mended = apply(mended, edit)
                after = {f.key: f for f in found_in(mended)}
                new = {f.place for k, f in after.items() if k not in before}
                gone = {f.id for k, f in before.items() if k not in after and f.place not in new}
                gone |= {finding.id} if finding.key not in after else set()
                with self.subTest(finding.key):
                    self.assertEqual(gone, {finding.id})
                    tried += 1
        self.assertGreaterEqual(tried, 5)

    def test_an_open_main_bond_is_one_danger(self):
        site = made_site()
        good = {f.key for f in found_in(site)}
        open_bond = apply(site, Set(path=f"{site.panels[0].id}.bond", value="out"))
        raw = found_in(open_bond)
        folded = fold(open_bond, raw)
        top = next(f for f in folded if f.id == "bond-missing-service")
        self.assertGreater(len(top.folded), 5)
        new = {f.key for f in folded if f.level == "danger"} - good
        self.assertEqual(new, {top.key})
        count = sum(1 + len(f.folded) for f in folded)
        self.assertEqual(count, len(raw))


class EditionsAndPractice(unittest.TestCase):
    def test_every_check_has_its_section_in_every_edition(self):
        for entry in all_checks().values():
            for edition in tables.EDITIONS:
                with self.subTest(entry.id, edition=edition):
                    self.assertTrue(entry.authority(edition).where)

    def test_doubtful_rows_say_check_locally(self):
        old = all_checks()["gec-aluminium-low"].authority(2026)
        self.assertIn("check locally", str(old))
        self.assertNotIn("?", old.where)
        self.assertIn("250.24(A)(5)", str(all_checks()["bond-downstream"].authority(2017)))
        self.assertIn("250.24(B)", str(all_checks()["bond-downstream"].authority(2023)))

    def test_water_bond_follows_the_edition(self):
        site = apply(pairs.base(), Set(path="s1.line_size", value="1000"))
        site = apply(site, Set(path="m14.bond_size", value="1/0"))
        for edition in (2008, 2023):
            now = apply(site, Set(path="practice.edition", value=edition))
            ids = {f.id for f in found_in(now)}
            self.assertIn("water-bond-small", ids)

    def test_schools_change_the_judgement(self):
        def ids(edits, **practice):
            site = pairs.edited(edits)
            for name, value in practice.items():
                site = apply(site, Set(path=f"practice.{name}", value=value))
            return {f.id for f in found_in(site)}

        spaced, _, _ = pairs.pair("rods-too-near")
        self.assertNotIn("rods-too-near", ids([]))
        self.assertIn("rods-too-near", ids([], rod_spacing="twice"))
        self.assertIn("rods-too-near", ids(spaced))
        lawful = [
            Set(path="c15.load_kind", value="range"),
            Set(path="c15.egc", value="none"),
            Set(path="c15.year", value=1980),
            Set(path="c15.line_size", value="8"),
            Set(path="c15.strap", value="in"),
        ]
        site = pairs.edited(lawful)
        level = next(f.level for f in found_in(site) if f.id == "three-wire-range")
        self.assertEqual(level, "note")
        strict = apply(site, Set(path="practice.three_wire_ranges", value="replace"))
        level = next(f.level for f in found_in(strict) if f.id == "three-wire-range")
        self.assertEqual(level, "fix")

    def test_practice_travels(self):
        site = apply(pairs.base(), Set(path="practice.electrode", value="prove"))
        again = loads_practice(dumps_practice(site.practice))
        self.assertEqual(again, site.practice)
        for text in ("", "[]", '{"format":2}', '{"format":2,"practice":{"colour":1}}'):
            with self.subTest(text), self.assertRaises(BadInput):
                loads_practice(text)


class TheCommandLine(unittest.TestCase):
    FILE = str(ROOT / "examples" / "pebblewick.json")

    def test_findings_worst_first(self):
        code, out, _ = run("check", self.FILE)
        self.assertEqual(code, 1)
        places = [out.index(word) for word in ("DANGER", "FIX", "CHECK", "NOTE")]
        self.assertEqual(places, sorted(places))
        _, out, _ = run("check", self.FILE, "--json")
        body = json.loads(out)
        levels = [LEVELS.index(f["level"]) for f in body["findings"]]
        self.assertEqual(levels, sorted(levels))
        worst = body["findings"][0]
        self.assertIn(worst["place_name"], body["next"]["text"])

    def test_edition_and_practice(self):
        _, out, _ = run("check", self.FILE, "--edition", "2017", "--json")
        bond = next(f for f in json.loads(out)["findings"] if f["id"] == "bond-downstream")
        self.assertIn("250.24(A)(5) (2017)", bond["authority"]["where"])
        file = Path(__file__).parent / "fixtures" / "practice.json"
        _, out, _ = run("check", self.FILE, "--practice", str(file))
        self.assertIn("Local requirement: Two rods at every barn (inspector, 2026-03)", out)
        self.assertEqual(run("check", self.FILE, "--edition", "1999")[0], 2)

    def test_explain(self):
        for id in all_checks():
            with self.subTest(id):
                code, out, _ = run("explain", id)
                self.assertEqual(code, 0)
                for part in ("Looks for:", "Why:", "Bad:", "Good:"):
                    self.assertIn(part, out)
                self.assertEqual(out.strip(), page(id))
        self.assertEqual(run("explain", "nonsense")[0], 2)
        self.assertIn("bond-downstream", run("explain", "all")[1])

    def test_practice_out_and_in(self):
        code, out, _ = run("practice", self.FILE)
        self.assertEqual(code, 0)
        self.assertEqual(loads_practice(out), example("pebblewick").practice)

    def test_ask(self):
        code, out, _ = run("ask", self.FILE, "--json")
        self.assertEqual(code, 0)
        asked = json.loads(out)
        deciding = [a for a in asked["result"] if a["kind"] == "deciding"]
        self.assertEqual(len(deciding), 3)
        self.assertIn("is the run longer than", deciding[0]["text"])
        looks = {a["fact"]: a for a in asked["result"] if a["kind"] == "look"}
        self.assertIn("gas-bond-check", looks["metals.live_by"]["checks"])
        self.assertEqual(looks["buildings.disconnect"]["paths"], ["b3.disconnect"])

    def test_electrode(self):
        code, out, _ = run("electrode", "plate", "--json")
        self.assertEqual(code, 0)
        self.assertAlmostEqual(json.loads(out)["value"], 56.5, places=1)  # W10
        self.assertEqual(run("electrode", "plate", "--soil", "-1")[0], 2)


class WhatIsNext(unittest.TestCase):
    def test_the_bond_settles_most(self):
        site = apply(made_site(), Set(path=f"{made_site().panels[0].id}.bond", value=None))
        done = study(site)
        asked = deciding_questions(done)
        self.assertTrue(asked[0].path.endswith(".bond"))
        self.assertGreater(asked[0].settles, 5)

    def test_a_danger_with_a_fix_comes_first(self):
        site = example("pebblewick")
        done = study(site)
        found = findings(site, done)
        self.assertIn(found[0].place_name, next_step(site, done, found).text)

    def test_a_paragraph(self):
        site = example("pebblewick")
        done = study(site)
        text = summary(done, findings(site, done))
        self.assertIn("200 A overhead service from a 25 kVA transformer", text)
        self.assertIn("three panels, 16 circuits", text)
        self.assertIn("The weakest is Tool shed", text)
