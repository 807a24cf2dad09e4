"""The quick bench's page: the address holds the question, the last ten are kept, a job takes it."""

from django.test import TestCase

from justloop.quick.views import KEPT

from .people import job_of, person


class QuickBench(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.job = job_of(self.owner)
        self.client.force_login(self.owner)

    def test_an_answer_with_its_working_and_what_was_assumed(self):
        page = self.client.get("/quick", {"q": "egc 100A"})
        self.assertContains(page, "8 AWG")
        self.assertContains(page, "/quick?q=egc%20100a%20al")
        self.assertContains(page, "How it is worked out")
        self.assertContains(self.client.get("/quick"), "egc 100A")

    def test_what_is_not_understood_is_said_and_stays(self):
        page = self.client.get("/quick", {"q": "egc 100A purple"})
        self.assertContains(page, "“purple” was not understood")
        self.assertContains(page, 'value="egc 100A purple"')
        self.assertNotIn("quick", self.client.cookies)

    def test_the_last_ten_are_kept_on_this_device(self):
        for rating in range(15, 15 + KEPT + 3):
            self.client.get("/quick", {"q": f"egc {rating}A"})
        page = self.client.get("/quick")
        self.assertContains(page, f"egc {14 + KEPT + 3}A")
        self.assertContains(page, "egc 18A")
        self.assertNotContains(page, "egc 17A")
        for nonsense in ("{}", "[1, 2]", "nonsense", '["<script>"]'):
            self.client.cookies["quick"] = nonsense
            self.assertNotContains(self.client.get("/quick"), "<script>")

    def test_long_questions_do_not_outgrow_their_cookie(self):
        for n in range(12):
            self.client.get("/quick", {"q": f"20A 12/2 {40 + n}ft {'é' * 60}"})
            self.assertLess(len(self.client.cookies["quick"].value), 3_000)
        self.assertContains(self.client.get("/quick"), "20A 12/2 51ft")

    def test_a_circuit_goes_into_a_job(self):
        page = self.client.get("/quick", {"q": "20A 12/2 85ft den"})
        self.assertContains(page, f"/jobs/{self.job.pk}/survey?line=20A%2012/2%2085ft%20den")
        survey = self.client.get(f"/jobs/{self.job.pk}/survey", {"line": "20A 12/2 85ft den"})
        self.assertContains(survey, 'value="20A 12/2 85ft den"')
        self.assertContains(survey, "A circuit: Den")
        self.assertEqual(self.job.revisions.count(), 1)  # looked at, not saved
        mate = person("mate")
        self.job.readers.add(mate)
        self.client.force_login(mate)
        page = self.client.get("/quick", {"q": "20A 12/2 85ft"})
        self.assertNotContains(page, "Into a job")
