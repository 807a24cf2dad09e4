"""Sign and hand over: what stands open, the seal, the report's readers, the owner's walk."""

import io
import re
import stat
import tempfile
import zipfile
from functools import partial
from html import unescape
from pathlib import Path
from unittest.mock import patch

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from pypdf import PdfReader

from justloop.jobs import revisions, safekeeping
from justloop.jobs.models import Job
from justloop.log.models import LoggedReading, SlotNote
from justloop.planning.models import JobDate, Remark, TickedStep, Visit, Work
from justloop.signing.firm_key import firm_fingerprint, key_path
from justloop.signing.models import FirmKey, SignOff
from justloop.signing.sealing import bundle_path
from justloop.solved import solve
from returnpath.record import slots_of
from returnpath.rules import pairs
from returnpath.seal import fingerprint, open_bundle, seal, verify_bundle, write_bundle
from returnpath.site import Set, loads

from .people import flat, job_of, printed
from .test_log_work import LogCase, picture

REASON = "The owner moves in on Friday; the rest is done next week."


class SignCase(LogCase):
    def setUp(self):
        super().setUp()
        self.clean = job_of(self.owner, pairs.base(), "Clean House")

    def page_of(self, job):
        return flat(self.client.get(f"/jobs/{job.pk}/sign").content)

    def sign(self, job, **more):
        data = {"base": job.latest.number, "reason": REASON, "licence": "L-77"} | more
        answer = self.client.post(f"/jobs/{job.pk}/sign-off", data)
        return flat(self.client.get(answer["Location"]).content)


class Signing(SignCase):
    def test_what_stands_open_is_said_and_a_danger_needs_its_own_words(self):
        page = self.page_of(self.job)
        self.assertIn("Dangers stand: ", page)
        self.assertIn("Not seen before cover", page)
        page = self.sign(self.job)
        self.assertIn("a danger is signed over only with", page)
        self.assertEqual(SignOff.objects.count(), 0)
        keys = [p.split('"')[0] for p in page.split('name="danger-')[1:]]
        self.assertTrue(keys)
        told = {f"danger-{k}": "owner told by letter of 27 Nov" for k in keys}
        self.assertIn("Signed: revision 1", self.sign(self.job, **told))

    def test_a_reading_off_its_prediction_and_a_danger_set_aside_stand_open_too(self):
        LoggedReading.objects.create(job=self.clean, kind="loop", place="c15", value=1.9, unit="Ω")
        page = self.page_of(self.clean)
        self.assertRegex(page, "Kitchen: .{0,40}1.9 Ω")
        solved = solve(self.job.latest.site)
        danger = next(f for f in solved.findings if f.level == "danger")
        entry = {"stage": "fix", "base": self.job.latest.number, "op": "aside",
                 "path": danger.key, "text": "The inspector asked for it so."}  # fmt: skip
        self.client.post(f"/jobs/{self.job.pk}/edit", entry)
        words = f"Danger set aside: {danger.place_name}"
        self.assertIn(words, self.page_of(self.job))
        page = flat(self.client.get(f"/jobs/{self.job.pk}/report?reader=inspector").content)
        self.assertIn(f"danger: {danger.place_name}", page)
        self.assertNotIn(danger.key, page)

    def test_without_reason_licence_or_the_newest_revision_nothing_is_signed(self):
        for more, words in (({"reason": ""}, "Say why"), ({"licence": " "}, "licence"),
                            ({"base": "99"}, "changed meanwhile")):  # fmt: skip
            self.assertIn(words, self.sign(self.clean, **more))
        self.assertEqual(SignOff.objects.count(), 0)

    def test_the_bundle_is_whole_opens_elsewhere_and_one_byte_is_found(self):
        self.client.post(f"/jobs/{self.clean.pk}/readings/add",
                         {"stage": "readings", "text": "kitchen loop 0.3"})  # fmt: skip
        self.assertIn("Signed", self.sign(self.clean))
        kept = self.clean.signed.get()
        data = b"".join(self.client.get(
            f"/jobs/{self.clean.pk}/bundles/{kept.pk}.zip").streaming_content)  # fmt: skip
        found = verify_bundle(data)
        self.assertTrue(found.is_whole, found.problems)
        _, files = open_bundle(data)
        self.assertEqual(loads(files["job.json"].decode()), self.clean.latest.site)
        for name in ("readings.csv", "plan.json", "calendar.ics", "report.pdf",
                     "drawings/map.svg"):  # fmt: skip
            self.assertTrue(files[name], name)
        self.assertEqual(found.manifest.signed.licence, "L-77")
        answer = self.client.post("/verify", {"file": SimpleUploadedFile("b.zip", data)})
        self.assertContains(answer, "Every byte is as it was signed")
        self.assertContains(answer, "Whole, by a key that is known")
        self.assertContains(answer, "own record agrees. It is the newest signed state")
        broken = bytearray(data)
        at = data.index(b"%PDF") if b"%PDF" in data else len(data) // 2
        broken[at] ^= 1
        answer = self.client.post("/verify", {"file": SimpleUploadedFile("b.zip", bytes(broken))})
        self.assertContains(answer, "damaged")
        self.assertNotContains(answer, "Every byte is")
        self.assertEqual(self.client.post("/verify", {}).status_code, 200)

    def check(self, data, **more):
        file = {"file": SimpleUploadedFile("b.zip", data)} | more
        return flat(self.client.post("/verify", file).content)

    def bundle(self, job) -> bytes:
        kept = job.signed.first()
        answer = self.client.get(f"/jobs/{job.pk}/bundles/{kept.pk}.zip")
        return b"".join(answer.streaming_content)

    def test_an_unknown_key_is_never_whole_alone_and_another_than_asked_is_said(self):
        self.sign(self.clean)
        manifest, files = open_bundle(self.bundle(self.clean))
        stranger = Ed25519PrivateKey.generate()
        forged = write_bundle(seal(manifest, stranger), files)
        page = self.check(forged)
        self.assertIn("Every byte is as it was signed", page)
        self.assertIn("An unknown key", page)
        self.assertNotIn("Whole, by a key that is known", page)
        self.assertIn("another file with the same manifest", page)
        public = stranger.public_key().public_bytes_raw().hex()
        self.assertIn("Whole, by a key", self.check(forged, key=fingerprint(public)))
        mine = self.bundle(self.clean)
        self.assertIn("Another key than the one", self.check(mine, key=fingerprint(public)))
        self.owner.is_staff = True
        self.owner.save()
        self.client.post("/key", {"do": "know", "public": public, "name": "Finch Electric"})
        self.assertIn("A key that is known (Finch Electric)", self.check(forged))

    def test_the_record_agrees_with_that_very_file_alone_and_says_what_is_newer(self):
        self.sign(self.clean)
        first = self.bundle(self.clean)
        edits = [Set(path="c15.length_ft", value=31)]
        revisions.save_edits(self.clean, self.owner, self.clean.latest.number, edits)
        self.sign(self.clean)
        page = self.check(first)
        self.assertIn("own record agrees. It is superseded: revision 2", page)
        self.assertIn("newest signed state", self.check(self.bundle(self.clean)))

    def test_a_key_is_changed_lost_and_shown_to_anybody(self):
        self.sign(self.clean)
        first, old = self.bundle(self.clean), firm_fingerprint()
        self.assertEqual(self.client.post("/key", {"do": "change"}).status_code, 403)
        self.owner.is_staff = True
        self.owner.save()
        self.client.post("/key", {"do": "change"})
        new = firm_fingerprint()
        self.assertNotEqual(new, old)
        self.assertIn("Whole, by a key that is known", self.check(first))  # as of its time
        nobody = flat(Client().get("/key").content)
        self.assertIn(new, nobody)
        self.assertIn(old, nobody)
        _, report = printed(self.client, f"/jobs/{self.clean.pk}/report.pdf?reader=owner")
        self.assertIn(new, report)
        public = FirmKey.objects.get(until__isnull=False).public
        page = self.client.post("/key", {"do": "lost", "key": public, "day": "2031-01-01"})
        self.assertContains(page, "today or before")
        self.client.post("/key", {"do": "lost", "key": public, "day": "2026-11-01"})
        self.assertIn("lost from 2026-11-01", self.check(first))
        self.assertNotIn("Whole, by a key that is known", self.check(first))
        self.client.post("/key", {"do": "lost", "key": FirmKey.objects.get(until=None).public,
                                  "day": "2026-11-30"})  # fmt: skip
        self.assertEqual(FirmKey.objects.filter(is_ours=True).count(), 3)  # the next one signs
        self.assertNotEqual(firm_fingerprint(), new)

    def test_what_came_since_the_page_was_shown_is_named_and_stops_it(self):
        for kind, come in (
            ("reading", lambda: self.client.post(f"/jobs/{self.clean.pk}/readings/add",
                                                 {"text": "kitchen loop 0.3"})),
            ("note of what was seen", lambda: SlotNote.objects.create(
                job=self.clean, slot="bond:p4", seen_by="Wren")),
            ("date", lambda: JobDate.objects.create(job=self.clean, kind="final",
                                                    day="2026-12-09")),
            ("date was changed", lambda: JobDate.objects.update(done=True)),
            ("procedure", lambda: Work.objects.create(job=self.clean, form="pool", subject="p4")),
            ("tick", lambda: TickedStep.objects.create(work=Work.objects.get(), step="labels")),
            ("visit", lambda: Visit.objects.create(job=self.clean, kind="final",
                                                   day="2026-12-09")),
            ("remark", lambda: Remark.objects.create(visit=Visit.objects.get(), text="Clamp")),
        ):  # fmt: skip
            with self.subTest(kind):
                seen = re.search(r'name="seen" value="([^"]*)"', self.page_of(self.clean))[1]
                come()
                page = self.sign(self.clean, seen=unescape(seen))
                self.assertIn("newer than what you looked at", page)
                self.assertIn(kind, page)
        self.assertEqual(SignOff.objects.count(), 0)
        self.assertIn("Entries wait on this phone", self.sign(self.clean, waiting="2"))
        self.assertIn("Signed: revision", self.sign(self.clean, waiting="0"))

    def test_a_bundle_opens_elsewhere_with_its_readings_and_photographs(self):
        entry = {"stage": "readings", "text": "kitchen loop 0.3", "simulated": "1"}
        self.client.post(f"/jobs/{self.clean.pk}/readings/add", entry)
        photo = SimpleUploadedFile("a.jpg", picture(), "image/jpeg")
        entry = {"stage": "readings", "slot": "bond:p4", "photo": photo}
        self.client.post(f"/jobs/{self.clean.pk}/photos/add", entry)
        self.sign(self.clean)
        kept = self.clean.signed.get()
        data = bundle_path(kept.bundle).read_bytes()
        file = SimpleUploadedFile("Clean House.zip", data)
        answer = self.client.post("/jobs/open", {"file": file}, follow=True)
        self.assertContains(answer, "Read in: 1 readings, 1 photographs")
        job = Job.objects.order_by("pk").last()
        self.assertEqual(job.latest.site, self.clean.latest.site)
        self.assertTrue(job.readings.get().simulated)
        self.assertEqual(job.photos.get().slot, "bond:p4")
        for wrong in (b"PK", data[:200]):
            file = SimpleUploadedFile("b.zip", wrong)
            answer = self.client.post("/jobs/open", {"file": file}, follow=True)
            self.assertContains(answer, "no bundle")

    def test_what_was_changed_in_a_bundle_is_said_when_it_opens_and_nothing_breaks(self):
        self.sign(self.clean)
        data = bundle_path(self.clean.signed.get().bundle).read_bytes()
        deep = b"[" * 100_000
        for name, junk in (
            ("plan.json", b'{"photographs": 7}'),
            ("plan.json", b'{"photographs": [3, {"sha256": ["x"]}]}'),
            ("plan.json", deep),
            ("readings.csv", b"\xff\xfe\x00a\nb"),
            ("job.json", deep),
            ("manifest.json", deep),
            (f"photos/{'0' * 64}.jpg", b"no picture"),
        ):
            with self.subTest(name, junk=junk[:30]):
                out = io.BytesIO()
                with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
                    for entry in {*old.namelist(), name}:
                        new.writestr(entry, junk if entry == name else old.read(entry))
                file = SimpleUploadedFile("House.zip", out.getvalue())
                answer = self.client.post("/jobs/open", {"file": file}, follow=True)
                self.assertEqual(answer.status_code, 200)
                page = flat(answer.content)
                if name in ("job.json", "manifest.json"):
                    self.assertRegex(page, "not JSON|cannot be read")
                else:
                    self.assertIn("This bundle is not as it was signed", page)

    def test_a_later_change_is_unsigned_and_shown(self):
        self.sign(self.clean)
        self.assertIn(">Signed</h2>", self.page_of(self.clean))
        circuit = self.clean.latest.site.circuits[0].id
        form = {"base": 1, "op": "set", "path": f"{circuit}.length_ft", "text": "31"}
        self.client.post(f"/jobs/{self.clean.pk}/edit", form)
        page = self.page_of(self.clean)
        self.assertIn("1 change since the last signature", page)
        self.assertIn("What changed since", page)
        self.assertTrue(self.clean.revisions.get(number=1).name.startswith("signed"))

    def test_what_changes_while_the_report_is_made_is_not_signed(self):
        circuit = self.clean.latest.site.circuits[0].id
        length = {"op": "set", "path": f"{circuit}.length_ft", "text": "44"}
        for changed, facts in (
            ("readings/add", {"text": "kitchen loop 0.3", "simulated": "1"}),
            ("edit", length),
        ):
            before = self.clean.latest.number, self.clean.readings.count()
            meanwhile = partial(self.change, changed, facts)
            with self.subTest(changed), patch("justloop.reports.signing._inspectors", meanwhile):
                self.assertIn("The job was changed meanwhile", self.sign(self.clean))
                self.assertNotEqual(before, (self.clean.latest.number, self.clean.readings.count()))
                self.assertFalse(SignOff.objects.exists())

    def test_pressed_twice_is_signed_once(self):
        made = "justloop.reports.signing._inspectors"

        def again(request, job):
            with patch(made, lambda *_: b"%PDF-"):
                self.assertIn("Signed: revision 1", self.sign(job))
            return b"%PDF-"

        with patch(made, again):  # the second press comes while the first one's report is made
            self.assertIn("Revision 1 is signed already", self.sign(self.clean))
        self.assertIn("Revision 1 is signed already", self.sign(self.clean))
        self.assertEqual(SignOff.objects.count(), 1)

    def change(self, where, facts, request, job):
        post = {"stage": "readings", "base": job.latest.number} | facts
        self.client.post(f"/jobs/{job.pk}/{where}", post)
        return b"%PDF-"

    def test_a_missing_reason_is_told_before_the_report_is_made(self):
        with patch("justloop.reports.signing._inspectors") as made:
            self.assertIn("Write the licence", self.sign(self.clean, licence=""))
            made.assert_not_called()

    def test_a_backup_takes_the_bundle_and_the_key_along(self):
        self.sign(self.clean)
        bundle = bundle_path(self.clean.signed.get().bundle)
        kept = bundle.read_bytes(), key_path().read_bytes()
        with tempfile.TemporaryDirectory() as folder:
            copy = Path(folder) / "b.sqlite3"
            self.assertIn("key of the firm", safekeeping.copy_beside(copy))
            key = next(safekeeping.beside(copy, "keys").iterdir())
            self.assertEqual(stat.S_IMODE(key.stat().st_mode), 0o600)
            bundle.unlink()
            key_path().unlink()
            safekeeping.copy_back(copy)
        self.assertEqual((bundle.read_bytes(), key_path().read_bytes()), kept)

    def test_the_key_is_private_and_the_server_s_own(self):
        self.sign(self.clean)
        self.assertEqual(stat.S_IMODE(key_path().stat().st_mode), 0o600)
        private = key_path().read_text()
        kept = self.clean.signed.get()
        self.assertNotIn(private, kept.manifest)
        self.assertNotIn(private.encode(), bundle_path(kept.bundle).read_bytes())


class Reports(SignCase):
    def text(self, job, **query):
        answer, _ = printed(self.client, f"/jobs/{job.pk}/report.pdf?" + "&".join(
            f"{k}={v}" for k, v in query.items()))  # fmt: skip
        pages = PdfReader(io.BytesIO(answer.content)).pages
        return [" ".join(p.extract_text().split()) for p in pages]

    def test_the_inspectors_has_every_part_its_sections_and_workings(self):
        text = " ".join(self.text(self.job, reader="inspector"))
        for words in ("The place", "What was found and mended", "Every circuit", "Sizes",
                      "Electrodes and other metal", "Assumptions that still stand", "Cautions",
                      "Annex: workings", "1 of ", "not signed", "250.24"):  # fmt: skip
            self.assertIn(words, text)
        for never in ("compliant", " safe "):
            self.assertNotIn(never, text.lower())

    def test_parts_are_left_out_and_paper_is_chosen(self):
        pages = self.text(self.job, reader="inspector", skip="annex", size="A4")
        self.assertNotIn("Annex: workings", " ".join(pages))

    def test_the_owners_is_two_pages_without_jargon(self):
        pages = self.text(self.job, reader="owner")
        self.assertLessEqual(len(pages), 2)
        text = " ".join(pages)
        for words in ("What could have happened", "What still needs doing", "What to watch"):
            self.assertIn(words, text)
        for jargon in ("EGC", "GEC", "Ω", "impedance", "instantaneous", "bonding"):
            self.assertNotIn(jargon, text)

    def test_the_next_electrician_gets_the_doors_and_what_is_hidden(self):
        SlotNote.objects.create(job=self.job, slot="rod:e11", seen_by="Wren, under the gravel")
        text = " ".join(self.text(self.job, reader="next"))
        for words in ("directories", "Kitchen counter", "Wren, under the gravel"):
            self.assertIn(words, text)

    def test_the_same_parts_on_screen(self):
        page = flat(
            self.client.get(f"/jobs/{self.job.pk}/report?reader=inspector&skip=annex").content
        )
        self.assertIn("Every circuit", page)
        self.assertNotIn("Annex: workings</h2>", page)
        self.assertIn("report.pdf?reader=inspector&amp;size=letter&amp;skip=annex", page)

    def test_the_owners_walk_has_no_figures_but_what_does_not_trip(self):
        page = flat(self.client.get(f"/jobs/{self.job.pk}/owner").content)
        self.assertIn("how power comes to your house", page)
        self.assertIn("A hand here could have been hurt", page)
        self.assertIn("A page to leave behind", page)
        self.assertIn("not mended yet", page)
        self.assertNotIn("It is mended.", page)
        danger = next(f for f in solve(self.job.latest.site).findings if f.level == "danger")
        entry = {"stage": "fix", "base": self.job.latest.number, "op": "aside",
                 "path": danger.key, "text": "The inspector asked for it so."}  # fmt: skip
        self.client.post(f"/jobs/{self.job.pk}/edit", entry)
        page = flat(self.client.get(f"/jobs/{self.job.pk}/owner").content)
        self.assertNotIn("It is mended.", page)
        clean = flat(self.client.get(f"/jobs/{self.clean.pk}/owner").content)
        self.assertIn("Nothing is left to mend", clean)

    def test_what_was_mended_is_told_from_the_first_revision(self):
        form = {"base": 1, "op": "set", "path": "p6.bond", "text": "out"}
        self.client.post(f"{self.at}/edit", form)
        page = flat(self.client.get(f"{self.at}/report?reader=inspector").content)
        self.assertIn("<h3>Mended</h3>", page)
        self.assertIn("Loft studio", page.split("<h3>Mended</h3>")[1].split("<h3>Stands")[0])
        self.assertIn("It is mended", flat(self.client.get(f"{self.at}/owner").content))
        self.assertTrue(slots_of(self.job.latest.site))
