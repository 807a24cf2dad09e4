"""Who may see what: every address as nobody and as a stranger."""

import os
import subprocess
import sys

from django.conf import settings
from django.contrib.auth import get_user_model
from django.db import transaction
from django.test import Client, TestCase
from django.urls import reverse

from justloop.accounts import guests
from justloop.jobs.models import Job

from .people import job_of, person
from .permissions import ROLES, RULES, addresses, may


class Access(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.stranger, cls.mate = person("wren"), person("stranger"), person("mate")
        cls.job = job_of(cls.owner)

    def client_of(self, role: str) -> Client:
        client = Client(raise_request_exception=True)
        if role != "nobody":
            user = {"owner": self.owner, "stranger": self.stranger}.get(role) or person(role)
            if role == "administrator":
                user.is_staff = True
                user.save()
            if role == "guest":
                guests.welcome(user)
            if role in ("editor", "reader"):
                (self.job.crew if role == "editor" else self.job.readers).add(user)
            client.force_login(user)
        return client

    def test_every_address_has_its_rule(self):
        self.assertEqual(set(addresses(self.job)), set(RULES))

    def test_every_address_for_every_role(self):
        """The whole matrix: who is let in at each address, by each method."""
        own = {r: self.client_of(r) for r in ROLES}
        for name, address in addresses(self.job).items():
            rule = RULES[name]
            for role in ROLES:
                for method, allowed, data in (
                    ("get", rule.get, {}), ("post", rule.post, rule.data),
                ):  # fmt: skip
                    with self.subTest(name, role=role, method=method), transaction.atomic():
                        client = own[role]
                        if role != "nobody":  # the last address may have ended the session
                            client.force_login(get_user_model().objects.get(
                                username={"owner": "wren"}.get(role, role)))  # fmt: skip
                        answer = getattr(client, method)(address, data)
                        self.assertEqual(may(answer), role in allowed, answer.status_code)
                        if role not in allowed and f"/{self.job.pk}/" in address:
                            self.assertNotIn(b"kitchen counter", answer.content)
                        transaction.set_rollback(True)

    def test_a_reader_reads_everything_and_is_told_why_nothing_is_kept(self):
        client = self.client_of("reader")
        self.assertContains(client.get("/"), "Pebblewick")
        page = client.get(f"/jobs/{self.job.pk}/survey")
        self.assertContains(page, "You read this job")
        self.assertContains(page, '<fieldset class="read-only" disabled>')
        sent = {"op": "set", "path": "p1.name", "text": "Mine"}
        answer = client.post(f"/jobs/{self.job.pk}/edit", sent)
        self.assertContains(answer, "you read this job and do not change it", status_code=403)
        self.assertEqual(self.job.revisions.count(), 1)

    def test_the_crew_sees_and_changes_but_does_not_choose_the_crew(self):
        self.job.crew.add(self.mate)
        client = Client()
        client.force_login(self.mate)
        self.assertContains(client.get("/"), "Pebblewick")
        self.assertEqual(client.get(f"/jobs/{self.job.pk}/service").status_code, 200)
        answer = client.post(f"/jobs/{self.job.pk}/crew", {"name": "stranger"})
        self.assertEqual(answer.status_code, 404)
        self.assertEqual(self.job.crew.count(), 1)

    def test_the_owner_chooses_the_crew(self):
        client = Client()
        client.force_login(self.owner)
        wrong = client.post(f"/jobs/{self.job.pk}/crew", {"name": "nobody-here"})
        self.assertContains(wrong, "Nobody here is called “nobody-here”")
        client.post(f"/jobs/{self.job.pk}/crew", {"name": "mate"})
        self.assertEqual(list(Job.objects.seen_by(self.mate)), [self.job])
        client.post(f"/jobs/{self.job.pk}/crew", {"name": "mate", "do": "remove"})
        self.assertFalse(Job.objects.seen_by(self.mate))

    def test_forms_from_elsewhere_are_refused(self):
        client = Client(enforce_csrf_checks=True)
        client.force_login(self.owner)
        answer = client.post(f"/jobs/{self.job.pk}/undo")
        self.assertContains(answer, "out of date", status_code=403)

    def test_the_demo_press_is_for_this_machine_only(self):
        person("demo")
        far = Client(REMOTE_ADDR="192.0.2.7")
        self.assertEqual(far.post(reverse("demo-sign-in")).status_code, 404)
        near = Client()
        self.assertRedirects(near.post(reverse("demo-sign-in")), "/")

    def test_too_many_tries_lock(self):
        client = Client()
        for _ in range(settings.AXES_FAILURE_LIMIT):
            answer = client.post("/sign-in", {"username": "wren", "password": "wrong"})
        self.assertContains(answer, "Too many tries", status_code=429)


class Deployment(TestCase):
    def run_check(self, **environment):
        environment["JUSTLOOP_DATA"] = str(settings.DATA)
        clean = {k: v for k, v in os.environ.items() if not k.startswith("JUSTLOOP")}
        for name in ("DJANGO_SETTINGS_MODULE", "DJANGO_ALLOW_ASYNC_UNSAFE"):
            clean.pop(name, None)
        return subprocess.run(
            [sys.executable, "manage.py", "check", "--deploy", "--fail-level", "WARNING"],
            cwd=settings.PACKAGE.parents[1],
            env=clean | environment,
            capture_output=True,
            text=True,
        )

    def test_a_real_installation_is_clean(self):
        key = "k" * 30 + "".join(chr(97 + i % 26) for i in range(40))
        done = self.run_check(
            JUSTLOOP_SECRET_KEY=key, JUSTLOOP_HTTPS="1", JUSTLOOP_HOSTS="loop.example"
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("no issues", done.stdout)

    def test_it_does_not_start_without_a_key(self):
        done = self.run_check()
        self.assertNotEqual(done.returncode, 0)
        self.assertIn("JUSTLOOP_SECRET_KEY", done.stderr)
