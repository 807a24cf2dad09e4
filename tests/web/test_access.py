"""Who may see what: every address as nobody and as a stranger."""

import os
import subprocess
import sys

from django.conf import settings
from django.test import Client, TestCase
from django.urls import get_resolver, reverse

from justloop.jobs.models import Job

from .people import job_of, person

OPEN = {"sign-in", "demo-sign-in", "theme", "healthz"}


def addresses(job) -> dict[str, str]:
    """Every named address, with this job's number in it."""
    found = {}
    for pattern in get_resolver().url_patterns:
        for one in getattr(pattern, "url_patterns", [pattern]):
            arguments = {}
            for key, converter in one.pattern.converters.items():
                kind = type(converter).__name__
                arguments[key] = job.pk if kind == "IntConverter" else "service"
            if one.name == "drawing":
                arguments["name"] = "map"
            found[one.name] = reverse(one.name, kwargs=arguments)
    return found


class Access(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.stranger, cls.mate = person("wren"), person("stranger"), person("mate")
        cls.job = job_of(cls.owner)

    def test_every_address_is_walked(self):
        names = set(addresses(self.job))
        self.assertGreaterEqual(names, {"workspace", "edit", "undo", "history", "sheet", "crew"})

    def test_nobody_gets_the_sign_in(self):
        for name, address in addresses(self.job).items():
            if name in OPEN:
                continue
            for method in ("get", "post"):
                with self.subTest(name, method=method):
                    answer = getattr(Client(), method)(address)
                    self.assertEqual(answer.status_code, 302)
                    self.assertIn("/sign-in", answer["Location"])

    def test_a_stranger_is_told_nothing(self):
        client = Client()
        client.force_login(self.stranger)
        for name, address in addresses(self.job).items():
            if f"/{self.job.pk}/" not in address:
                continue
            for method in ("get", "post"):
                with self.subTest(name, method=method):
                    answer = getattr(client, method)(address)
                    self.assertIn(answer.status_code, (404, 405))
                    self.assertNotContains(answer, "Pebblewick", status_code=answer.status_code)
        self.assertNotContains(client.get("/"), "Pebblewick")
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
