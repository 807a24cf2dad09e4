"""A place of three lines is drawn with the lines it is solved with; a 230 V circuit is asked what
it feeds."""

import re

from django.test import TestCase

from returnpath.rules import Evidence, open_facts
from returnpath.site import Set, apply
from returnpath.study import study
from returnpath.vocabulary import System
from tests.core.houses import house

from .people import job_of, person


class Lines(TestCase):
    def test_every_system_is_drawn_with_its_lines(self):
        owner = person("wren")
        self.client.force_login(owner)
        for system in System:
            site = apply(house("20A 12/2 NM 85ft x"), Set(path="u1.system", value=system.value))
            job = job_of(owner, site, name=system.value)
            with self.subTest(system):
                page = self.client.get(f"/jobs/{job.pk}/service").content.decode()
                bars = re.findall(r'class="bar-hot2?"', page)
                self.assertEqual(len(bars), system.lines)

    def test_what_a_large_230_v_circuit_feeds_is_asked(self):
        site = apply(
            house("50A #6 NM 40ft x", lo=None, hi=None), Set(path="u1.system", value="230")
        )
        asked = {o.fact: o for o in open_facts(Evidence(site, study(site)))}
        self.assertEqual([p for p, _ in asked["circuits.feeds"].places], ["c2.feeds"])
        small = apply(site, Set(path="c2.breaker.rating_a", value=20))
        self.assertNotIn(
            "circuits.feeds", {o.fact for o in open_facts(Evidence(small, study(small)))}
        )
        american = house("50A #6 NM 40ft x")
        self.assertNotIn(
            "circuits.feeds", {o.fact for o in open_facts(Evidence(american, study(american)))}
        )
