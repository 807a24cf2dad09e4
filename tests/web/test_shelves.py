"""Jobs put away, taken up again, handed over, copied; and who may do it."""

from datetime import timedelta

from django.core.management import call_command
from django.test import TestCase
from django.utils import timezone

from justloop.jobs.models import BIN_DAYS, Job

from .people import job_of, person


class Shelves(TestCase):
    def setUp(self):
        self.owner, self.mate, self.stranger = person("wren"), person("mate"), person("tern")
        self.job = job_of(self.owner)
        self.job.crew.add(self.mate)
        self.client.force_login(self.owner)

    def put(self, shelf, client=None):
        address = f"/jobs/{self.job.pk}/put-away"
        return (client or self.client).post(address, {"shelf": shelf}, follow=True)

    def page(self):
        return self.client.get(f"/jobs/{self.job.pk}/service").status_code

    def test_the_archive_keeps_it_out_of_the_way(self):
        self.assertContains(self.put("archive"), "is in the archive")
        self.assertNotContains(self.client.get("/"), "job level-")
        self.assertContains(self.client.get("/?shelf=archive"), "Pebblewick")
        self.assertEqual(self.page(), 200)
        self.put("")
        self.assertContains(self.client.get("/"), "job level-")

    def test_the_bin_hides_it_from_everybody_and_gives_it_back(self):
        self.put("bin")
        self.assertEqual(self.page(), 404)
        self.assertContains(self.client.get("/?shelf=bin"), "gone for good on")
        self.client.force_login(self.mate)
        self.assertEqual(self.page(), 404)
        self.assertNotContains(self.client.get("/?shelf=bin"), "Pebblewick")
        self.client.force_login(self.owner)
        self.put("")
        self.assertEqual(self.page(), 200)
        self.assertEqual(self.job.revisions.count(), 1)

    def test_after_its_days_it_is_dropped_and_not_before(self):
        self.put("bin")
        for days, is_there in ((BIN_DAYS - 1, True), (BIN_DAYS + 1, False)):
            Job.objects.update(shelved_at=timezone.now() - timedelta(days=days))
            call_command("thin", verbosity=0)
            self.assertEqual(Job.objects.exists(), is_there)

    def test_only_its_owner_puts_it_away(self):
        for who in (self.mate, self.stranger):
            self.client.force_login(who)
            for shelf in ("archive", "bin"):
                self.assertEqual(self.put(shelf).status_code, 404)
        self.job.refresh_from_db()
        self.assertEqual(self.job.shelf, "")
        self.client.force_login(self.owner)
        self.assertEqual(self.put("attic").status_code, 404)
        self.assertEqual(self.client.get("/?shelf=attic").status_code, 404)

    def test_handed_over_to_one_of_the_crew(self):
        address = f"/jobs/{self.job.pk}/crew"
        refused = self.client.post(address, {"do": "hand over", "name": "tern"})
        self.assertContains(refused, "Only somebody who edits the job")
        self.client.post(address, {"do": "hand over", "name": "mate"})
        self.job.refresh_from_db()
        self.assertEqual(self.job.owner, self.mate)
        self.assertEqual(list(self.job.crew.all()), [self.owner])
        self.assertEqual(self.put("bin").status_code, 404)

    def test_a_copy_is_a_job_of_ones_own(self):
        self.client.force_login(self.mate)
        self.client.post(f"/jobs/{self.job.pk}/copy")
        made = Job.objects.get(name="Copy of Pebblewick")
        self.assertEqual((made.owner, made.crew.count()), (self.mate, 0))
        self.assertEqual(made.latest.document, self.job.latest.document)
        self.client.force_login(self.stranger)
        self.assertEqual(self.client.post(f"/jobs/{self.job.pk}/copy").status_code, 404)
