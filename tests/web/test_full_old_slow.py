"""When something is full, old or slow: a disk without room, an older program, a server that runs,
an office and a meter that answer anything."""

import io
import os
import random
import shutil
import socket
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path
from unittest import mock

from django.core.management import call_command
from django.db import OperationalError, connection
from django.test import SimpleTestCase, TestCase, TransactionTestCase, override_settings

from justloop import outside, room, running
from justloop.jobs import safekeeping
from justloop.jobs.models import Job
from justloop.log.meter import read_meter
from justloop.planning.models import JobDate, LookedAt, OwnForm
from justloop.planning.office import ask
from justloop.reports import printing
from justloop.trouble import beside_looking
from returnpath.errors import BadInput
from tests.core.test_findings import example

from .people import job_of, person
from .test_log_work import LogCase


class Reserve(TestCase):
    def setUp(self):
        folder = tempfile.mkdtemp()
        self.addCleanup(shutil.rmtree, folder)
        self.enterContext(override_settings(DATA=Path(folder)))
        self.reserve = Path(folder) / "reserve"

    def full(self, free):
        with mock.patch.object(room, "free", return_value=free):
            return room.is_full()

    def test_it_is_laid_given_up_and_laid_back(self):
        self.assertFalse(self.full(10**9))
        self.assertEqual(self.reserve.stat().st_size, room.RESERVE)
        self.assertFalse(self.full(room.LEAST))
        self.assertTrue(self.full(room.LEAST - 1))
        self.assertFalse(self.reserve.exists())
        self.assertTrue(self.full(room.RESERVE))  # what was given up is no room for work
        self.assertFalse(self.full(room.RESERVE + 2 * room.LEAST))
        self.assertTrue(self.reserve.exists())

    def test_work_is_refused_with_its_text_and_nothing_else(self):
        owner = person("wren")
        job = job_of(owner, example("pebblewick"))
        self.client.force_login(owner)
        with mock.patch.object(room, "free", return_value=0):
            form = {"op": "set", "path": "c17.name", "text": "Galley 77", "base": "1",
                    "stage": "survey"}  # fmt: skip
            answer = self.client.post(f"/jobs/{job.pk}/edit", form, headers={"HX-Request": "true"})
            self.assertContains(answer, "the disk is full")
            self.assertContains(answer, "Galley 77")
            answer = self.client.post(f"/jobs/{job.pk}/readings/add",
                                      {"text": "dishwasher loop 0.66", "number": ""})  # fmt: skip
            self.assertContains(answer, "the disk is full", status_code=503)
            self.assertContains(answer, "dishwasher loop 0.66", status_code=503)
            for path in ("/", f"/jobs/{job.pk}/survey", f"/jobs/{job.pk}/plan", "/learn"):
                self.assertEqual(self.client.get(path).status_code, 200, path)
            sign_in = {"username": "wren", "password": "a-long-password"}
            self.client.logout()
            self.assertEqual(self.client.post("/sign-in", sign_in).status_code, 302)
            with self.assertRaises(OSError):
                room.refuse_if_full()
        self.assertEqual(job.revisions.count(), 1)
        self.assertFalse(job.readings.exists())

    def test_the_page_that_says_it_asks_the_database_nothing(self):
        from django.test import RequestFactory

        from justloop.trouble import answer

        request = RequestFactory().post("/x", {"text": "typed in vain", "password": "secret"})

        class Nobody:
            def __getattr__(self, name):
                raise OperationalError("database or disk is full")

        request.user = Nobody()
        said = answer(request, "Not saved: the disk is full.", 503)
        self.assertContains(said, "the disk is full", status_code=503)
        self.assertContains(said, "typed in vain", status_code=503)
        self.assertNotContains(said, "secret", status_code=503)


class AfterAnUpgrade(TestCase):
    def setUp(self):
        folder = tempfile.mkdtemp()
        self.addCleanup(shutil.rmtree, folder)
        self.enterContext(override_settings(DATA=Path(folder)))
        self.job = job_of(person("wren"), example("pebblewick"))
        self.rank = Job.objects.get().rank

    def test_the_list_is_judged_by_this_engine(self):
        self.job.revisions.update(summary={"level": "", "worst": "as it was said before"})
        Job.objects.update(rank=4)
        said = io.StringIO()
        call_command("migrate", stdout=said, verbosity=1)
        self.assertIn("judged 1 of 1 jobs", said.getvalue() + self._again())
        self.assertEqual(Job.objects.get().rank, self.rank)
        self.assertEqual(safekeeping.problem_of(self.job), "")
        self.assertFalse(safekeeping.is_judged_by_another())

    def _again(self) -> str:
        said = io.StringIO()
        call_command("rejudge", stdout=said)
        call_command("rejudge", if_needed=True, stdout=said)
        return said.getvalue()

    def test_an_older_program_refuses_a_newer_database(self):
        self.assertEqual(running.too_old(), "")
        with connection.cursor() as cursor:
            cursor.execute("INSERT INTO django_migrations (app, name, applied) VALUES"
                           " ('jobs', '0999_of_next_year', CURRENT_TIMESTAMP)")  # fmt: skip
        self.assertIn("newer Just Loop (jobs.0999_of_next_year)", running.too_old())
        with self.assertRaises(SystemExit) as caught:
            running.hold()
        self.assertIn("Not started", str(caught.exception))

    def test_nothing_is_restored_while_the_server_runs(self):
        self.assertFalse(running.is_running())
        file = Path(running._lock_file())
        code = ("import fcntl,sys,time; f=open(sys.argv[1],'ab'); fcntl.flock(f, fcntl.LOCK_SH);"
                "print('up', flush=True); time.sleep(60)")  # fmt: skip
        server = subprocess.Popen([sys.executable, "-c", code, str(file)], stdout=subprocess.PIPE)
        try:
            server.stdout.readline()
            self.assertTrue(running.is_running())
            backup = file.with_name("b.sqlite3")
            backup.write_bytes(b"x")
            with self.assertRaisesRegex(safekeeping.Unkept, "The server runs"):
                safekeeping.restore(backup)
        finally:
            server.kill()
            server.communicate()
        self.assertFalse(running.is_running())


class Locked(TransactionTestCase):
    def test_looking_waits_for_nobody_who_writes(self):
        owner = person("wren")
        job = job_of(owner, example("pebblewick"))
        self.client.force_login(owner)
        self.client.post(f"/jobs/{job.pk}/work/begin", {"form": "bond-cure", "subject": "p6"})
        work = job.works.get()
        self.client.get(f"/jobs/{job.pk}/work/{work.pk}")
        LookedAt.objects.all().delete()
        held, done = threading.Event(), threading.Event()

        def hold():
            import sqlite3

            other = sqlite3.connect(connection.settings_dict["NAME"], timeout=20)
            other.execute("BEGIN IMMEDIATE")
            held.set()
            done.wait(20)
            other.rollback()
            other.close()

        thread = threading.Thread(target=hold)
        thread.start()
        held.wait(20)
        try:
            begun = time.monotonic()
            answer = self.client.get(f"/jobs/{job.pk}/work/{work.pk}")
            self.assertEqual(answer.status_code, 200)
            self.assertLess(time.monotonic() - begun, 5)  # not the ten seconds of a write
        finally:
            done.set()
            thread.join()
        self.assertFalse(LookedAt.objects.exists())
        beside_looking(lambda: LookedAt.objects.create(work=work, who=owner))
        self.assertTrue(LookedAt.objects.exists())


class Printing(SimpleTestCase):
    def test_no_child_prints_on_where_the_server_was_killed(self):
        code = ("import os,sys; sys.path.insert(0,'src')\n"
                "from justloop.reports import printing\n"
                "if __name__ == '__main__':\n"
                "    printing.pdf('<p>x</p>', 'file:///tmp')\n"
                "    print(*printing._pool._processes, flush=True)\n"
                "    import time; time.sleep(60)\n")  # fmt: skip
        with tempfile.TemporaryDirectory() as folder:
            script = Path(folder) / "prints.py"
            script.write_text(code)
            root = Path(printing.__file__).parents[3]
            server = subprocess.Popen(
                [sys.executable, str(script)], stdout=subprocess.PIPE, cwd=root
            )
            child = int(server.stdout.readline().split()[0])
            server.kill()
            server.communicate()
            for _ in range(100):
                if not _lives(child):
                    return
                time.sleep(0.1)
        os.kill(child, 9)
        self.fail("it prints on")


def _lives(pid: int) -> bool:
    try:
        return "Z" not in Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0]
    except OSError:
        return False


class Anything:
    """A server that answers with given bytes, then hangs up; or drips them one by one."""

    def __init__(self, said: bytes, drip_s: float = 0.0, hang: bool = False):
        self.said, self.drip_s, self.hang = said, drip_s, hang
        self.line = socket.create_server(("127.0.0.1", 0))
        self.port = self.line.getsockname()[1]
        self.asked = 0
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self):
        while True:
            try:
                one, _ = self.line.accept()
            except OSError:
                return
            self.asked += 1
            threading.Thread(target=self._answer, args=(one,), daemon=True).start()

    def _answer(self, one):
        try:
            one.settimeout(5)
            one.recv(4096)
            if self.drip_s:
                for byte in self.said:
                    one.sendall(bytes([byte]))
                    time.sleep(self.drip_s)
            else:
                one.sendall(self.said)
            if self.hang:
                time.sleep(20)
        except OSError:
            pass
        finally:
            one.close()

    def close(self):
        self.line.close()


def http(body: bytes, head: bytes = b"HTTP/1.1 200 OK\r\n") -> bytes:
    return head + b"Content-Length: %d\r\n\r\n" % len(body) + body


class OutsideAnswers(TestCase):
    def office(self, said, **how):
        server = Anything(said, **how)
        self.addCleanup(server.close)
        return server, override_settings(OFFICE=f"http://127.0.0.1:{server.port}")

    def test_any_bytes_of_an_office_give_a_sentence(self):
        chance = random.Random(5)
        odd = [
            b"",
            b"\x00" * 500,
            b"HTTP/1.1 200 OK\r\n\r\n",
            b"HTTP/1.1 abc\r\n\r\n{}",
            b"HTTP/1.1 200 OK\r\nContent-Length: -4\r\n\r\n{}",
            http(b"[" * 5000),
            http(b"null"),
            http(b'{"says": ["x"]}'),
            http(b'{"number": {"a": 1}}'),
            http(b'{"says": 1e999}'),
            http(b'{"says": "\\ud800"}'),
            http(b'{"day": "9999999999"}'),
            http(b"\xff\xfe"),
            http(b'{"remarks": [null, 3, {"text": ["a"]}]}', b"HTTP/1.1 500 x\r\n"),
            b"HTTP/1.1 200 OK\r\nTransfer-Encoding: chunked\r\n\r\nzz\r\n{}",
            b"A" * 200_000,
        ]
        odd += [http(bytes(chance.randrange(256) for _ in range(60))) for _ in range(20)]
        odd += [bytes(chance.randrange(256) for _ in range(60)) for _ in range(20)]
        owner = person("wren")
        job = job_of(owner, example("pebblewick"))
        JobDate.objects.create(job=job, kind="permit", day="2026-11-02", done=True, note="P-7")
        self.client.force_login(owner)
        visit = job.visits.create(kind="final", day="2026-11-20")
        for said in odd:
            server, there = self.office(said)
            with there:
                for form in ({"do": "apply"}, {"do": "outage"},
                             {"do": "result", "visit": str(visit.pk)}):  # fmt: skip
                    answer = self.client.post(f"/jobs/{job.pk}/office", form)
                    self.assertEqual(answer.status_code, 302, (said[:60], form))
                    self.assertEqual(self.client.get(answer["Location"]).status_code, 200)
            server.close()

    def test_a_redirect_is_not_followed(self):
        other, _ = self.office(http(b'{"number": "from elsewhere"}'))
        to = f"http://127.0.0.1:{other.port}/".encode()
        server, there = self.office(b"HTTP/1.1 302 Found\r\nLocation: " + to +
                                    b"\r\nContent-Length: 0\r\n\r\n")  # fmt: skip
        with there, self.assertRaisesRegex(BadInput, "The office says: 302"):
            ask("/apply", {})
        self.assertEqual((server.asked, other.asked), (1, 0))

    def test_one_time_limit_for_all_of_it(self):
        with mock.patch.object(outside, "SECONDS", 0.6), mock.patch.object(
                outside.Deadline.__init__, "__defaults__", (0.6,)):  # fmt: skip
            for said, how in ((http(b'{"number": "P-1"}'), {"drip_s": 0.2}), (b"", {"hang": True})):
                _, there = self.office(said, **how)
                begun = time.monotonic()
                with there, self.assertRaisesRegex(BadInput, "No office answers"):
                    ask("/apply", {})
                self.assertLess(time.monotonic() - begun, 3)
            for said, how in ((b"just-loop-meter 1\n", {"drip_s": 0.2}), (b"", {"hang": True})):
                server = Anything(said, **how)
                self.addCleanup(server.close)
                begun = time.monotonic()
                with (override_settings(METER=f"127.0.0.1:{server.port}"),
                      self.assertRaisesRegex(BadInput, "does not answer")):  # fmt: skip
                    read_meter("loop", "c17", "Pebblewick")
                self.assertLess(time.monotonic() - begun, 3)

    def test_any_bytes_of_a_meter_give_a_sentence(self):
        chance = random.Random(6)
        hello = b"just-loop-meter 1\n"
        odd = [b"", b"\n", b"\x00\n", hello, hello + b"0.5 furlong\n", hello + b"1e999 ohm\n",
               hello + b"ERROR\n", hello + b"-1 ohm\n", b"x" * 5000,
               hello + b"9" * 900 + b" ohm\n",
               hello + "0,5 Ω\n".encode(),
               b"just-loop-meter 1 simulated Else\n1 ohm\n"]  # fmt: skip
        odd += [bytes(chance.randrange(256) for _ in range(40)) for _ in range(20)]
        odd += [hello + bytes(chance.randrange(256) for _ in range(40)) for _ in range(20)]
        for said in odd:
            server = Anything(said)
            with (override_settings(METER=f"127.0.0.1:{server.port}"),
                  self.assertRaises(BadInput) as caught):  # fmt: skip
                read_meter("loop", "c17", "Pebblewick")
            self.assertTrue(caught.exception.sentence.isprintable(), said[:40])
            server.close()


class GoneMeanwhile(LogCase):
    def test_a_photo_marked_and_a_date_ticked_after_they_were_dropped(self):
        from .permissions import a_photo

        photo = a_photo(self.job)
        date = JobDate.objects.create(job=self.job, kind="final", day="2026-12-09")
        at = f"{self.at}/photos/{photo.pk}"

        def dropping(model, pk):
            real = model.objects.filter

            def late(*args, **more):
                model._base_manager.all().filter(pk=pk).delete()
                return real(*args, **more)

            return mock.patch.object(model.objects, "filter", late)

        with dropping(type(photo), photo.pk):
            answer = self.client.post(at, {"x": "0.5", "y": "0.5"}, follow=True)
        self.assertContains(answer, "taken back meanwhile")
        number = date.pk
        with mock.patch("justloop.planning.dates.JobDate.delete"):
            JobDate.objects.filter(pk=number).delete()
        page = self.told("dates", {"n": str(number), "do": "done"})
        self.assertIn("taken away meanwhile", page)

    def test_what_is_twice_or_gone_between_look_and_write_is_a_sentence(self):
        from django.db import DatabaseError, IntegrityError

        for error, words in (
            (DatabaseError("Save with update_fields did not affect any rows."), "taken away"),
            (IntegrityError("FOREIGN KEY constraint failed"), "taken away"),
            (IntegrityError("UNIQUE constraint failed: log_photo.client_id"), "kept once"),
        ):
            with mock.patch("justloop.log.views._typed", side_effect=error):
                answer = self.send("readings/add", {"text": "x loop 1"})
                self.assertContains(answer, words, status_code=409)
                told = self.send("readings/add", {"text": "x loop 1"}, HTTP_X_QUEUED="1")
                self.assertIn(words, told.json()["problem"])


class OwnProcedures(LogCase):
    def test_one_that_cannot_be_shown_is_refused_with_its_line(self):
        from django.core.files.uploadedfile import SimpleUploadedFile

        head = "format: 1\nkey: ours\nname: Ours\nsteps:\n  - {key: one, say: One.}\n"
        for more, words in (
            ("  - {key: two, say: Two., change: {nonsense: x}}\n", "Line 6 (two): change"),
            ("  - {key: two, say: Two., change: {'{panel_id}.no_fact': x}}\n", "is no fact"),
            ("  - {key: two, say: Two., hold: dead}\n", "Line 6 (two)"),
            ("  - {key: two, say: Two., hold: hug}\n", "line 6"),
        ):
            file = SimpleUploadedFile("f.yaml", (head + more).encode())
            page = self.told("procedures", {"file": file})
            self.assertIn(words, page)
            self.assertFalse(OwnForm.objects.exists())

    def test_one_that_was_kept_before_never_breaks_a_page(self):
        OwnForm.objects.create(key="ours", text=(
            "format: 1\nkey: ours\nname: Ours\nsteps:\n"
            "  - {key: one, say: One., change: {'{panel_id}.no_fact': x}, hold: confirm}\n"
            "  - {key: end, say: End., hold: dead}\n"))  # fmt: skip
        self.send("work/begin", {"form": "ours", "subject": "p5"})
        work = self.job.works.get()
        for step in ("one", "end"):
            self.send(f"work/{work.pk}/tick", {"step": step})
            self.assertEqual(self.client.get(f"{self.at}/work/{work.pk}").status_code, 200)


class HstsAndHashes(SimpleTestCase):
    def test_hsts_binds_no_more_than_is_asked_for(self):
        code = ("from django.conf import settings as s; "
                "print(s.SECURE_HSTS_SECONDS > 0, s.SECURE_HSTS_INCLUDE_SUBDOMAINS,"
                " s.SECURE_HSTS_PRELOAD)")  # fmt: skip
        for asked, said in (({}, "True False False"),
                            ({"JUSTLOOP_HSTS_SUBDOMAINS": "1", "JUSTLOOP_HSTS_PRELOAD": "1"},
                             "True True True")):  # fmt: skip
            with tempfile.TemporaryDirectory() as folder:
                root = Path(printing.__file__).parents[2]
                done = subprocess.run(
                    [sys.executable, "-c", code], capture_output=True, text=True, check=True,
                    env=asked | {"JUSTLOOP_HTTPS": "1", "JUSTLOOP_SECRET_KEY": "x" * 50,
                                 "JUSTLOOP_DATA": folder, "PYTHONPATH": str(root),
                                 "PATH": os.environ["PATH"],
                                 "DJANGO_SETTINGS_MODULE": "justloop.settings"},
                )  # fmt: skip
            self.assertEqual(done.stdout.strip(), said)

    def test_every_package_is_pinned_by_its_hashes(self):
        folder = Path(printing.__file__).parents[3] / "requirements"
        for name in ("base", "dev"):
            text = (folder / f"{name}.txt").read_text("utf-8").replace("\\\n", " ")
            rows = [r for r in text.splitlines() if r and not r.startswith(("#", "-r"))]
            self.assertGreater(len(rows), 15)
            for row in rows:
                self.assertRegex(row, r"^\S+==\S+ +--hash=sha256:[0-9a-f]{64}")
            asked = (folder / f"{name}.in").read_text("utf-8").split()
            pins = {r.split()[0].lower().replace("_", "-") for r in rows}
            self.assertLessEqual({a.lower() for a in asked}, pins)
