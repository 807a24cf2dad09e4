"""Accounts: links handed over, passwords, sessions, the second factor, guests, the audit log."""

import io
import json
import logging
import re
from datetime import timedelta

from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.test import Client, TestCase
from django.utils import timezone
from django_otp.oath import totp
from django_otp.plugins.otp_static.models import StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from justloop.accounts.guests import is_guest
from justloop.accounts.models import AUDIT_DAYS, Act, Entry, Link, Seat
from justloop.jobs.models import Job, Role
from justloop.logs import AsJson

from .people import job_of, person

GOOD = "seven-copper-rods"


def signed_in(name: str, password: str = "a-long-password") -> Client:
    """A browser in which somebody signed in through the page."""
    client = Client(headers={"User-Agent": f"Browser of {name}"})
    client.post("/sign-in", {"username": name, "password": password})
    return client


def is_in(client: Client) -> bool:
    """Whether the browser's session is alive."""
    return client.get("/").status_code == 200


class Links(TestCase):
    def setUp(self):
        self.admin = person("foreman")
        self.admin.is_staff = True
        self.admin.save()
        self.client.force_login(self.admin)

    def handed(self, **sent) -> str:
        page = self.client.post(sent.pop("to", "/firm/people"), sent).content.decode()
        found = re.search(r'value="http://testserver(/[\w/-]+)"', page)
        assert found, page
        return found[1]

    def test_an_invitation_makes_one_account(self):
        link = self.handed(do="invite", note="the new apprentice")
        secret = link.rsplit("/", 1)[1]
        self.assertFalse(Link.objects.filter(token_hash=secret).exists())  # kept hashed alone
        new = Client()
        self.assertContains(new.get(link), "foreman invites you")
        wrong = new.post(link, {"username": "Foreman", "password1": GOOD, "password2": GOOD})
        self.assertContains(wrong, "already exists")
        short = new.post(link, {"username": "pip", "password1": "short", "password2": "short"})
        self.assertContains(short, "too short")
        new.post(link, {"username": "pip", "password1": GOOD, "password2": GOOD})
        self.assertTrue(is_in(new))
        self.assertFalse(get_user_model().objects.get(username="pip").is_staff)
        for method in ("get", "post"):
            again = getattr(Client(), method)(link)
            self.assertContains(again, "has been used, or is too old", status_code=410)

    def test_a_link_dies_of_age_and_with_whoever_made_it(self):
        link = self.handed(do="invite")
        Link.objects.update(until=timezone.now() - timedelta(seconds=1))
        self.assertEqual(Client().get(link).status_code, 410)
        link = self.handed(do="invite")
        self.assertEqual(Client().get(link).status_code, 200)
        self.admin.is_active = False
        self.admin.save()
        self.assertEqual(Client().get(link).status_code, 410)

    def test_a_link_dies_where_its_maker_may_make_none_any_more(self):
        wren, mate = person("wren"), person("mate")
        job = job_of(wren)
        firm = self.handed(do="invite")
        self.admin.is_staff = False
        self.admin.save()
        self.assertEqual(Client().get(firm).status_code, 410)
        self.client.force_login(wren)
        reads = self.handed(to=f"/jobs/{job.pk}/crew", do="invite")
        self.assertEqual(Client().get(reads).status_code, 200)
        Job.objects.filter(pk=job.pk).update(owner=mate)
        self.assertEqual(Client().get(reads).status_code, 410)

    def test_a_new_password_link_ends_every_session(self):
        person("wren")
        wren = signed_in("wren")
        self.assertTrue(is_in(wren))
        pk = get_user_model().objects.get(username="wren").pk
        link = self.handed(do="password", person=pk)
        Client().post(link, {"new_password1": GOOD, "new_password2": GOOD})
        self.assertFalse(is_in(wren))
        self.assertFalse(is_in(signed_in("wren")))
        self.assertTrue(is_in(signed_in("wren", GOOD)))
        self.assertEqual(Client().get(link).status_code, 410)

    def test_an_inspector_joins_as_a_guest_who_reads_one_job(self):
        owner = person("wren")
        job = job_of(owner)
        other = job_of(owner, name="Elsewhere")
        self.client.force_login(owner)
        link = self.handed(to=f"/jobs/{job.pk}/crew", do="invite")
        guest = Client()
        guest.post(link, {"username": "inspector", "password1": GOOD, "password2": GOOD})
        self.assertEqual(job.role_of(get_user_model().objects.get(username="inspector")), "reader")
        self.assertContains(guest.get(f"/jobs/{job.pk}/fix"), "You read this job")
        self.assertEqual(guest.get(f"/jobs/{other.pk}/fix").status_code, 404)
        self.assertContains(guest.get("/jobs/new"), "You are a guest", status_code=403)
        self.assertNotContains(guest.get("/"), "New job")
        user = get_user_model().objects.get(username="inspector")
        self.client.force_login(self.admin)
        self.client.post("/firm/people", {"do": "take-in", "person": user.pk})
        self.assertFalse(is_guest(user))
        self.assertEqual(guest.get("/jobs/new").status_code, 200)

    def test_let_go_means_out_at_once_and_the_jobs_go_on(self):
        wren, mate = person("wren"), person("mate")
        job = job_of(wren)
        job.readers.add(mate)
        browser = signed_in("wren")
        post = {"person": wren.pk}
        answer = self.client.post("/firm/people", post | {"do": "take-jobs", "to": "mate"})
        self.assertContains(answer, "still works here")
        self.client.post("/firm/people", post | {"do": "let-go"})
        self.assertFalse(is_in(browser))
        self.assertFalse(is_in(signed_in("wren")))
        self.client.post("/firm/people", post | {"do": "take-jobs", "to": "mate"})
        self.assertEqual(Job.objects.get(pk=job.pk).role_of(mate), Role.OWNER)
        self.assertFalse(job.readers.exists())
        self.client.post("/firm/people", post | {"do": "admit"})
        self.assertTrue(is_in(signed_in("wren")))

    def test_the_firm_is_never_left_without_an_administrator(self):
        for do in ("let-go", "no-administrator"):
            answer = self.client.post("/firm/people", {"do": do, "person": self.admin.pk})
            self.assertContains(answer, "never left without one")
        self.admin.refresh_from_db()
        self.assertTrue(self.admin.is_staff and self.admin.is_active)


class Sessions(TestCase):
    def test_they_are_listed_and_ended_from_elsewhere(self):
        person("wren")
        here, there = signed_in("wren"), signed_in("wren")
        page = here.get("/you")
        self.assertContains(page, "Browser of wren", 2)
        here.post("/you/elsewhere")
        self.assertTrue(is_in(here))
        self.assertFalse(is_in(there))
        self.assertEqual(Seat.objects.count(), 1)
        here.post("/sign-out")
        self.assertFalse(Seat.objects.exists())

    def test_a_new_password_keeps_this_session_and_ends_the_others(self):
        person("wren")
        here, there = signed_in("wren"), signed_in("wren")
        sent = {"old_password": "wrong", "new_password1": GOOD, "new_password2": GOOD}
        self.assertContains(here.post("/you", sent), "entered incorrectly")
        here.post("/you", sent | {"old_password": "a-long-password"})
        self.assertTrue(is_in(here))
        self.assertFalse(is_in(there))
        self.assertContains(here.get("/you"), "Here")
        self.assertTrue(is_in(signed_in("wren", GOOD)))


class SecondFactor(TestCase):
    def setUp(self):
        self.user = person("wren")
        self.here = signed_in("wren")

    def code(self, device: TOTPDevice, steps: int = 0) -> str:
        return f"{totp(device.bin_key, drift=steps):06d}"

    def turned_on(self) -> tuple[TOTPDevice, list[str]]:
        self.assertContains(self.here.get("/you/second-factor"), "<svg")
        device = TOTPDevice.objects.get(user=self.user)
        page = self.here.post("/you/second-factor", {"code": self.code(device)})
        codes = re.findall(r'class="figure">(\w+)<', page.content.decode())
        self.assertEqual(len(codes), 10)
        device.refresh_from_db()
        return device, codes

    def half_way(self) -> Client:
        client = signed_in("wren")
        self.assertFalse(is_in(client))
        return client

    def test_a_wrong_code_does_not_turn_it_on(self):
        self.here.get("/you/second-factor")
        answer = self.here.post("/you/second-factor", {"code": "000000"})
        self.assertContains(answer, "does not fit")
        self.assertTrue(is_in(signed_in("wren")))

    def test_the_password_alone_is_not_enough(self):
        device, _ = self.turned_on()
        client = self.half_way()
        self.assertContains(client.post("/sign-in/code", {"code": "000000"}), "not right")
        self.assertFalse(is_in(client))
        device.refresh_from_db()
        device.throttle_reset()
        client.post("/sign-in/code", {"code": self.code(device, 1)})
        self.assertTrue(is_in(client))
        # the same code, again: a code is good once
        client = self.half_way()
        client.post("/sign-in/code", {"code": self.code(device, 1)})
        self.assertFalse(is_in(client))

    def test_guessing_is_slowed_down(self):
        device, _ = self.turned_on()
        client = self.half_way()
        for _ in range(3):
            client.post("/sign-in/code", {"code": "000000"})
        client.post("/sign-in/code", {"code": self.code(device, 1)})
        self.assertFalse(is_in(client))  # the right one comes too soon after the wrong ones
        self.assertGreaterEqual(Entry.objects.filter(act=Act.REFUSED, what="the code").count(), 4)

    def test_a_recovery_code_works_once(self):
        _, codes = self.turned_on()
        client = self.half_way()
        client.post("/sign-in/code", {"code": codes[0]})
        self.assertTrue(is_in(client))
        again = self.half_way()
        again.post("/sign-in/code", {"code": codes[0]})
        self.assertFalse(is_in(again))
        self.assertContains(self.here.get("/you"), "9 recovery codes left")
        self.here.post("/you/recovery-codes")
        self.assertFalse(StaticToken.objects.filter(token=codes[1]).exists())

    def test_half_way_lasts_five_minutes_and_is_nobody_elses(self):
        device, _ = self.turned_on()
        client = self.half_way()
        session = client.session
        session["half"] = session["half"] | {"at": session["half"]["at"] - 301}
        session.save()
        answer = client.post("/sign-in/code", {"code": self.code(device, 1)})
        self.assertRedirects(answer, "/sign-in", fetch_redirect_response=False)
        self.assertFalse(is_in(client))
        self.assertFalse(is_in(Client()))

    def test_only_with_the_password_is_it_turned_off(self):
        self.turned_on()
        self.here.post("/you/second-factor/off", {"password": "wrong"})
        self.assertFalse(is_in(signed_in("wren")))
        self.here.post("/you/second-factor/off", {"password": "a-long-password"})
        self.assertTrue(is_in(signed_in("wren")))


class AuditLog(TestCase):
    def acts(self, **of) -> list[tuple[str, str]]:
        return list(Entry.objects.filter(**of).order_by("pk").values_list("act", "who"))

    def test_what_is_in_it_and_who_reads_it(self):
        owner, mate = person("wren"), person("mate")
        job = job_of(owner)
        Client().post("/sign-in", {"username": "wren", "password": "hunter-of-secrets"})
        browser = signed_in("wren")
        browser.get(f"/jobs/{job.pk}/job.json")
        browser.get(f"/jobs/{job.pk}/sheet.pdf")
        browser.post(f"/jobs/{job.pk}/crew", {"name": "mate", "do": "editor"})
        browser.post(f"/jobs/{job.pk}/put-away", {"shelf": "bin"})
        browser.post(f"/jobs/{job.pk}/put-away", {"shelf": ""})
        expected = ["export", "export", "share", "delete", "restore"]
        self.assertEqual([act for act, _ in self.acts(job=job)], expected)
        self.assertEqual(self.acts(job=None)[:2], [("refused", "wren"), ("sign-in", "wren")])
        everything = json.dumps(list(Entry.objects.values()), default=str)
        for secret in ("hunter-of-secrets", "a-long-password", "kitchen counter"):
            self.assertNotIn(secret, everything)
        self.assertContains(browser.get(f"/jobs/{job.pk}/log"), "took a file out")
        self.client.force_login(mate)
        self.assertEqual(self.client.get(f"/jobs/{job.pk}/log").status_code, 404)

    def test_it_is_kept_over_a_year_and_then_thinned(self):
        job_of(person("wren"))
        signed_in("wren")
        call_command("thin", stdout=io.StringIO())
        self.assertTrue(Entry.objects.exists())
        Entry.objects.update(at=timezone.now() - timedelta(days=AUDIT_DAYS + 1))
        call_command("thin", stdout=io.StringIO())
        self.assertFalse(Entry.objects.exists())


class ServerLog(TestCase):
    def lines(self, logs) -> list[dict]:
        return [json.loads(AsJson().format(record)) for record in logs.records]

    def test_every_request_has_its_id_and_one_line_without_secrets(self):
        owner = person("wren")
        job = job_of(owner)
        _, secret = Link.hand_out(owner, Link.Use.JOIN, job=job)
        self.client.force_login(owner)
        with self.assertLogs("justloop.requests", logging.INFO) as logs:
            answer = self.client.get(f"/jobs/{job.pk}/fix?loop=c1&note=private")
            self.client.get(f"/join/{secret}")
        first, second = self.lines(logs)
        self.assertRegex(answer["X-Request-ID"], r"^[0-9a-f]{16}$")
        self.assertEqual(
            (first["status"], first["job"], first["person"], first["method"]),
            (200, job.pk, owner.pk, "GET"),
        )
        self.assertGreater(first["ms"], 0)
        self.assertEqual(second["route"], "join/<slug:secret>")
        text = json.dumps([first, second])
        for private in (secret, "private", "Pebblewick", "kitchen"):
            self.assertNotIn(private, text)

    def test_an_error_is_written_without_its_words(self):
        try:
            raise ValueError("kitchen counter 14 AWG")
        except ValueError as error:
            record = logging.LogRecord(
                "justloop",
                logging.ERROR,
                "",
                0,
                "Broke",
                (),
                (ValueError, error, error.__traceback__),
            )
        line = json.loads(AsJson().format(record))
        self.assertEqual((line["error"], line["level"]), ("ValueError", "error"))
        self.assertIn("test_accounts.py", line["where"][-1])
        self.assertNotIn("kitchen", json.dumps(line))
