"""Every finding's text, read aloud: one and many, no stray zero, no half sentence."""

import re
import unittest
from functools import cache

from returnpath.rules import all_checks, findings, pairs
from returnpath.site import Remove, Set, apply
from returnpath.study import study

from . import houses_chain
from .houses_chain import found_at
from .test_findings import bad_case

#: “1 circuits”, but not “1 supplies” of a sentence that goes on, nor a size or a leg.
ONE_OF_MANY = re.compile(r"(?<![\d.,/-])1 (?!AWG|is|was|has|as|ohms?|others|times)[a-z]+[^s\W]s\b")
BAD = {
    "a plural in brackets": re.compile(r"\(s\)"),
    "one of many": ONE_OF_MANY,
    "none counted": re.compile(r"(?<![\d.,])0 (feeders|circuits|loops|panels|supplies|breakers)\b"),
    "an article twice": re.compile(r", or An? "),
    "two articles": re.compile(r"\b([Aa]n?|[Tt]he) \1\b"),
    "the wrong article": re.compile(r"\ba (?=[aeio]|8 |11 |18 |80 )(?!one|eu)\w*|\ban (?=[1-79])"),
    "a doubled word": re.compile(r"\b(\w+) \1\b(?! \1)"),
    "a doubled stop": re.compile(r"\.\.(?!\.)|\. \.|,,|: :|;;"),
    "a space before a stop": re.compile(r" [.,;:](?:\s|$)"),
    "a name of the code": re.compile(r"\b(None|True|False|nan|inf)\b|(?<!R)_"),
    "the British metal": re.compile(r"aluminium"),
}


@cache
def found_texts():
    """Every finding of the checks' bad examples and of the houses."""
    found = [f for id in all_checks() for f in bad_case(id)[1]]
    return (*found, *(f for n in range(len(houses_chain.stories())) for f in found_at(n)))


class ReadAloud(unittest.TestCase):
    def test_no_text_stumbles(self):
        self.assertGreater(len({f.id for f in found_texts()}), 195)
        for finding in found_texts():
            is_metric = pairs.rule_set_of(finding.id).value == "metric"
            for text in (finding.found, finding.do, *finding.parts):
                for what, pattern in BAD.items():
                    if what == "the British metal" and (is_metric or "mm²" in text):
                        continue
                    match = pattern.search(text)
                    with self.subTest(finding.id, what=what):
                        self.assertIsNone(match, text)

    def test_sentences_begin_and_end(self):
        for finding in found_texts():
            for text in (finding.found, finding.do):
                with self.subTest(finding.id, text=text):
                    self.assertRegex(text, r"^[A-Z0-9“¼½¾]")
                    self.assertRegex(text, r"[.?”)]$")

    def text(self, id: str, site) -> str:
        return next(f.found for f in findings(site, study(site)) if f.id == id)

    def test_with_one_and_with_many(self):
        """Each text that counts, with one and with several."""
        base = pairs.base()
        shed = apply(base, Set(path="c15.building", value="b3"))
        self.assertIn("2 supplies: 1 feeder, 1 circuit.", self.text("more-than-one-supply", shed))
        shed = apply(shed, Set(path="c16.building", value="b3"))
        self.assertIn("3 supplies: 1 feeder, 2 circuits.", self.text("more-than-one-supply", shed))
        alone = apply(apply(shed, Remove(id="f8")), Remove(id="c19"))
        self.assertIn("2 supplies: 2 circuits.", self.text("more-than-one-supply", alone))

    def test_one_loop_and_many_on_another_source(self):
        words = next(s for s in houses_chain.stories() if "6 + j2" in s["story"])
        site = houses_chain.built(words)
        self.assertRegex(self.text("loop-on-other-source", site), r"source \d+ loops do not trip")
        for circuit in site.circuits:
            if circuit.id != "c1":
                site = apply(site, Set(path=f"{circuit.id}.breaker.rating_a", value=None))
                site = apply(site, Set(path=f"{circuit.id}.egc", value=None))
        for panel in ("p2", "p3"):
            site = apply(site, Set(path=f"{panel}.ground_bar", value=None))
        text = self.text("loop-on-other-source", site)
        self.assertRegex(text, r"source (1 loop does|\d+ loops do) not trip instantaneously")

    def test_one_ground_and_several_on_a_floating_bar(self):
        many = apply(pairs.base(), Set(path="p4.ground_bar", value="isolated"))
        self.assertIn("4 EGCs on it lead nowhere", self.text("ground-bar-not-on-case", many))
        one = many
        for gone in ("c21", "c20", "c16"):
            one = apply(one, Remove(id=gone))
        self.assertIn("1 EGC on it leads nowhere", self.text("ground-bar-not-on-case", one))
