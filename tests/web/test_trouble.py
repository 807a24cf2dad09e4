"""A full disk, a folder that may not be written, a revision that cannot be read."""

import json
import time
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client, TestCase, TransactionTestCase

from justloop.jobs.models import Job, Revision
from returnpath.site.installation import LAST_ID
from returnpath.study.site import MOST_STUDIED
from tests.core.test_findings import example

from .people import job_of, person


def limited(pragma: str):
    """Run a PRAGMA on the connection in use."""
    with connection.cursor() as cursor:
        cursor.execute(pragma)


class NothingCanBeKept(TransactionTestCase):
    """The database itself refuses, as it does on a full disk and in a read-only folder."""

    def setUp(self):
        self.owner = person("wren")
        self.client.force_login(self.owner)
        self.job = job_of(self.owner, example("pebblewick"))
        self.addCleanup(limited, "PRAGMA query_only=OFF")
        self.addCleanup(limited, "PRAGMA max_page_count=1073741823")

    def refuse(self, way: str) -> str:
        if way == "full":
            limited("PRAGMA wal_checkpoint(TRUNCATE)")
            limited("PRAGMA max_page_count=1")  # SQLite raises it to what there is: no page more
            return "the disk is full"
        limited("PRAGMA query_only=ON")
        return "the application may not write to its folder"

    def edit(self, **more):
        form = {"path": "c31.name", "text": "Pantry " * 9, "base": 1, "stage": "survey"}
        circuit = self.job.latest.site.circuits[0].id
        form |= {"path": f"{circuit}.name", "once": f"key-{len(more)}", **more}
        return self.client.post(f"/jobs/{self.job.pk}/edit", form, headers={"HX-Request": "true"})

    def test_saving_says_why_and_reading_goes_on(self):
        for way in ("full", "read-only"):
            with self.subTest(way):
                why = self.refuse(way)
                line = f"20A 12/2 NM 85ft {'pantry ' * 9}"
                answer = self.edit(op="paste", path="", text="\n".join([line] * 200))
                self.assertEqual(answer.status_code, 200)
                self.assertContains(answer, f"Not saved: {why}")
                self.assertContains(answer, "pantry pantry")  # what was typed is still there
                self.assertEqual(self.job.revisions.count(), 1)
                for stage in ("survey", "service", "buildings", "prove", "fix", "history"):
                    page = self.client.get(f"/jobs/{self.job.pk}/{stage}")
                    self.assertEqual(page.status_code, 200, stage)
                self.assertEqual(self.client.get("/").status_code, 200)
                limited("PRAGMA query_only=OFF")
                limited("PRAGMA max_page_count=1073741823")
        self.assertEqual(self.edit().status_code, 200)  # the disk has room again
        self.assertEqual(self.job.revisions.count(), 2)

    def test_what_is_no_edit_of_a_job_says_why_on_its_own_page(self):
        self.refuse("read-only")
        for address, form in (
            ("/jobs/new", {"name": "Barn", "preset": "none"}),
            (f"/jobs/{self.job.pk}/undo", {}),
        ):
            answer = self.client.post(address, form, follow=True)
            self.assertNotEqual(answer.status_code, 500, address)
        answer = self.edit(op="whatif", path="lose-s1.neutral", text="")
        self.assertContains(answer, "Not saved: the application may not", status_code=503)

    def test_signing_in_and_reading_go_on_where_nothing_can_be_written(self):
        limited("PRAGMA query_only=ON")
        browser = Client(raise_request_exception=False)
        form = {"username": "wren", "password": "a-long-password"}
        self.assertEqual(browser.post("/sign-in", form).status_code, 302)
        key = browser.cookies["sessionid"].value
        self.assertTrue(key.startswith("full:"))
        self.assertContains(browser.get(f"/jobs/{self.job.pk}/survey"), "Pebblewick")
        self.assertEqual(browser.get("/healthz").json()["ok"], False)
        with mock.patch("justloop.accounts.slow_down.time.sleep"):
            wrong = Client().post("/sign-in", form | {"password": "x"})
        self.assertEqual(wrong.status_code, 200)
        answer = browser.post(f"/jobs/{self.job.pk}/readings/add", {"text": "studio 0.66 by hand"})
        self.assertNotEqual(answer.status_code, 500)
        forged = Client()
        forged.cookies["sessionid"] = key[:-2] + "xx"
        self.assertEqual(forged.get("/").status_code, 302)
        with mock.patch("django.core.signing.time.time", return_value=time.time() + 3700):
            self.assertEqual(browser.get("/").status_code, 302)  # it ends by itself
        limited("PRAGMA query_only=OFF")


class Unreadable(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.client.force_login(self.owner)
        self.job = job_of(self.owner, example("pebblewick"))
        self.good = self.job.latest.document

    def spoil(self, document: str):
        newest = self.job.latest
        Revision.objects.create(
            job=self.job, number=newest.number + 1, words="x", document=document, parent=newest
        )

    def test_the_last_one_that_reads_is_offered_and_the_raw_file(self):
        self.spoil('{"format": 3, "site": {"panels": "gone"')
        for stage in ("survey", "prove", "fix"):
            page = self.client.get(f"/jobs/{self.job.pk}/{stage}")
            self.assertContains(page, "Revision 2", status_code=409)
            self.assertContains(page, "Go on from revision 1", status_code=409)
        kept = self.client.get(f"/jobs/{self.job.pk}/history/2/kept.json")
        self.assertEqual(kept.content.decode(), '{"format": 3, "site": {"panels": "gone"')
        self.assertEqual(self.client.get(f"/jobs/{self.job.pk}/history").status_code, 200)
        self.assertEqual(self.client.get("/").status_code, 200)
        after = self.client.post(f"/jobs/{self.job.pk}/history/1/go-on", follow=True)
        self.assertContains(after, "Went on from revision 1")
        self.assertEqual(self.job.latest.document, self.good)
        self.assertEqual(self.job.revisions.count(), 3)

    def test_nobody_else_reads_it(self):
        self.spoil("{}")
        self.client.force_login(person("tern"))
        for address in ("prove", "history/2/kept.json"):
            self.assertEqual(self.client.get(f"/jobs/{self.job.pk}/{address}").status_code, 404)
        self.assertEqual(self.client.post(f"/jobs/{self.job.pk}/history/1/go-on").status_code, 404)

    def test_too_large_to_study_is_refused_and_the_job_stays_as_it_is(self):
        site = json.loads(self.good)
        body = site.get("site", site)
        root, most = body["panels"][0]["id"], MOST_STUDIED["panels"]
        last = body["last_id"]
        for n in range(most):
            body["panels"].append({"id": f"p{last + 2 * n + 1}", "name": f"Panel {n}"})
            body["feeders"].append(
                {"id": f"f{last + 2 * n + 2}", "source": root, "to": f"p{last + 2 * n + 1}"}
            )
        body["last_id"] = last + 2 * most
        self.spoil(json.dumps(site))
        page = self.client.get(f"/jobs/{self.job.pk}/prove")
        self.assertContains(page, f"{most} are the most", status_code=409)
        self.client.post(f"/jobs/{self.job.pk}/history/1/go-on")
        line = "\n".join(f"panel N{n} 60A" for n in range(most))
        form = {"op": "paste", "text": line, "base": 3, "stage": "survey"}
        answer = self.client.post(f"/jobs/{self.job.pk}/edit", form, headers={"HX-Request": "true"})
        self.assertContains(answer, f"{most} are the most")
        self.assertEqual(self.job.revisions.count(), 3)

    def test_a_page_whose_session_ended_keeps_what_is_typed(self):
        self.client.logout()
        form = {"op": "add", "text": "20A 12/2 NM 85ft den", "base": 1}
        answer = self.client.post(f"/jobs/{self.job.pk}/edit", form, headers={"HX-Request": "true"})
        self.assertContains(answer, "You are signed out", status_code=401)
        self.assertEqual(self.client.post(f"/jobs/{self.job.pk}/edit", form).status_code, 302)


class TooMuch(TestCase):
    def test_a_body_is_measured_before_it_is_read(self):
        browser = Client(raise_request_exception=False)
        browser.force_login(person("wren"))
        for address in ("/jobs/new", "/jobs/open", "/nowhere", "/sign-in"):
            answer = browser.generic(
                "POST", address, b"x=" + b"y" * 2_600_000, "application/x-www-form-urlencoded"
            )
            self.assertContains(answer, "2.6 MB was sent; 2.5 MB is the most", status_code=413)
            self.assertIn("script-src", answer["Content-Security-Policy"])
        odd = browser.post("/jobs/new", {"name": "x"}, CONTENT_LENGTH="²9")
        self.assertEqual(odd.status_code, 413)


class OddFiles(TestCase):
    """Job files that no person made."""

    def setUp(self):
        self.client.force_login(person("wren"))
        self.document = json.loads(job_of(person("tern"), example("pebblewick")).latest.document)

    def bring(self, text: str):
        file = SimpleUploadedFile("odd.json", text.encode())
        return self.client.post("/jobs/open", {"file": file}, follow=True)

    def test_characters_that_nothing_can_hold(self):
        text = json.dumps(self.document)
        for code in ("ud800", "ufffe", "u0000", "u0085", "u202e", "ufeff"):
            odd = text.replace('"name": "Boathouse feeder"', f'"name": "Boat\\{code}house"')
            self.assertNotEqual(odd, text)
            self.assertContains(self.bring(odd), "no control characters")
        accents = text.replace('"name": "Boathouse feeder"', '"name": "Bo\u00e2t \u4e2d \u00a0"')
        self.assertNotContains(self.bring(accents), "control")

    def test_numbers_near_their_end(self):
        self.document["site"]["last_id"] = LAST_ID - 1
        page = self.bring(json.dumps(self.document))
        job = Job.objects.get(pk=page.request["PATH_INFO"].split("/")[2])
        for number, words in ((1, f"c{LAST_ID}"), (2, "no numbers left")):
            form = {"op": "add", "text": "20A 12/2 NM 40ft den", "base": number, "stage": "survey"}
            answer = self.client.post(f"/jobs/{job.pk}/edit", form, headers={"HX-Request": "true"})
            self.assertContains(answer, words)
        self.assertEqual(job.latest.number, 2)
