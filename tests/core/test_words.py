"""The table of words: each in both rule sets, and the groups whole."""

import re
import unittest

from returnpath.diagnosis.defects import priors
from returnpath.readings import reading_kinds
from returnpath.site.installation import LISTS
from returnpath.study import Verdict
from returnpath.tables import rows
from returnpath.words import RuleSet, spoken, words


class Words(unittest.TestCase):
    def test_every_word_is_in_both_rule_sets_once(self):
        keys = [(r["group"], r["key"]) for r in rows("words")]
        self.assertEqual(len(keys), len(set(keys)))
        for row in rows("words"):
            for rule_set in RuleSet:
                self.assertTrue(row[rule_set].strip(), row)

    def test_the_groups_are_whole(self):
        self.assertEqual(set(words("verdict")), {str(v) for v in Verdict})
        self.assertEqual(set(words("criterion")), set(words("judged by")))
        self.assertLessEqual(set(words("list")), set(LISTS))

    def test_the_words_of_a_rule_set(self):
        self.assertEqual(words("branch")["egc"], "EGC")
        self.assertEqual(words("branch", RuleSet.METRIC)["egc"], "protective conductor")
        self.assertEqual(words("verdict", RuleSet.METRIC)[Verdict.MAY_NEVER_OPEN],
                         "May not disconnect")  # fmt: skip


class OfReadings(unittest.TestCase):
    def test_no_american_word_in_a_reading_or_in_what_would_explain_it(self):
        said = [k.label for k in reading_kinds().values()] + [p[1] for p in priors().values()]
        american = r"\b(?:hots?|EGC|GEC|receptacles?|panels?|feeders?|legs?|grounds?|bonds?)\b"
        for text in said:
            metric = spoken(text, RuleSet.METRIC)
            with self.subTest(text):
                self.assertIsNone(re.search(american, metric), metric)
