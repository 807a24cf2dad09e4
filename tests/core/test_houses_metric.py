"""Metric houses judged as an electrician would: nothing missed, nothing told falsely; and no word
of the other rule set in any finding."""

import re
import unittest
from functools import cache

from returnpath import tables
from returnpath.rules import findings
from returnpath.site import Add, Set, apply, apply_all
from returnpath.study import study
from returnpath.words import RuleSet, spoken

from .any_place import any_metric_place
from .houses_metric import built, stories

GRAVE = ("danger", "fix")
AMERICAN = re.compile(
    r"\b(?:AWG|kcmil|NEC|EGC|GEC|GFCI|AFCI|receptacle|sub-?panel|feeder|utility|grounding|ground"
    r"|aluminum|ft|feet|color|hot)\b|\b2[0-9]0\.\d+"
)


@cache
def judged(name):
    site = built(stories()[name])
    return site, findings(site, study(site))


class Judged(unittest.TestCase):
    def test_enough_of_both_kinds(self):
        clean = [k for k in stories() if k.startswith("clean")]
        self.assertEqual((len(stories()), len(clean)), (40, 20))

    def test_every_house(self):
        for name, story in stories().items():
            with self.subTest(name, story=story["story"]):
                _, found = judged(name)
                told = {(f.id, f.place_name, str(f.level)) for f in found}
                for must in story.get("must", []):
                    self.assertIn(tuple(must), told)
                known = {m[0] for m in story.get("must", [])} | set(story.get("also", []))
                false = [f.key for f in found if f.level in GRAVE and f.id not in known]
                self.assertEqual(false, [])

    def test_every_fix_mends_and_makes_nothing_worse(self):
        mended = 0
        for name in stories():
            site, found = judged(name)
            dangers = {f.key for f in found if f.level == "danger"}
            for finding in found:
                if not finding.fix:
                    continue
                with self.subTest(name, fix=finding.key):
                    after = site
                    for edit in finding.fix:
                        after = apply(after, edit)
                    now = findings(after, study(after))
                    self.assertNotIn(finding.key, {f.key for f in now})
                    self.assertLessEqual({f.key for f in now if f.level == "danger"}, dangers)
                    mended += 1
        self.assertGreaterEqual(mended, 20)

    def test_findings_speak_metric(self):
        for name in stories():
            for finding in judged(name)[1]:
                for text in (finding.found, finding.why, finding.do, *finding.parts,
                             str(finding.authority)):  # fmt: skip
                    with self.subTest(name, id=finding.id):
                        self.assertIsNone(AMERICAN.search(text), text)


class AnyPlace(unittest.TestCase):
    def test_no_fix_brings_a_size_of_the_other_rule_set_and_each_can_be_done(self):
        tried = 0
        for seed in range(60):
            site = any_metric_place(seed)
            for found in findings(site, study(site)):
                said = spoken(f"{found.found} {found.do}", RuleSet.METRIC)
                self.assertNotRegex(said, r"\b(?:AWG|kcmil|ft|inch)\b", f"{seed} {found.key}")
                for edit in found.fix:
                    facts = edit.facts if isinstance(edit, Add) else {}
                    if isinstance(edit, Set):
                        facts = {edit.path.fact: edit.value}
                    for fact, value in facts.items():
                        if fact.endswith("_size") and fact != "raceway_size" and value:
                            self.assertTrue(tables.is_metric(value), f"{seed} {found.key}: {value}")
                if found.fix:
                    apply_all(site, found.fix)
                    tried += 1
        self.assertGreater(tried, 200)
