"""Trials: what is tried changes nothing until it is kept, and nobody's change is lost by it."""

import re
import unittest
from types import SimpleNamespace

from django.http import QueryDict
from hypothesis import given
from hypothesis import strategies as st

from justloop.address import STAGES, Address, address_of
from justloop.drawing.looks import LOOKS
from justloop.jobs.models import Job, Trial
from justloop.workspace import trials
from justloop.workspace.side_by_side import Turned, _moves

from .people import person
from .test_workspace import Workspace


class Trying(Workspace):
    def test_try_changes_nothing_until_it_is_kept(self):
        key = self.key_of("bond-downstream")
        html = self.post("fix", key, stage="fix", **{"try": "1"}).content.decode()
        self.assertEqual(self.job.revisions.count(), 1)
        self.assertIn("On trial", html)
        self.assertIn("1.48 A → 0.0354 A", html)
        self.assertIn("Bonded a second time", html)  # among what goes
        self.assertIn('data-look="load" aria-current="true"', html)
        circuit = self.place("Studio outlets")
        self.post("set", f"{circuit}.length_ft", "200")  # tried with it
        self.assertEqual(self.job.revisions.count(), 1)
        self.assertIn("200 ft", self.get(at=circuit))
        self.client.post(f"/jobs/{self.job.pk}/keep", {"stage": "fix"})
        site = self.job.latest.site
        self.assertEqual(self.job.revisions.count(), 2)
        self.assertEqual(site.value_at(f"{circuit}.length_ft"), 200)
        self.assertEqual(site.value_at(f"{self.place('Loft studio')}.bond"), "out")
        self.assertFalse(Trial.objects.exists())

    def test_thrown_away(self):
        self.post("whatif", "lose-s1.neutral", at="c17", loop="c17")
        self.assertIn("Throw it away", self.get())
        self.client.post(f"/jobs/{self.job.pk}/discard")
        self.assertNotIn("On trial", self.get())
        self.assertEqual(self.job.revisions.count(), 1)

    def test_a_trial_is_one_persons(self):
        mate = person("mate")
        self.job.crew.add(mate)
        self.post("whatif", "open-p5", at="c17", loop="c17")
        self.assertIn("On trial", self.get())
        self.client.force_login(mate)
        self.assertNotIn("On trial", self.get())

    def test_every_whatif_offered_can_be_tried(self):
        html = self.get(at=self.place("Boathouse"))
        keys = re.findall(r'class="try" name="path" value="([^"]+)"', html)
        self.assertGreaterEqual(len(keys), 7)
        for key in keys:
            with self.subTest(key):
                at = self.place("Boathouse")
                self.assertIn("On trial", self.post("whatif", key, at=at, loop=at).content.decode())
                self.client.post(f"/jobs/{self.job.pk}/discard")

    def test_a_trial_that_no_longer_fits_is_dropped(self):
        circuit = self.place("Dryer")
        self.post("whatif", f"drop-{circuit}", at=circuit, loop=circuit)
        mate = person("mate")
        self.job.crew.add(mate)
        self.client.force_login(mate)
        self.post("remove", circuit)
        self.client.force_login(self.owner)
        html = self.get()
        self.assertNotIn("On trial", html)
        self.assertIn("mate saved meanwhile: Removed Dryer", html)
        self.assertIn("Your trial no longer fits the job and is gone", html)

    def test_a_trial_goes_on_over_what_others_save_and_keeps_to_its_own_parts(self):
        mate = person("mate")
        self.job.crew.add(mate)
        self.post("whatif", "lose-s1.neutral")
        self.post("add", "", "20A 12/2 NM 30ft owner's outlets")
        own = trials.running(self.job, self.owner, self.job.latest.site).site.circuits[-1]
        self.post("set", f"{own.id}.length_ft", "44")
        self.client.force_login(mate)
        self.post("add", "", "15A 14/2 NM 50ft mate's lights")
        self.client.force_login(self.owner)
        html = self.get()
        self.assertIn("mate saved meanwhile: Added Mate&#x27;s lights", html)
        self.assertIn("On trial", html)
        self.assertNotIn("saved meanwhile", self.get())  # told once
        self.client.post(f"/jobs/{self.job.pk}/keep", {"stage": "service"})
        lengths = {c.name: c.length_ft for c in self.job.latest.site.circuits[-2:]}
        self.assertEqual(lengths, {"Mate's lights": 50, "Owner's outlets": 44})

    def test_keeping_over_somebodys_change_of_the_same_fact_asks_again(self):
        mate, dryer = person("mate"), self.place("Dryer")
        self.job.crew.add(mate)
        self.post("whatif", "lose-s1.neutral")
        self.post("set", f"{dryer}.length_ft", "200")
        self.client.force_login(mate)
        self.post("set", f"{dryer}.length_ft", "90")
        self.client.force_login(self.owner)
        url = f"/jobs/{self.job.pk}/keep"
        told = self.client.post(url, {"stage": "service"}, follow=True).content.decode()
        self.assertIn("mate set this to 90 ft meanwhile", told)
        self.assertEqual(self.job.latest.site.value_at(f"{dryer}.length_ft"), 90)
        self.client.post(url, {"stage": "service"})
        self.assertEqual(self.job.latest.site.value_at(f"{dryer}.length_ft"), 200)

    def test_one_that_no_longer_fits_says_so_wherever_its_person_goes_on(self):
        dryer, mate = self.place("Dryer"), person("mate")
        self.job.crew.add(mate)
        for go_on in ("keep", "edit", "look"):
            with self.subTest(go_on):
                self.client.force_login(self.owner)
                self.post("whatif", f"drop-{dryer}", at=dryer, loop=dryer)
                self.client.force_login(mate)
                self.post("remove", dryer)
                self.client.force_login(self.owner)
                if go_on == "keep":
                    url = f"/jobs/{self.job.pk}/keep"
                    told = self.client.post(url, {"stage": "service"}, follow=True)
                elif go_on == "edit":
                    told = self.post("set", f"{self.place('Table saw')}.length_ft", "48")
                else:
                    told = self.client.get(f"/jobs/{self.job.pk}/service")
                self.assertContains(told, "mate saved meanwhile: Removed Dryer.")
                self.assertContains(told, "no longer fits the job and is gone")
                self.assertFalse(Trial.objects.exists())
                self.client.force_login(mate)
                self.client.post(f"/jobs/{self.job.pk}/undo")

    def test_what_is_set_aside_meanwhile_is_no_news_to_the_trial(self):
        self.post("whatif", "lose-s1.neutral")
        self.post("aside", self.key_of("rods-too-near"), "Measured 6 ft", stage="fix")
        html = self.get()
        self.assertIn("On trial", html)
        self.assertNotIn("saved meanwhile", html)
        self.assertEqual(Trial.objects.get().base, self.job.latest)

    def test_undo_in_another_window_takes_the_ground_from_under_nobody(self):
        self.post("add", "", "20A 12/2 NM 30ft porch")
        porch = self.job.latest.site.circuits[-1].id
        self.post("whatif", f"drop-{porch}", at=porch, loop=porch)
        self.client.post(f"/jobs/{self.job.pk}/undo")
        self.assertIn("no longer fits", self.get())

    def test_more_than_the_lists_hold_is_counted(self):
        html = self.post("whatif", "lose-s1.neutral").content.decode()
        listed = html.split("<h3>Turns</h3>")[1].split("</ul>")[0]
        self.assertEqual(listed.count("→"), 12)
        turned = int(re.search(r"(\d+) verdicts turn", html)[1])
        self.assertIn(f"and {turned - 12} more", listed)


class Moves(unittest.TestCase):
    def test_in_words(self):
        def found(level, place="Loft studio"):
            return SimpleNamespace(level=level, place_name=place)

        danger, fix, check = found("danger"), found("fix", "Hall bath"), found("check")
        one = Turned("Table saw", "delayed trip", "trips instantaneously")
        for gone, come, turned, words in (
            ([danger], [check, check], [],
             "The Loft studio danger goes; two questions come"),
            ([danger, fix], [], [one],
             "The Loft studio danger goes; the Hall bath fix goes;"
             " Table saw: delayed trip → trips instantaneously"),
            ([], [danger, danger, fix], [one] * 8,
             "Two dangers come; one fix comes; 8 verdicts turn"),
            ([check], [], [], "One question goes"),
            ([], [], [], ""),
        ):  # fmt: skip
            self.assertEqual(_moves(gone, come, turned), words)


class Addresses(unittest.TestCase):
    @given(st.data())
    def test_an_address_leads_back_to_its_spot(self, data):
        text = st.text("abc123 &=+#%ü/?", max_size=12)
        job = Job(pk=7)
        address = Address(
            pk=7,
            stage=data.draw(st.sampled_from(list(STAGES))),
            at=data.draw(st.sampled_from(["", "c1", "p5"])),
            loop=data.draw(st.sampled_from(["", "c2", "m3"])),
            look=data.draw(st.sampled_from(list(LOOKS))),
            open=data.draw(text),
            more=data.draw(st.sampled_from(["", "1"])),
            map=data.draw(st.sampled_from(["", "1"])),
            q=data.draw(text),
        )
        path, _, query = address.here.partition("?")
        self.assertEqual(path, f"/jobs/7/{address.stage}")
        self.assertEqual(address_of(job, address.stage, QueryDict(query)), address)
