"""Whole houses judged as a master electrician would: nothing missed, nothing told falsely."""

import unittest

from returnpath.errors import BadInput
from returnpath.rules import LEVELS, findings
from returnpath.site import apply
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
        self.assertGreaterEqual(tried, 60)


def _worst(found):
    """place → the rank of the worst found there; checks and notes are no harm."""
    ranks = {}
    for f in found:
        if f.level in GRAVE:
            ranks[f.place] = min(ranks.get(f.place, 9), f.level.rank)
    return ranks
