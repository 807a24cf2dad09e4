"""Anything a person, or a script, can send: an answer, never a crash, never a lost save."""

import threading

from django.conf import settings as django_settings
from django.db import connections
from django.test import SimpleTestCase, TestCase, TransactionTestCase
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisCase

from justloop.jobs import revisions
from justloop.jobs.newjob import GROUPS
from returnpath.site import Set

from .people import job_of, person

PATHS = [p for paths in GROUPS.values() for p in paths]
FACTS = [
    "c2.length_ft", "c2.line_size", "c2.egc", "c2.egc_size", "c2.breaker.rating_a", "c2.name",
    "c2.breaker.lo", "c2.poles", "c2.method", "c2.gfci", "u1.kva", "u1.percent_z", "u1.fault_a",
    "s1.length_ft", "s1.line_size", "s1.run", "p1.bond", "p1.main.rating_a", "p1.bond_kind",
    "e1.kind", "e1.ohm", "e1.gec_size", "practice.edition", "practice.clearing", "c9.x", "x", "",
]  # fmt: skip
TYPED = st.one_of(
    st.text(max_size=20),
    st.sampled_from(
        ["0", "1", "12", "85 ft", "26 m", "4/0", "250", "in", "out", "none", "both", "raceway",
         "EMT", "NM", "two", "60", "75 °C", "5000", "1e9", "nan", "-1", "½", "²", "B", "2023"]
    ),
)  # fmt: skip
modest = settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))


class AnyForm(HypothesisCase):
    def setup_example(self):
        super().setup_example()
        self.owner = person("wren")
        self.job = job_of(self.owner)
        self.client.force_login(self.owner)

    @modest
    @given(
        st.lists(
            st.tuples(st.sampled_from(FACTS), TYPED, st.sampled_from(["set", "answer", "add"])),
            max_size=6,
        )
    )
    def test_edits(self, edits):
        for path, text, op in edits:
            before = self.job.latest
            answer = self.client.post(
                f"/jobs/{self.job.pk}/edit",
                {"path": path, "text": text, "op": op, "base": before.number, "at": "c2"},
                headers={"HX-Request": "true"},
            )
            self.assertEqual(answer.status_code, 200, (path, text, op))
            self.assertIn(self.job.latest.number, (before.number, before.number + 1))
        page = self.client.get(f"/jobs/{self.job.pk}/service?at=c2")
        self.assertEqual(page.status_code, 200)
        self.assertContains(page, "Next")

    @modest
    @given(st.dictionaries(st.sampled_from([*PATHS, "name", "line", "place"]), TYPED, max_size=8))
    def test_new_jobs(self, data):
        answer = self.client.post("/jobs/new", data)
        self.assertIn(answer.status_code, (200, 302))
        if answer.status_code == 302:
            self.assertEqual(self.client.get(answer["Location"]).status_code, 200)
        else:
            self.assertContains(answer, "to correct below")

    @modest
    @given(st.text(max_size=120))
    def test_typed_lines(self, line):
        self.assertEqual(self.client.get("/jobs/read", {"line": line}).status_code, 200)

    @modest
    @given(st.text(max_size=30))
    def test_addresses(self, text):
        for name in ("at", "loop", "open"):
            answer = self.client.get(f"/jobs/{self.job.pk}/service", {name: text})
            self.assertEqual(answer.status_code, 200)
        self.assertEqual(self.client.get("/", {"q": text}).status_code, 200)


class AtTheSameMoment(TransactionTestCase):
    """Savers that run at once wait for each other: every change has its own revision."""

    def test_ten_at_once(self):
        owner = person("wren")
        job = job_of(owner)
        wrong, kept, told = [], [], []

        def save(feet):
            try:
                base = job.revisions.count()
                path = ("c2.length_ft", "c2.breaker.lo", "e1.ohm", "s1.length_ft")[feet % 4]
                value = float(feet % 4 + 3 + feet // 4 * 0.5)
                kept.append(revisions.save_edits(job, owner, base, [Set(path=path, value=value)]))
            except revisions.Conflicted as error:  # another was first on the same fact
                told.append(error.sentence)
            except Exception as error:  # the assertion below names it
                wrong.append(error)
            finally:
                connections.close_all()

        threads = [threading.Thread(target=save, args=(n,)) for n in range(10)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(wrong, [])
        numbers = list(job.revisions.order_by("number").values_list("number", flat=True))
        self.assertEqual(numbers, list(range(1, len(numbers) + 1)))
        self.assertGreater(len(numbers), 4)
        self.assertEqual(len(kept) + len(told), 10)  # each is kept, or told that it is not


class Limits(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.job = job_of(self.owner)
        self.client.force_login(self.owner)

    def test_too_much_is_refused_politely(self):
        answer = self.client.post(
            f"/jobs/{self.job.pk}/edit", {"path": "c2.name", "text": "x" * 3_000_000, "base": "1"}
        )
        self.assertContains(answer, "2.5 MB is the most here", status_code=413)
        self.assertEqual(self.job.revisions.count(), 1)

    def test_a_long_name_is_refused_beside_its_field(self):
        answer = self.client.post(
            f"/jobs/{self.job.pk}/edit",
            {"path": "c2.name", "text": "x" * 81, "base": "1", "at": "c2"},
            headers={"HX-Request": "true"},
        )
        self.assertContains(answer, "at most 80 characters")

    def test_a_directory_has_an_end(self):
        from returnpath.errors import BadInput
        from returnpath.site import Add, apply

        site = self.job.latest.site
        many = tuple(site.circuits[0].model_copy(update={"id": f"c{n + 10}"}) for n in range(1000))
        full = site.model_copy(update={"circuits": many, "last_id": 2000})
        with self.assertRaises(BadInput):
            apply(full, Add(facts={"name": "one more"}))

    def test_what_may_not_be_sent_is_said_so(self):
        for method, path in (("post", "service"), ("get", "edit"), ("get", "undo")):
            answer = getattr(self.client, method)(f"/jobs/{self.job.pk}/{path}")
            self.assertEqual(answer.status_code, 405)

    def test_a_page_that_is_not_there(self):
        answer = self.client.get("/jobs/99999/service")
        self.assertContains(answer, "There is nothing at this address", status_code=404)


class Templates(SimpleTestCase):
    def test_no_line_is_longer_than_a_screen(self):
        folder = django_settings.PACKAGE / "templates"
        long = [
            f"{path.relative_to(folder)}:{number}"
            for path in folder.rglob("*.html")
            for number, line in enumerate(path.read_text("utf-8").splitlines(), 1)
            if len(line) > 160
        ]
        self.assertEqual(long, [])
