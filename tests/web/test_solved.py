"""Solved sites are kept by their content, and no more of them than fit."""

from unittest import mock

from django.test import SimpleTestCase

from justloop import solved
from tests.core.houses import house


class Kept(SimpleTestCase):
    def setUp(self):
        self.kept = self.enterContext(mock.patch.dict(solved._kept, clear=True))

    def sites(self, count=4):
        return [house(f"20A 12/2 NM {10 + n}ft kitchen") for n in range(count)]

    def test_the_same_content_is_computed_once(self):
        site = self.sites(1)[0]
        self.assertIs(solved.solve(site), solved.solve(site))

    def test_heavy_sites_push_out_what_was_used_longest_ago(self):
        one, two, three, four = self.sites()
        weight = len(solved.solve(one).study.cases)
        with mock.patch.object(solved, "KEEP_CASES", 3 * weight):
            first, second = solved.solve(one), solved.solve(two)
            solved.solve(three)
            self.assertIs(solved.solve(one), first)  # used again: the second is now the oldest
            solved.solve(four)
            self.assertEqual(len(self.kept), 3)
            self.assertIs(solved.solve(one), first)
            self.assertIsNot(solved.solve(two), second)

    def test_the_last_one_stays_however_heavy(self):
        site = self.sites(1)[0]
        with mock.patch.object(solved, "KEEP_CASES", 0):
            self.assertIs(solved.solve(site), solved.solve(site))
            self.assertEqual(len(self.kept), 1)
