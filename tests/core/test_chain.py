"""From the source to the load: no conductor is without its device or a question."""

import unittest

from returnpath.rules import Evidence, deciding_questions, findings_of, open_facts
from returnpath.site import Set, apply
from returnpath.site.chain import Chain, Protection, chains, conductors, protections
from returnpath.study import study

from . import houses_chain, houses_judged
from .any_place import any_metric_place, any_place
from .houses_metric import built as metric_built
from .houses_metric import stories as metric_stories
from .test_findings import example

GIVEN = (Protection.OWN, Protection.AHEAD, Protection.LOAD_END)


def story(words: str):
    """The house of a story that begins so."""
    return houses_chain.built(
        next(s for s in houses_chain.stories() if s["story"].startswith(words))
    )


class EveryConductor(unittest.TestCase):
    def judged(self, site):
        """Each conductor that neither a known device protects nor anything asks about."""
        done = study(site)
        solved = Evidence(site, done)
        found = findings_of(solved)
        asked = {f.asks for f in found} | {q.path for q in deciding_questions(done)}
        asked |= {path for one in open_facts(solved) for path, _ in one.places}
        about = ("conductor-unprotected", "derived-secondary-unprotected", "switch-as-protection")
        told = {f.place for f in found if f.id in about}
        protected = protections(done.assumed.site)
        for run in conductors(done.assumed.site):
            one = protected[run.id]
            if one.how in GIVEN and one.device is not None and one.device.rating_a:
                continue
            wanted = one.how is Protection.NOT_TYPED and (one.at in asked or _of(one.at, asked))
            self.assertTrue(wanted or run.id in told, f"{run.id}: {one}")

    def test_of_every_written_house(self):
        houses = [
            example(n) for n in ("pebblewick", "millrace", "larkfield", "foxglove", "thistle")
        ]
        houses += [houses_chain.built(s) for s in houses_chain.stories()]
        houses += [houses_judged.built(s) for s in houses_judged.stories().values()]
        houses += [metric_built(s) for s in metric_stories().values()]
        self.assertGreater(len(houses), 170)
        for n, site in enumerate(houses):
            with self.subTest(n):
                self.judged(site)

    def test_of_made_places(self):
        for seed in range(60):
            with self.subTest(seed):
                self.judged(any_place(seed))
                self.judged(any_metric_place(seed))


def _of(path, asked) -> bool:
    """Whether a question is about a device, by whatever of its facts."""
    return any(a.startswith(f"{path.group}.") for a in asked if a)


class WhatProtects(unittest.TestCase):
    def protected(self, words: str, run: str):
        return protections(study(story(words)).assumed.site)[run]

    def test_its_own_the_nearest_ahead_or_the_end(self):
        own = self.protected("The base", "f1")
        self.assertEqual((own.how, own.at, own.rating_a), (Protection.OWN, "f1.breaker", 60))
        tap = self.protected("A ten-foot tap", "f1")
        self.assertEqual((tap.how, tap.at, tap.rating_a), (Protection.AHEAD, "p1.main", 200))
        end = self.protected("The base", "s1")
        self.assertEqual((end.how, end.rating_a), (Protection.LOAD_END, 200))

    def test_a_device_that_is_not_typed_is_bounded_never_replaced(self):
        found = self.protected("The den feeder's breaker was not typed", "f1")
        self.assertEqual((found.how, found.at), (Protection.NOT_TYPED, "f1.breaker.rating_a"))
        self.assertEqual((found.rating_a, found.bound_a), (None, 200))

    def test_the_one_device_of_an_enclosure_is_what_leaves_it_is_behind(self):
        found = self.protected("A fuse at the wall ahead", "f101")
        self.assertEqual((found.how, found.at), (Protection.AHEAD, "p2.main"))

    def test_never_through_a_transformer(self):
        site = study(story("A transformer of its own")).assumed.site
        secondary = protections(site)["s103"]
        self.assertEqual((secondary.how, secondary.at), (Protection.LOAD_END, "p102.main"))
        bare = apply(site, Set(path="p102.main.rating_a", value=None))
        self.assertIsNone(protections(bare)["s103"].rating_a)
        utility = Chain(site, site.supply)
        self.assertFalse(utility.reaches("p102"))

    def test_several_disconnects_add_up(self):
        found = self.protected("Seven mains", "s1")
        self.assertEqual((found.count, found.rating_a), (7, 7 * 100))

    def test_each_source_has_a_chain_of_its_own(self):
        site = study(story("A generator entered as 6 + j2")).assumed.site
        self.assertEqual([c.supply.id for c in chains(site)], ["u1", "u100"])
        self.assertEqual(protections(site)["s101"].at, "u100.breaker")
