"""Find circuits: one switches off, one looks what went dead; who found what, and when."""

from django.test import TestCase

from justloop.jobs.models import OffNow
from returnpath.rules import findings
from returnpath.study import study
from tests.core.test_findings import example

from .people import job_of, person


class FindCircuits(TestCase):
    def setUp(self):
        self.owner, self.mate = person("wren"), person("robin")
        self.client.force_login(self.owner)
        self.job = job_of(self.owner, example("pebblewick"))
        self.job.crew.add(self.mate)
        self.url = f"/jobs/{self.job.pk}/find"
        self.by_name = {c.name: c for c in self.job.latest.site.circuits}

    def now(self, name):
        return next(c for c in self.job.latest.site.circuits if c.id == self.by_name[name].id)

    def test_what_one_switches_off_the_other_sees_and_answers(self):
        bath = self.by_name["Hall bath"]
        self.assertContains(self.client.get(self.url), "Nothing is off")
        self.client.post(self.url, {"do": "off", "c": bath.id})
        self.client.force_login(self.mate)
        seen = self.client.get(f"{self.url}/now?seen=none")
        self.assertContains(seen, "Off now")
        self.assertContains(seen, "Hall bath, Utility room. Switched by wren")
        token = seen.content.decode().split("seen=", 1)[1].split('"', 1)[0]
        self.assertEqual(self.client.get(f"{self.url}/now?seen={token}").status_code, 204)
        page = self.client.post(
            self.url,
            {"do": "found", "c": bath.id, "name": "Hall bath receptacle", "place": ["bathroom"]},
            follow=True,
        )
        self.assertContains(page, "1</span> of")
        self.assertContains(page, "found (robin, 20")
        self.assertEqual(self.now("Hall bath").name, "Hall bath receptacle")
        self.assertEqual(self.now("Hall bath").traced, "found")
        self.assertFalse(OffNow.objects.filter(until=None).exists())
        self.assertContains(self.client.get(f"{self.url}/now?seen={token}"), "Nothing is off")

    def test_a_vague_name_is_asked_for_and_what_was_tapped_stays(self):
        saw = self.by_name["Table saw"]
        answer = self.client.post(self.url, {"do": "found", "c": saw.id, "name": "lights"})
        self.assertEqual(answer.status_code, 422)
        self.assertContains(answer, "could be any circuit", status_code=422)
        self.assertContains(answer, 'value="lights"', status_code=422)
        self.assertIsNone(self.now("Table saw").traced)
        self.client.post(
            self.url, {"do": "found", "c": saw.id, "name": "", "place": ["garage", "outdoors"]}
        )
        self.assertEqual(self.now("Table saw").name, "Garage or accessory building, outdoors")
        self.assertEqual(self.now("Table saw").places, "garage, outdoors")

    def test_what_nobody_found_is_listed(self):
        heater = self.by_name["Water heater"]
        self.client.post(self.url, {"do": "nothing", "c": heater.id})
        page = self.client.get(self.url)
        self.assertContains(page, "Nobody found:")
        self.assertContains(page, "nothing went dead (wren, 20")
        before, after = example("pebblewick"), self.job.latest.site
        self.assertEqual(len(findings(before, study(before))), len(findings(after, study(after))))

    def test_two_names_for_one_circuit_are_a_conflict_with_both_said(self):
        bench = self.by_name["Cellar bench"]
        base = self.job.latest.number
        first = {"do": "found", "c": bench.id, "name": "Cellar bench left", "base": base}
        self.client.post(self.url, first)
        self.client.force_login(self.mate)
        answer = self.client.post(
            self.url, first | {"name": "Cellar bench right"}, headers={"X-Waited": "1"}
        )
        self.assertEqual(answer.status_code, 422)
        self.assertIn("wren set this to Cellar bench left", answer.json()["sentence"])
        self.assertEqual(self.now("Cellar bench").name, "Cellar bench left")

    def test_what_waited_on_a_phone_is_answered_to_its_script(self):
        bench = self.by_name["Cellar bench"]
        sent = {"do": "found", "c": bench.id, "name": "Cellar bench left"}
        answer = self.client.post(self.url, sent, headers={"X-Waited": "1"})
        self.assertEqual(answer.json()["base"], self.job.latest.number)
        gone = self.client.post(self.url, {"do": "found", "c": "c999"}, headers={"X-Waited": "1"})
        self.assertEqual(gone.json(), {"sentence": "That circuit was removed meanwhile."})

    def test_odd_forms_and_a_part_that_is_gone(self):
        bath = self.by_name["Hall bath"]
        self.client.post(self.url, {"do": "off", "c": bath.id})
        OffNow.objects.update(circuit="c999")
        self.assertContains(self.client.get(self.url), "Nothing is off")
        for form in ({}, {"do": "x", "c": bath.id}, {"do": "off"},
                     {"do": "found", "c": bath.id, "name": "x" * 5000}):  # fmt: skip
            self.assertEqual(self.client.post(self.url, form).status_code, 422, form)
        for query in ("?panel=zz&c=zz", "?c=" + "9" * 500, "?panel=%00"):
            self.assertEqual(self.client.get(self.url + query).status_code, 200)
