"""Two people at once, forms sent twice, trials that cannot be solved, and what keeps a year."""

import gc
import os
import sqlite3
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import mock

from django.core.management import CommandError, call_command
from django.db import connection
from django.test import TestCase, TransactionTestCase

from justloop import solved
from justloop.jobs import revisions, safekeeping
from justloop.jobs.models import Job, Trial
from justloop.workspace import trials
from returnpath.errors import BadInput
from returnpath.site import Set, apply, read_place
from tests.core.test_findings import example

from .people import job_of, person


class TwoPeople(TestCase):
    def setUp(self):
        self.wren, self.finch = person("wren"), person("finch")
        self.job = job_of(self.wren)
        self.job.crew.add(self.finch)

    def test_the_second_who_types_the_same_shed_is_told(self):
        shed = "shed sub panel 60A 6-3 NM 80 ft"
        self.client.force_login(self.finch)
        asked = {"text": shed, "job": str(self.job.pk)}
        second = "A second of this name: one is here already."
        self.assertNotContains(self.client.get("/jobs/read", asked), second)
        base = self.job.latest
        edits = read_place(base.site, shed).edits
        revisions.save_edits(self.job, self.wren, base.number, edits)  # no conflict
        self.assertContains(self.client.get("/jobs/read", asked), second)

    def test_both_add_a_sub_panel_on_the_same_page(self):
        base = self.job.latest
        lines = ("panel Loft from Panel 60A 6/3 NM 40ft", "panel Cellar from Panel 40A 8/3 NM 20ft")
        made = [read_place(base.site, line).edits for line in lines]
        for who, edits in zip((self.wren, self.finch), made, strict=True):
            revisions.save_edits(self.job, who, base.number, edits)
        site = self.job.latest.site
        names = {p.id: p.name for p in site.panels}
        self.assertEqual([names[f.to] for f in site.feeders], ["Loft", "Cellar"])

    def test_a_save_that_is_overtaken_is_made_anew(self):
        other, append = [], revisions._append

        def late(job, site, *args, **more):
            if not other:  # somebody's save lands between the reading and the writing
                other.append(1)
                revisions.save_edits(
                    self.job, self.finch, 1, [Set(path="c2.breaker.rating_a", value=15)]
                )
            return append(job, site, *args, **more)

        with mock.patch.object(revisions, "_append", late):
            saved = revisions.save_edits(
                self.job, self.wren, 1, [Set(path="c2.length_ft", value=50)]
            )
        site = self.job.latest.site
        self.assertEqual((site.circuit("c2").length_ft, site.circuit("c2").breaker.rating_a),
                         (50, 15))  # fmt: skip
        self.assertIn("Both changes are kept", saved.told)
        self.assertEqual(self.job.latest.number, 3)

    def test_who_set_it_is_named_and_nobody_else(self):
        path = "c2.length_ft"
        revisions.save_edits(self.job, self.finch, 1, [Set(path=path, value=50)])
        revisions.save_edits(self.job, self.wren, 2, [Set(path="c2.breaker.rating_a", value=15)])
        with self.assertRaises(revisions.Conflicted) as caught:
            revisions.save_edits(self.job, self.wren, 1, [Set(path=path, value=70)])
        said = caught.exception.sentence
        self.assertIn("finch set this to 50 ft", said)
        self.assertRegex(said, r"at \d\d:\d\d \(revision 2\)")

    def test_an_unknown_base_accuses_nobody(self):
        with self.assertRaises(revisions.Conflicted) as caught:
            revisions.save_edits(self.job, self.wren, 99, [Set(path="c2.length_ft", value=70)])
        said = caught.exception.sentence
        self.assertIn("older than what is kept", said)
        self.assertNotIn("wren", said)


class NoLock(TransactionTestCase):
    def test_nothing_is_solved_inside_the_write_lock(self):
        wren = person("wren")
        job = job_of(wren)
        seen, plain = [], solved._solved

        def watched(site):
            seen.append(connection.in_atomic_block)
            return plain(site)

        self.client.force_login(wren)
        from returnpath.site import dumps

        file = dumps(job.latest.site).replace("kitchen", "pantry").replace("Kitchen", "Pantry")
        with mock.patch.object(solved, "_solved", watched):
            revisions.save_edits(job, wren, 1, [Set(path="c2.length_ft", value=51)])
            revisions.set_aside(job, wren, "x:c2", "because", "x")
            with tempfile.NamedTemporaryFile(suffix=".json") as upload:
                upload.write(file.encode())
                upload.seek(0)
                self.client.post("/jobs/open", {"file": upload})
        self.assertGreaterEqual(len(seen), 2)
        self.assertEqual(set(seen), {False})


class Once(TestCase):
    def setUp(self):
        self.wren = person("wren")
        self.job = job_of(self.wren)
        self.client.force_login(self.wren)

    def post(self, op, text, once="a1", path="", **more):
        return self.client.post(
            f"/jobs/{self.job.pk}/edit",
            {"op": op, "text": text, "path": path, "once": once, "stage": "survey",
             "base": self.job.latest.number, **more},
        )  # fmt: skip

    def test_a_form_pressed_twice_is_done_once(self):
        for _ in range(2):
            self.post("add", "20A 12/2 NM 40ft bath")
        self.assertEqual(len(self.job.latest.site.circuits), 2)
        self.post("add", "20A 12/2 NM 40ft bath", once="a2")  # the next page's form
        self.assertEqual(len(self.job.latest.site.circuits), 3)

    def test_a_refused_form_may_be_sent_again(self):
        for _ in range(2):
            answer = self.post("add", "20A 12/2 NM 40 bath")
            self.assertContains(answer, "needs its unit")

    def test_keep_pressed_twice_keeps_once(self):
        self.post("set", "50", path="c2.length_ft", **{"try": "1"})
        trial = Trial.objects.get()
        self.client.post(f"/jobs/{self.job.pk}/keep", {"stage": "survey"})
        self.assertEqual(self.job.revisions.count(), 2)
        with mock.patch.object(
            trials, "running",
            return_value=trials.Trying(trial, self.job.latest.site, None,
                                       (Set(path="c2.length_ft", value=60),)),
        ):  # fmt: skip
            answer = self.client.post(f"/jobs/{self.job.pk}/keep", {"stage": "survey"}, follow=True)
        self.assertContains(answer, "kept already")
        self.assertEqual(self.job.revisions.count(), 2)

    def test_a_trial_that_cannot_be_solved_locks_nobody_out(self):
        self.post("set", "50", path="c2.length_ft", **{"try": "1"})
        plain = solved._solved

        def fails(site):
            if site.circuit("c2").length_ft == 50:
                raise solved.Unsolvable("This cannot be solved: too much.")
            return plain(site)

        solved._kept.clear()
        with mock.patch.object(solved, "_solved", fails):
            for stage in ("survey", "service", "buildings", "prove", "fix"):
                answer = self.client.get(f"/jobs/{self.job.pk}/{stage}")
                self.assertContains(answer, "This cannot be solved: too much.")
                self.assertContains(answer, "Throw it away")
            self.client.post(f"/jobs/{self.job.pk}/discard", {"stage": "survey"})
            self.assertNotContains(
                self.client.get(f"/jobs/{self.job.pk}/survey"), "cannot be solved"
            )

    def test_numbers_of_any_length_are_a_sentence(self):
        for base in ("9" * 5000, "²", "-1", "1e9"):
            answer = self.client.post(
                f"/jobs/{self.job.pk}/edit",
                {"op": "set", "path": "c2.length_ft", "text": "50", "base": base},
            )
            self.assertEqual(answer.status_code, 200, base[:9])
        self.assertEqual(self.job.revisions.count(), 1)


class Kept(TransactionTestCase):
    def test_backup_verify_restore(self):
        job = job_of(person("wren"))
        with tempfile.TemporaryDirectory() as folder:
            copy = Path(folder) / "one.sqlite3"
            name = connection.settings_dict["NAME"]
            with mock.patch.object(safekeeping, "_database", lambda: Path(name)):
                self.assertIn("1 jobs", safekeeping.backup(copy))
                with self.assertRaises(safekeeping.Unkept):
                    safekeeping.backup(Path(name))
            self.assertEqual(safekeeping.check(copy), 1)
            other = Path(folder) / "live.sqlite3"
            sqlite3.connect(other).close()
            with (
                mock.patch.object(safekeeping, "_database", lambda: other),
                mock.patch.object(safekeeping.connections, "close_all"),
            ):
                self.assertIn("1 jobs restored", safekeeping.restore(copy))
                broken = Path(folder) / "broken"
                broken.write_bytes(copy.read_bytes()[:5000])
                with self.assertRaises(safekeeping.Unkept):
                    safekeeping.restore(broken)
            self.assertEqual(safekeeping.check(other), 1)
            self.assertTrue(list(Path(folder).glob("live.sqlite3.before-*")))
        call_command("verify")
        revision = job.latest
        revision.summary = {**revision.summary, "circuits": 9}
        revision.save()
        with self.assertRaises(CommandError):
            call_command("verify")
        revision.document = "{}"
        self.assertIn("two keys", problem(revision))
        call_command("thin")

    def test_health(self):
        answer = self.client.get("/healthz")
        self.assertEqual((answer.status_code, answer.json()["ok"]), (200, True))
        with mock.patch("justloop.accounts.views.LEAST_ROOM", 10**18):
            self.assertEqual(self.client.get("/healthz").json()["wrong"], ["disk"])


def problem(revision):
    try:
        from returnpath.site import loads

        loads(revision.document)
    except BadInput as error:
        return error.sentence
    return ""


class Deployment(TestCase):
    def test_check_deploy_refuses_what_is_not_for_others(self):
        for more, wanted in (
            ({"JUSTLOOP_DEMO": "1"}, "E001"),
            ({"JUSTLOOP_HOSTS": "*"}, "E003"),
            ({"JUSTLOOP_HOSTS": "loop.example"}, "E004"),
            ({"JUSTLOOP_HOSTS": "loop.example", "JUSTLOOP_HTTPS": "1"}, ""),
        ):
            with self.subTest(more):
                environment = {
                    "PATH": os.environ["PATH"], "HOME": os.environ.get("HOME", "/tmp"),
                    "PYTHONPATH": "src", "JUSTLOOP_SECRET_KEY": "x" * 30 + KEY,
                    "JUSTLOOP_DATA": tempfile.mkdtemp(), **more,
                }  # fmt: skip
                done = subprocess.run(
                    [sys.executable, "manage.py", "check", "--deploy"],
                    cwd=ROOT,
                    env=environment, capture_output=True, text=True, check=False,
                )  # fmt: skip
                self.assertEqual(done.returncode != 0, bool(wanted), done.stderr[-400:])
                self.assertIn(wanted, done.stderr)

    def test_the_demos_one_press_is_not_for_who_comes_through_a_proxy(self):
        for header in ("HTTP_X_FORWARDED_FOR", "HTTP_FORWARDED", "HTTP_X_REAL_IP", "HTTP_VIA"):
            answer = self.client.post("/demo-sign-in", **{header: "203.0.113.9"})
            self.assertEqual(answer.status_code, 404)


ROOT = Path(__file__).resolve().parents[2]
KEY = "abcdefghij0123456789ABCDE"


class Memory(TestCase):
    def test_what_was_solved_is_let_go_without_a_collector(self):
        """No ring of objects: what is no longer kept goes at once. 2,000 edits grew by 2.6 GB."""
        site = example("pebblewick")
        path = f"{site.circuits[0].id}.length_ft"

        def edit(feet):
            found = solved.solve(apply(site, Set(path=path, value=feet)))
            [(f.found, f.working and f.working.steps()) for f in found.findings]
            next(iter(found.study.loops.values())).workings["opens"].steps()

        def resident():
            with open("/proc/self/statm") as statm:
                return int(statm.read().split()[1]) * 4096

        for feet in range(20, 50):  # what is kept is full by now
            edit(feet)
        gc.collect()
        gc.disable()
        try:
            before = resident()
            for feet in range(50, 200):
                edit(feet)
            self.assertLess(gc.collect(), 2000)  # nothing of 150 sites was left for it
            grown = resident() - before
        finally:
            gc.enable()
        self.assertLess(grown, 15e6)


class Lists(TestCase):
    def test_worst_first_over_pages_in_few_queries(self):
        wren = person("wren")
        fine = job_of(wren, name="Fine")
        for n in range(90):
            Job.objects.create(name=f"Empty {n}", owner=wren, rank=2)
        Job.objects.filter(pk=fine.pk).update(rank=0)
        self.client.force_login(wren)
        self.client.get("/")  # that the session is in use is noted now and then
        with self.assertNumQueries(9):
            first = self.client.get("/").content.decode()
        self.assertLess(first.index("Fine"), first.index("Empty"))
        self.assertIn("1–40 of 91", first)
        self.assertIn("81–91 of 91", self.client.get("/?page=3").content.decode())
        for odd in ("0", "-1", "x", "9" * 50, "1e3"):
            self.assertEqual(self.client.get("/", {"page": odd}).status_code, 200)

    def test_a_save_moves_a_job(self):
        wren = person("wren")
        job = job_of(wren)
        before = Job.objects.get(pk=job.pk).rank
        revisions.save_edits(job, wren, 1, [Set(path="p1.bond", value="out")])
        self.assertEqual((before > 0, Job.objects.get(pk=job.pk).rank), (True, 0))

    def test_a_paste_over_the_limit_is_refused_with_its_number(self):
        wren = person("wren")
        job = job_of(wren)
        self.client.force_login(wren)
        post = {"op": "paste", "base": 1, "stage": "survey"}
        text = "15A 14/2 NM 40ft a\n" * 301
        self.assertContains(
            self.client.post(f"/jobs/{job.pk}/edit", post | {"text": text}), "at most 300 lines"
        )
        long = self.client.post(f"/jobs/{job.pk}/edit", post | {"text": "a" * 50_000})
        self.assertContains(long, "50,000 characters")
        self.assertEqual(job.revisions.count(), 1)


class Odd(TestCase):
    def setUp(self):
        self.wren = person("wren")
        self.job = job_of(self.wren)
        self.client.force_login(self.wren)

    def test_private_pages_are_kept_by_no_cache(self):
        answer = self.client.get(f"/jobs/{self.job.pk}/service")
        self.assertIn("no-store", answer["Cache-Control"])

    def test_a_change_to_what_somebody_removed_is_said_with_its_text(self):
        path = f"/jobs/{self.job.pk}/edit"
        circuit = self.job.latest.site.circuits[0].id
        self.client.post(path, {"op": "remove", "path": circuit, "base": 1})
        form = {"path": f"{circuit}.name", "text": "Pantry <b>", "base": 1, "stage": "service"}
        answer = self.client.post(path, form, headers={"HX-Request": "true"})
        self.assertContains(answer, "That part was removed meanwhile. “Pantry &lt;b&gt;” is not")

    def test_a_head_is_answered_wherever_a_page_is(self):
        for path in ("/", "/breaker-lines", "/healthz", f"/jobs/{self.job.pk}/prove"):
            self.assertEqual(self.client.head(path).status_code, 200, path)

    def test_files_that_are_odd(self):
        from returnpath.site import dumps

        plain = dumps(self.job.latest.site)
        for text, taken in (
            ("\ufeff" + plain, True),
            (
                plain.replace("kitchen", "kit\\u0001chen").replace("Kitchen", "Kit\\u0001chen"),
                False,
            ),
            (plain.replace('"last_id": 2', '"last_id": 999999999999'), True),
        ):
            jobs = Job.objects.count()
            with tempfile.NamedTemporaryFile(suffix=".json") as upload:
                upload.write(text.encode())
                upload.seek(0)
                self.client.post("/jobs/open", {"file": upload})
            self.assertEqual(Job.objects.count() - jobs, int(taken), text[:20])
        far = Job.objects.order_by("-pk").first()
        answer = self.client.post(
            f"/jobs/{far.pk}/edit", {"op": "add", "text": "20A 12/2 bath", "base": 1}
        )
        self.assertEqual(answer.status_code, 200)

    def test_a_cell_that_looks_like_a_formula_is_text(self):
        revisions.save_edits(self.job, self.wren, 1, [Set(path="c2.name", value="=1+1")])
        table = self.client.get(f"/jobs/{self.job.pk}/circuits.csv").content.decode()
        self.assertIn("'=1+1", table)
        self.assertNotIn(",=1+1", table)
        with tempfile.NamedTemporaryFile(suffix=".csv") as upload:
            upload.write(table.encode())
            upload.seek(0)
            self.client.post(
                f"/jobs/{self.job.pk}/edit", {"op": "table", "base": 2, "file": upload}
            )
        self.assertEqual(self.job.latest.site.circuits[0].name, "=1+1")
