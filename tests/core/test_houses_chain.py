"""Houses judged from the source to the load: nothing that carries current is passed over."""

import unittest

from .houses_chain import fits, found_at, stories

GRAVE = ("danger", "fix")


class Judged(unittest.TestCase):
    def test_enough_of_both_kinds(self):
        clean = [s for s in stories() if s.get("clean")]
        self.assertGreaterEqual(len(stories()), 60)
        self.assertGreaterEqual(len(clean), 24)

    def test_every_house(self):
        for number, story in enumerate(stories()):
            with self.subTest(story["story"]):
                found = found_at(number)
                for want in story.get("must", ()):
                    self.assertTrue(any(fits(want, f) for f in found), f"missed {want}")
                for no in story.get("must_not", ()):
                    self.assertEqual([f.key for f in found if fits(no, f)], [], f"false {no}")
                if story.get("clean"):
                    grave = [f"{f.key}: {f.found}" for f in found if f.level in GRAVE]
                    self.assertEqual(grave, [])
