"""A page speaks the words of its job's rule set; what a person typed is theirs."""

import re

from django.test import TestCase

from returnpath.site import Installation, Set, apply

from .people import job_of, person


class Pages(TestCase):
    def setUp(self):
        self.owner = person("mira")
        self.client.force_login(self.owner)

    def test_a_metric_jobs_pages_have_no_american_terms(self):
        site = apply(Installation(), Set(path="u1.system", value="230"))
        site = apply(site, Set(path="p1.name", value="Gable panel"))
        job = job_of(self.owner, site)
        for stage in ("survey", "service", "panels", "buildings", "prove", "fix"):
            with self.subTest(stage):
                page = self.client.get(f"/jobs/{job.pk}/{stage}").content.decode()
                text = re.sub(r"<[^>]*>", " ", page)
                self.assertIn("Gable panel", text)
                self.assertNotRegex(text, r"\b(EGC|GEC|[Rr]eceptacles?|[Gg]round bar|MWBC)\b")

    def test_an_american_jobs_do(self):
        page = self.client.get(f"/jobs/{job_of(self.owner).pk}/survey").content.decode()
        self.assertIn("EGC", page)
