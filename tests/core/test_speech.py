"""The trade's words from one table: a sentence in the words of the metric rule set."""

import unittest

from returnpath.rules import findings, pairs
from returnpath.site import Installation, Set, apply
from returnpath.site.speech import names_in, rule_set_of
from returnpath.study import study
from returnpath.words import RuleSet, spoken, words

TERMS = words("term", RuleSet.METRIC)


class Spoken(unittest.TestCase):
    def test_american_words_stay_for_the_american_rules(self):
        self.assertEqual(spoken("The EGC of the sub-panel", RuleSet.US), "The EGC of the sub-panel")

    def test_the_article_goes_with_the_word(self):
        said = spoken(
            "Run an EGC to a receptacle; an AFCI, a GFCI and a ground rod.", RuleSet.METRIC
        )
        self.assertEqual(
            said,
            "Run a protective conductor to a socket-outlet; an AFDD, an RCD and an earth rod.",
        )

    def test_feet_inches_and_editions(self):
        for text, wanted in (
            ("It is 157.5 ft long, 24 in deep.", "It is 48 m long, 610 mm deep."),
            ("Under the rules of 2023.", "Under IEC 60364."),
            ("500 sq ft and 6-ft rods", "46.5 m² and 1.83 m rods"),
        ):
            self.assertEqual(spoken(text, RuleSet.METRIC), wanted)
            self.assertEqual(spoken(spoken(text, RuleSet.METRIC), RuleSet.METRIC), wanted)
            self.assertEqual(spoken(text, RuleSet.US), text)

    def test_each_term_becomes_the_other_sets_and_stays_that(self):
        for said, other in TERMS.items():
            with self.subTest(said):
                once = spoken(f"the {said} here", RuleSet.METRIC)
                self.assertEqual(once, f"the {other} here")
                self.assertEqual(spoken(once, RuleSet.METRIC), once, "spoken twice")

    def test_the_longest_term_is_meant_and_its_capital_kept(self):
        for text, wanted in (
            ("Ground rod 2", "Earth rod 2"),
            ("its grounding electrode conductor (GEC) lands", "its earthing conductor lands"),
            ("EGC small", "protective conductor small"),
            ("Sub-panel feeder", "Sub-board distribution circuit"),
            ("May not trip", "May not disconnect"),
        ):
            self.assertEqual(spoken(text, RuleSet.METRIC), wanted)

    def test_no_part_of_another_word_is_touched(self):
        for text in ("panelling", "legsize", "underground", "ungrounded-x"):
            self.assertEqual(spoken(text, RuleSet.METRIC), text)

    def test_a_persons_own_names_stay(self):
        said = spoken("Old panel feeds a panel", RuleSet.METRIC, frozenset({"Old panel"}))
        self.assertEqual(said, "Old panel feeds a distribution board")


class OfAPlace(unittest.TestCase):
    def test_findings_of_a_metric_place_speak_its_words(self):
        site = apply(Installation(), Set(path="u1.system", value="230"))
        self.assertIs(rule_set_of(site), RuleSet.METRIC)
        names = names_in(site)
        found = findings(site, study(site))
        self.assertTrue(found)
        for finding in found:
            for text in (finding.found, finding.why, finding.do, *finding.parts):
                self.assertEqual(text, spoken(text, RuleSet.METRIC, names))

    def test_and_of_an_american_one_its_own(self):
        self.assertIs(rule_set_of(pairs.base()), RuleSet.US)
