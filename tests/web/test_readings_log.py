"""The Log stage: typed readings kept whole, judged, taken back, used as measured facts."""

import re

from django.test import TestCase, override_settings

from justloop.log.models import LoggedReading
from tests.core.test_findings import example

from .people import flat, job_of, person


class Log(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.client.force_login(self.owner)
        self.job = job_of(self.owner, example("pebblewick"))

    def add(self, text, **more):
        return self.client.post(
            f"/jobs/{self.job.pk}/readings/add",
            {"stage": "readings", "text": text} | more,
            follow=True,
        )

    def page(self, **query):
        return flat(self.client.get(f"/jobs/{self.job.pk}/readings", query).content)

    def test_the_walk_asks_only_for_the_number_and_goes_on(self):
        page = self.page()
        self.assertIn("Read next: Kitchen counter", page)
        self.assertIn('name="ask" id="ask" value="Kitchen counter loop"', page)
        answer = self.add("", ask="Kitchen counter loop", number="0.28", then="c18")
        self.assertContains(answer, "Hall bath loop")
        self.assertContains(answer, "as predicted")
        self.assertEqual(self.job.revisions.count(), 1)

    def test_one_that_is_off_is_named_with_its_cause(self):
        answer = self.add("studio outlets loop 0.66")
        page = flat(answer.content)  # what is off is opened
        for words in (
            "Over 0.207–0.248 Ω",
            "delayed trip",
            "Look for a loose joint",
            "1 off their",
        ):
            self.assertIn(words, page)

    def test_a_list_is_kept_whole_or_not_at_all(self):
        self.add("dryer loop 0.19\nsauna loop 0.2")
        self.assertEqual(LoggedReading.objects.count(), 0)
        page = self.page(q="dryer loop 0.19\nsauna loop 0.2")
        self.assertIn("dryer loop 0.19 sauna loop 0.2</textarea>", page)
        self.assertIn("“sauna” was not understood", page)
        self.add("dryer loop 0.19\nwater heater loop 0.13")
        self.assertEqual(LoggedReading.objects.count(), 2)
        self.add("")
        self.assertEqual(LoggedReading.objects.count(), 2)

    def test_a_reading_becomes_a_measured_fact_only_when_asked(self):
        self.add("kitchen counter r2 0.19")
        kept = LoggedReading.objects.get()
        self.client.post(f"/jobs/{self.job.pk}/readings/{kept.pk}/use", {"stage": "readings"})
        site = self.job.latest.site
        self.assertEqual(site.circuit("c17").return_ohm, 0.19)
        self.assertEqual(site.sources["c17.return_ohm"].kind, "measured")
        self.add("dryer loop 0.19")
        loop = LoggedReading.objects.first()
        self.client.post(f"/jobs/{self.job.pk}/readings/{loop.pk}/use", {"stage": "readings"})
        self.assertEqual(self.job.revisions.count(), 2)

    @override_settings(DEMO=False)
    def test_a_simulated_reading_proves_nothing(self):
        self.add("kitchen counter r2 0.19", simulated="1")
        kept = LoggedReading.objects.get()
        self.client.post(f"/jobs/{self.job.pk}/readings/{kept.pk}/use", {"stage": "readings"})
        self.assertIsNone(self.job.latest.site.circuit("c17").return_ohm)
        self.assertIn("simulated", self.page())

    def test_only_who_read_it_takes_it_back(self):
        self.add("dryer loop 0.19")
        kept = LoggedReading.objects.get()
        mate = person("robin")
        self.job.crew.add(mate)
        self.client.force_login(mate)
        drop = f"/jobs/{self.job.pk}/readings/{kept.pk}/drop"
        self.assertContains(self.client.post(drop, {"stage": "readings"}, follow=True), "Only who")
        self.client.force_login(self.owner)
        self.client.post(drop, {"stage": "readings"})
        self.assertEqual(LoggedReading.objects.count(), 0)

    def test_what_would_explain_them_and_what_to_read_next(self):
        self.add("studio outlets loop 0.66")
        self.assertIn("What would explain these readings?", self.page())
        page = self.page(show="why")
        for words in ("What would explain 1 reading", "Studio outlets: a loose joint",
                      "Read this next", "would say", "Map<span"):  # fmt: skip
            self.assertIn(words, page)
        unread = re.search(r"Not read at: (\d+) circuits\. (?:Under )?\d+% that something", page)
        self.add("dryer loop 0.2")
        self.add("torque main 250")
        page = self.page(show="why")
        self.assertIn("What would explain 2 readings", page)
        self.assertIn(f"Not read at: {int(unread[1]) - 1} circuits.", page)
        self.assertIn("Not weighed: Utility room: torque.", page)

    def test_beside_what_looks_like_a_slip_stands_what_the_same_again_would_say(self):
        self.add("studio outlets r1+r2 0.13\nstudio outlets step ng 0.8\nstudio outlets loop 9.4")
        page = self.page(show="why")
        self.assertIn("fits nothing else that was read: read it again", page)
        self.assertIn("once more", page)
        self.assertIn("would say it was a slip: nothing wrong", page)
        self.assertIn("9.4 Ω</strong> would say it is no slip:", page)

    def test_of_a_part_that_is_gone(self):
        self.add("dryer loop 0.19")
        dryer = LoggedReading.objects.get().place
        self.client.post(f"/jobs/{self.job.pk}/edit", {"base": 1, "op": "remove", "path": dryer})
        self.assertIn("A part that is gone", self.page())
