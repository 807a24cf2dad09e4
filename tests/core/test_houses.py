"""Whole houses judged as a master electrician would: nothing missed, nothing told falsely."""

import unittest

from returnpath.errors import BadInput
from returnpath.rules import LEVELS, findings
from returnpath.site import Set, apply
from returnpath.site.edits import Require
from returnpath.study import study

from .houses_judged import built, stories

GRAVE = ("danger", "fix")


def found_in(site):
    return findings(site, study(site))


class Judged(unittest.TestCase):
    def test_enough_of_both_kinds(self):
        clean = [k for k, s in stories().items() if k.startswith("clean")]
        self.assertGreaterEqual(len(clean), 30)
        self.assertGreaterEqual(len(stories()) - len(clean), 40)

    def test_every_house(self):
        for name, story in stories().items():
            with self.subTest(name, story=story["story"]):
                found = found_in(built(story))
                told = {(f.id, f.place, str(f.level)) for f in found}
                for must in story["must"]:
                    self.assertIn(tuple(must), told)
                known = {m[0] for m in story["must"]} | set(story["also"])
                false = [f.key for f in found if f.level in GRAVE and f.id not in known]
                self.assertEqual(false, [])
                if name.startswith("clean"):
                    self.assertEqual([f.key for f in found if f.level in GRAVE], [])


class Fixes(unittest.TestCase):
    def test_none_makes_any_place_worse(self):
        """Every fix of every house, tried alone."""
        tried = 0
        for name, story in stories().items():
            site = built(story)
            before = found_in(site)
            worst = _worst(before)
            for finding in before:
                if not finding.fix:
                    continue
                with self.subTest(name, fix=finding.key):
                    mended = site
                    for edit in finding.fix:
                        try:
                            mended = apply(mended, edit)
                        except BadInput as error:
                            self.fail(error.sentence)
                    after = _worst(found_in(mended))
                    for place, rank in after.items():
                        if place in worst or place in site.elements():
                            self.assertGreaterEqual(rank, worst.get(place, len(LEVELS)), place)
                    tried += 1
        self.assertGreaterEqual(tried, 55)


def _worst(found):
    """place → the rank of the worst found there; checks and notes are no harm."""
    ranks = {}
    for f in found:
        if f.level in GRAVE:
            ranks[f.place] = min(ranks.get(f.place, 9), f.level.rank)
    return ranks


class LocalAdditions(unittest.TestCase):
    def test_a_requirement_that_names_a_place_is_asked_for_there(self):
        site = built(stories()["clean-suburb"])
        site = apply(site, Set(path="c18.name", value="Studio workshop receptacles"))
        site = apply(site, Set(path="c18.gfci", value="no"))
        site = apply(site, Set(path="practice.edition", value=2005))
        key = "arc-fault-protection-by-place"
        site = apply(site, Require(text="AFCI in every garage and workshop", who="Office"))
        found = {(f.id, f.place): f for f in found_in(site)}
        self.assertEqual(found[key, "c18"].level, "check")  # asked
        site = apply(site, Set(path="c18.afci", value="no"))
        found = {(f.id, f.place): f for f in found_in(site)}
        self.assertEqual(found[key, "c18"].level, "fix")
        self.assertIn("Office", str(found[key, "c18"].authority))
