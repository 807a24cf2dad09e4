"""The Log's work: the meter, instruments, evidence before cover, files, what waited on a phone."""

import io
import json
import tempfile
import threading
import uuid
from datetime import timedelta
from pathlib import Path

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase, override_settings
from django.utils import timezone
from PIL import Image
from pypdf import PdfReader

from justloop.jobs import safekeeping
from justloop.log.models import Instrument, LoggedReading, Photo
from justloop.log.photos import path_of
from justloop.planning.lacks import newest_of
from justloop.standin.meter import demo_meter
from justloop.workspace.log_why import with_repeats
from tests.core.test_findings import example

from .people import flat, job_of, person, printed


def picture(size=(120, 80), kind="JPEG", exif=None, colour="peru") -> bytes:
    out = io.BytesIO()
    more = {"exif": exif} if exif else {}
    Image.new("RGB", size, colour).save(out, kind, **more)
    return out.getvalue()


class LogCase(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.client.force_login(self.owner)
        self.job = job_of(self.owner, example("pebblewick"), "Pebblewick Cottage")
        self.at = f"/jobs/{self.job.pk}"

    def send(self, path, data=None, **headers):
        data = {"stage": "readings"} | (data or {})
        return self.client.post(f"{self.at}/{path}", data, **headers)

    def page(self, **query):
        return flat(self.client.get(f"{self.at}/readings", query).content)

    def told(self, path, data=None):
        return flat(self.client.get(self.send(path, data)["Location"]).content)


class FromTheMeter(LogCase):
    def meter(self, mood=""):
        meter = demo_meter(0, mood)
        threading.Thread(target=meter.serve_forever, daemon=True).start()
        self.addCleanup(meter.server_close)
        self.addCleanup(meter.shutdown)
        return override_settings(METER=f"127.0.0.1:{meter.server_address[1]}")

    def ask(self, **more):
        return self.told("readings/add", {"ask": "Kitchen counter loop", "do": "meter"} | more)

    def test_the_first_reading_of_the_walk_finds_something_and_is_simulated_for_ever(self):
        with self.meter():
            page = self.ask()
        kept = LoggedReading.objects.get()
        self.assertEqual((kept.kind, kept.place, kept.simulated), ("loop", "c17", True))
        self.assertIn("1 off their", page)
        self.assertIn("Simulated</span> by the stand-in meter, for ever", page)
        self.send("readings/add", {"text": "kitchen counter r2 0.7", "simulated": "1"})
        text = self.client.get(f"{self.at}/readings.csv").content.decode()
        other = job_of(self.owner, example("pebblewick"), "Other")
        file = SimpleUploadedFile("r.csv", text.encode())
        self.client.post(f"/jobs/{other.pk}/readings/file", {"file": file})
        self.assertEqual(set(other.readings.values_list("simulated", flat=True)), {True})
        self.assertEqual(other.readings.count(), 2)

    @override_settings(DEMO=False)
    def test_what_a_stand_in_read_becomes_no_fact(self):
        with self.meter():
            self.ask(ask="Kitchen counter r2")
        kept = LoggedReading.objects.get()
        self.assertIn("proves nothing", self.told(f"readings/{kept.pk}/use"))
        self.assertIsNone(self.job.latest.site.circuit("c17").return_ohm)

    def test_a_meter_that_is_off_silent_or_talks_nonsense_is_said_and_nothing_is_kept(self):
        with override_settings(METER="127.0.0.1:1"):
            page = self.ask()
        self.assertIn("No meter is switched on", page)
        self.assertIn('value="Kitchen counter loop"', page)  # nothing is lost
        for mood, words in (("silent", "hung up"), ("nonsense", "is no such reading")):
            with self.subTest(mood), self.meter(mood):
                self.assertIn(words, self.ask())
        with self.meter():
            self.assertIn("cannot be read there", self.ask(ask="torque main"))
            self.assertIn("Say what the meter is to read", self.ask(ask="", text="0.3"))
        self.assertEqual(LoggedReading.objects.count(), 0)

    def test_a_stand_in_of_another_place_is_refused(self):
        self.job.name = "Millrace"
        self.job.save()
        with self.meter():
            self.assertIn("stands at Pebblewick Cottage, not here", self.ask())
        self.assertEqual(LoggedReading.objects.count(), 0)


class Instruments(LogCase):
    ENTRY = {"do": "enter", "name": "loop meter 2", "kind": "loop", "error_pct": "1",
             "error_abs": "0.005", "no_trip_pct": "5", "no_trip_abs": "0.2",
             "calibrated_until": "2020-01-31"}  # fmt: skip

    def test_its_error_judges_what_it_reads_and_is_kept_as_it_was(self):
        self.send("instruments", self.ENTRY)
        tool = Instrument.objects.get()
        for text in ("studio outlets loop 0.27", "studio lights loop 0.32 no-trip"):
            self.send("readings/add", {"text": text, "tool": tool.pk, "celsius": "21"})
        lights, outlets = LoggedReading.objects.all()
        self.assertEqual(outlets.error, (0.01, 0.005))
        self.assertEqual(lights.error, (0.05, 0.2))
        self.assertTrue(outlets.overdue)
        self.send("instruments", self.ENTRY | {"error_abs": "3"})
        page = self.page(open=f"reading-{outlets.pk}")
        for words in ("Over 0.207–0.248 Ω", "loop meter 2", "±(1 % + 0.005 Ω)", "21.0 °C",
                      "Its calibration was due before this reading"):  # fmt: skip
            self.assertIn(words, page)
        self.assertIn("As predicted", self.page(open=f"reading-{lights.pk}"))

    def test_what_is_wrong_is_said_and_one_is_put_away(self):
        for change, words in (
            ({"name": " "}, "Give the instrument a name"), ({"kind": "sword"}, "Choose what kind"),
            ({"error_pct": "lots"}, "“lots” is no number"),
            ({"error_abs": "-1"}, "Error, absolute"),
            ({"calibrated_until": "soon"}, "is no date"),
            ({"calibrated_until": "2027-02-31"}, "is no date"),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertIn(words, self.told("instruments", self.ENTRY | change))
        self.assertEqual(Instrument.objects.count(), 0)
        self.assertIn("calibration was due 31 Jan 2020", self.told("instruments", self.ENTRY))
        number = Instrument.objects.get().pk
        self.assertIn("None yet", self.told("instruments", {"do": "away", "n": number}))
        self.send("readings/add", {"text": "dryer loop 0.2", "tool": "999999"})
        self.send("readings/add", {"text": "dryer loop 0.2", "celsius": "warm"})
        self.assertEqual(LoggedReading.objects.count(), 0)


class Evidence(LogCase):
    def add(self, data, name="a.jpg", slot="rod:e11", **more):
        file = SimpleUploadedFile(name, data, "image/jpeg")
        return self.told("photos/add", {"slot": slot, "photo": file, "show": "cover"} | more)

    def test_a_photo_is_kept_upright_small_and_without_where_it_was_taken(self):
        exif = Image.Exif()
        exif[0x0112] = 6  # a phone held upright
        exif.get_ifd(0x8769)[36867] = "2026:03:04 05:06:07"
        exif.get_ifd(0x8825)[1] = "N"
        exif[0x010F] = "SECRET MAKER"
        page = self.add(picture((120, 80), exif=exif))
        self.assertIn("1 photo", page)
        photo = Photo.objects.get()
        self.assertEqual((photo.width, photo.height), (80, 120))
        self.assertEqual(f"{photo.taken:%Y-%m-%d %H:%M}", "2026-03-04 05:06")
        answer = self.client.get(f"{self.at}/photos/{photo.pk}.jpg")
        data = b"".join(answer.streaming_content)
        self.assertEqual(answer["Content-Type"], "image/jpeg")
        self.assertEqual(answer["Cache-Control"], "no-store, private")
        kept = Image.open(io.BytesIO(data))
        self.assertFalse(dict(kept.getexif()))
        self.assertNotIn(b"SECRET", data)
        small = self.client.get(f"{self.at}/photos/{photo.pk}/small.jpg")
        self.assertTrue(b"".join(small.streaming_content))

    def test_hostile_files_are_refused_with_a_sentence(self):
        bomb = picture((9001, 10), "PNG")
        huge = picture((9000, 6000), "PNG")
        for name, data, words in (
            ("not a picture", b"<svg onload=alert(1)>", "no photo we can read"),
            ("a page", b"GIF89a" + b"0" * 400, "no photo we can read"),
            ("cut short", picture((400, 300))[:900], "damaged"),
            ("too wide", bomb, "9,000 on a side"), ("too many", huge, "million pixels"),
            ("empty", b"", "Choose a photo"),
            ("too heavy", b"\xff\xd8" + b"0" * 12_000_001, "at most 12 MB"),
        ):  # fmt: skip
            with self.subTest(name):
                page = self.add(data)
                self.assertIn(words, page if name != "empty" else page + "Choose a photo")
        self.assertIn("no longer in the job", self.add(picture(), slot="rod:e99"))
        self.assertIn("Say what the photo shows", self.add(picture(), slot=""))
        self.assertEqual(Photo.objects.count(), 0)

    def test_a_mark_is_drawn_over_it_and_the_picture_stays(self):
        self.add(picture())
        photo = Photo.objects.get()
        before = path_of(photo.sha256).read_bytes()
        address = f"{self.at}/photos/{photo.pk}"
        self.client.post(address, {"x": "0.5", "y": "0.25", "r": "0.1", "text": "clamp <b>"})
        page = flat(self.client.get(address).content)
        self.assertIn('<circle class="photo-mark" cx="60.0" cy="20.0" r="12.0"', page)
        self.assertIn("Marked: clamp &lt;b&gt;", page)
        self.assertEqual(path_of(photo.sha256).read_bytes(), before)
        for wrong in ({"x": "2", "y": "0"}, {"x": "nan", "y": "0"}, {"y": "0"}, {"x": "", "y": ""}):
            self.client.post(address, wrong)
        photo.refresh_from_db()
        self.assertEqual(photo.mark_x, 0.5)
        self.client.post(address, {"do": "drop"})
        self.assertEqual(Photo.objects.count(), 0)

    def test_only_who_took_it_takes_it_back_and_strangers_see_nothing(self):
        self.add(picture())
        photo = Photo.objects.get()
        mate, stranger = person("robin"), person("stranger")
        self.job.crew.add(mate)
        self.client.force_login(mate)
        self.client.post(f"{self.at}/photos/{photo.pk}", {"do": "drop"})
        self.assertEqual(Photo.objects.count(), 1)
        other = job_of(stranger)
        self.client.force_login(stranger)
        for path in (f"{self.at}/photos/{photo.pk}.jpg", f"/jobs/{other.pk}/photos/{photo.pk}.jpg"):
            self.assertEqual(self.client.get(path).status_code, 404)

    def test_seen_by_or_why_not_and_not_both(self):
        for data in ({"seen_by": "", "because": ""}, {"seen_by": "Wren", "because": "dark"}):
            self.assertIn("one of the two", self.told("slots/note", {"slot": "rod:e11"} | data))
        self.send("slots/note", {"slot": "rod:e11", "seen_by": "Wren"})
        self.send("slots/note", {"slot": "rod:e12", "because": "under the slab"})
        page = self.page(show="cover")
        self.assertIn("Seen by Wren.", page)
        self.assertIn("Not seen: under the slab.", page)

    def test_backup_and_restore_take_photographs_along(self):
        self.add(picture(colour="teal"))
        sha = Photo.objects.get().sha256
        with tempfile.TemporaryDirectory() as folder:
            copy = Path(folder) / "b.sqlite3"
            self.assertIn("photo files in b.sqlite3.photos", safekeeping.copy_beside(copy))
            data = path_of(sha).read_bytes()
            path_of(sha).unlink()
            safekeeping.copy_back(copy)
            self.assertEqual(path_of(sha).read_bytes(), data)


class ManyReadings(LogCase):
    def test_what_is_no_longer_listed_still_counts_as_read(self):
        circuits = [c.id for c in self.job.latest.site.circuits]
        first = timezone.now() - timedelta(days=1)
        for n, place in enumerate(circuits):
            LoggedReading.objects.create(job=self.job, kind="loop", place=place, value=0.3,
                                         unit="Ω", at=first + timedelta(seconds=n))  # fmt: skip
        for _ in range(65):
            LoggedReading.objects.create(job=self.job, kind="ng", place="c26", value=1, unit="V")
        page = self.page()
        self.assertNotIn("No loop reading", page)
        self.assertNotIn("No loop reading", flat(self.client.get(f"{self.at}/sign").content))
        page = flat(self.client.get(f"{self.at}/report?reader=inspector&skip=annex").content)
        self.assertEqual(page.count("0.3 Ω"), 2 * len(circuits))  # its circuit's line, its own row


class OnPaper(LogCase):
    def test_the_record_has_its_readings_photographs_and_marks(self):
        self.send("readings/add", {"text": "studio outlets loop 0.66", "simulated": "1"})
        file = SimpleUploadedFile("a.jpg", picture(), "image/jpeg")
        self.send("photos/add", {"slot": "rod:e11", "photo": file})
        photo = Photo.objects.get()
        self.client.post(
            f"{self.at}/photos/{photo.pk}", {"x": ".5", "y": ".5", "text": "the clamp"}
        )
        answer, page = printed(self.client, f"{self.at}/record.pdf")
        self.assertEqual(answer.content[:5], b"%PDF-")
        text = "".join(p.extract_text() for p in PdfReader(io.BytesIO(answer.content)).pages)
        for words in ("Record of Pebblewick Cottage", "0.66 Ω", "simulated", "Marked: the clamp",
                      "What the record lacks"):  # fmt: skip
            self.assertIn(words, " ".join(text.split()))
        self.assertIn('<circle cx="60.0" cy="40.0"', page)


class Waited(LogCase):
    """What a phone sends when the signal is back."""

    QUEUED = {"HTTP_X_QUEUED": "1"}

    def test_sent_twice_it_is_kept_once_and_with_its_own_time(self):
        then = timezone.now() - timedelta(hours=3)
        entry = {"text": "dryer loop 0.19\nwater heater loop 0.13", "client_id": str(uuid.uuid4()),
                 "at_time": then.isoformat()}  # fmt: skip
        for _ in range(2):
            answer = self.send("readings/add", entry, **self.QUEUED)
            self.assertEqual(answer.status_code, 200)
            self.assertIn("Dryer: loop 0.19 Ω", answer.json()["words"])
        self.assertEqual(LoggedReading.objects.count(), 2)
        self.assertEqual({r.at for r in LoggedReading.objects.all()}, {then})
        for odd in ("2999-01-01T00:00:00Z", "1999-01-01T00:00:00Z", "yesterday", "2026-13-45T"):
            self.send("readings/add", {"text": "dryer loop 0.2", "at_time": odd}, **self.QUEUED)
        self.assertEqual(LoggedReading.objects.filter(at__year=timezone.now().year).count(), 6)

    def test_what_is_not_understood_is_a_conflict_and_stays_on_the_phone(self):
        answer = self.send("readings/add", {"text": "sauna loop 0.2"}, **self.QUEUED)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("sauna", answer.json()["problem"])
        answer = self.send("photos/add", {"slot": "rod:e11"}, **self.QUEUED)
        self.assertEqual(answer.status_code, 422)
        answer = self.send("slots/note", {"slot": "rod:e11"}, **self.QUEUED)
        self.assertEqual(answer.status_code, 422)

    def test_photos_and_notes_too(self):
        id = str(uuid.uuid4())
        for _ in range(2):
            file = SimpleUploadedFile("a.jpg", picture(), "image/jpeg")
            entry = {"slot": "rod:e11", "photo": file, "client_id": id}
            self.assertEqual(self.send("photos/add", entry, **self.QUEUED).status_code, 200)
            note = {"slot": "rod:e12", "seen_by": "Wren", "client_id": id}
            self.assertEqual(self.send("slots/note", note, **self.QUEUED).status_code, 200)
        self.assertEqual((Photo.objects.count(), self.job.slot_notes.count()), (1, 1))

    def test_who_is_there_is_asked_first(self):
        answer = self.client.get("/field/ready").json()
        self.assertEqual(answer["person"], "wren")
        self.assertTrue(answer["token"])
        self.client.logout()
        self.assertEqual(self.client.get("/field/ready").status_code, 302)
        worker = self.client.get("/sw.js")
        self.assertEqual(worker["Content-Type"], "text/javascript; charset=utf-8")
        self.assertIn("default-src 'none'", worker["Content-Security-Policy"])


class FilesAndTries(LogCase):
    def test_a_file_is_read_whole_or_not_at_all_and_once(self):
        def read(text):
            file = SimpleUploadedFile("r.csv", text.encode())
            return self.told("readings/file", {"file": file})

        self.assertIn("Row 2", read("kind,place,value\nloop,dryer,0.2\nloop,sauna,1"))
        self.assertEqual(LoggedReading.objects.count(), 0)
        self.assertIn("2 readings read in", read("kind,place,value\nloop,dryer,0.2\nr2,c17,0.2"))
        text = self.client.get(f"{self.at}/readings.json").content.decode()
        self.assertEqual(json.loads(text)["format"], 1)
        self.assertIn("0 readings read in; 2 were here already", read(text))
        self.assertIn("Choose a file", self.told("readings/file"))

    def test_what_would_explain_it_can_be_tried_and_thrown_away(self):
        self.send("readings/add", {"text": "studio outlets loop 0.66"})
        page = self.page(show="why")
        self.assertIn('name="op" value="suppose"', page)
        self.assertIn("c26:egc", page)
        form = {"op": "suppose", "path": "c26:egc", "text": "0.44", "try": "1", "base": "1"}
        shown = flat(self.client.get(self.send("edit", form)["Location"]).content)
        self.assertIn("On trial", shown)
        self.assertEqual(self.job.revisions.count(), 1)
        for path, text in (("c99:egc", "1"), ("c26:egc", "x"), ("none", "0"), ("c26:egc", "1 2")):
            self.send("discard")
            page = flat(self.send("edit", form | {"path": path, "text": text}).content)
            self.assertNotIn("On trial", page)

    def test_what_was_read_twice_counts_twice_and_what_was_mended_not(self):
        for text in ("loop 5", "loop 0.66", "loop 0.68", "r1+r2 0.6"):
            self.send("readings/add", {"text": f"studio outlets {text}"})
        kept = list(self.job.readings.all())
        newest = newest_of(example("pebblewick"), kept)
        self.assertEqual(sorted(r.value for r in newest), [0.6, 0.68])
        self.assertEqual([r.value for r in with_repeats(newest, kept)], [0.66, 0.68, 0.6])
        self.assertIn("What would explain 3 readings", self.page(show="why"))

    def test_a_line_is_read_back_while_it_is_typed(self):
        def back(**query):
            return flat(self.client.get(f"{self.at}/readings/back", query).content)

        self.assertIn("delayed trip", back(text="studio outlets loop 0.66"))
        self.assertIn("as predicted", back(ask="Hall bath loop", number="0.3"))
        self.assertEqual(back(ask="Hall bath loop", number="").strip(), "")
        self.assertEqual(back(text="hall bath loop ").strip(), "")
        self.assertIn("was not understood", back(text="sauna loop 0.2"))

    def test_the_test_sheet_leads_to_the_number_and_shows_what_was_read(self):
        self.send("readings/add", {"text": "dryer loop 0.19"})
        page = flat(self.client.get(f"{self.at}/test-sheet").content)
        self.assertIn("readings?at=c17#number", page)
        self.assertIn("0.19 Ω", page)

    def test_the_record_says_what_it_lacks(self):
        page = self.page()
        for words in ("What the record lacks", "No loop reading at Kitchen counter",
                      "Nothing of it is kept", "No torque of its main terminals"):  # fmt: skip
            self.assertIn(words, page)
