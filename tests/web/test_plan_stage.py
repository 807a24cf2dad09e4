"""The Plan: procedures with holds that hold, parts and money, dates, visits, the office."""

import threading
from datetime import date, timedelta

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from django.utils import timezone
from icalendar import Calendar

from justloop.log.models import LoggedReading, SlotNote
from justloop.planning.models import Feed, JobDate, LookedAt, OwnForm, Price, Remark, TickedStep
from justloop.standin.office import Desk, Office
from returnpath.rules import pairs
from tests.core.test_findings import example

from .people import flat, job_of, person, printed
from .test_log_work import LogCase, picture

FRIDAY = date(2026, 11, 27)


class PlanCase(LogCase):
    def plan(self, **query):
        return flat(self.client.get(f"{self.at}/plan", query).content)


class Works(PlanCase):
    def setUp(self):
        super().setUp()
        self.send("work/begin", {"form": "bond-cure", "subject": "p6"})
        self.work = self.job.works.get()

    def tick(self, step, **more):
        answer = self.send(f"work/{self.work.pk}/tick", {"step": step} | more)
        return flat(self.client.get(answer["Location"]).content)

    def ticked(self):
        return list(self.work.ticks.values_list("step", flat=True))

    def prove_dead(self):
        self.tick("told", **{"read-licensed": "1"})
        self.tick("before")
        self.tick("sources", **{"read-dead": "1"})
        self.tick("open", **{"read-aside": "1"})
        self.tick("lock", words="Wren, feeder breaker")
        self.tick("stored")
        self.tick("known-live")
        self.tick("target", value="0.2", **{"read-tester": "1", "read-line-side": "1"})
        self.tick("live-again")

    def test_what_the_findings_ask_for_is_offered_first(self):
        self.work.delete()
        page = self.plan()
        self.assertIn("The findings ask for", page)
        self.assertIn("Move the bond out of</strong>: Loft studio", page)

    def test_steps_hold_in_order_and_cautions_are_read_once_a_day(self):
        self.assertIn("Read first", self.tick("told"))
        self.assertIn("First: ", self.tick("open", **{"read-aside": "1"}))
        self.assertEqual(self.ticked(), [])
        self.tick("told", **{"read-licensed": "1"})
        self.assertEqual(self.ticked(), ["told"])
        self.assertIn("ticked already", self.tick("told"))
        self.tick("before")
        self.tick("sources", **{"read-dead": "1"})
        self.tick("open", **{"read-aside": "1"})
        self.assertIn("Write on the tag", self.tick("lock"))
        page = self.tick("lock", words="Wren, feeder breaker")
        self.assertIn("wren’s lock is on", page)

    def test_a_reading_holds_until_it_is_what_it_must_be_and_goes_to_the_log(self):
        self.prove_dead()
        self.assertIn("live-again", self.ticked())
        self.tick("bar")
        self.tick("grounds")
        self.assertEqual(self.ticked()[-1], "grounds")
        page = self.tick("egc-through", value="9")
        self.assertIn("It holds: 9 Ω", page)
        self.assertNotIn("egc-through", self.ticked())
        self.assertEqual(LoggedReading.objects.filter(kind="r2", place="f8").count(), 1)
        self.assertIn("Type the figure", self.tick("egc-through", value="lots"))
        for ohm in ("0.05", "0.09", "0.12", "0.16"):
            self.tick("egc-through", value=ohm)
        self.assertIn("egc-through", self.ticked())
        self.assertIn("holds for its photo", self.tick("screw"))
        SlotNote.objects.create(job=self.job, slot="bond:p6", seen_by="Wren")
        page = self.tick("screw")
        self.assertIn("Enter in the job", page)
        self.send(f"work/{self.work.pk}/enter", {"step": "screw"})
        self.assertEqual({p.id: p.bond for p in self.job.latest.site.panels}["p6"], "out")

    def test_volts_where_there_must_be_none_hold(self):
        self.tick("told", **{"read-licensed": "1"})
        for step in ("before", "sources", "open", "lock", "stored", "known-live"):
            self.tick(step, words="Wren", **{"read-dead": "1", "read-aside": "1"})
        read = {"read-tester": "1", "read-line-side": "1"}
        self.assertIn("Something is live", self.tick("target", value="118", **read))
        self.assertEqual(self.ticked()[-1], "known-live")

    def test_nobody_goes_on_past_anothers_proof_or_lock(self):
        self.prove_dead()
        mate = person("robin")
        self.job.crew.add(mate)
        self.client.force_login(mate)
        page = flat(self.client.get(f"{self.at}/work/{self.work.pk}").content)
        self.assertIn("wren proved it dead, not you", page)
        self.assertIn("wren is at", page)
        self.assertIn("Prove it dead again", self.tick("bar"))
        self.client.force_login(self.owner)
        self.tick("bar")
        for step in ("grounds", "egc-through", "screw", "ng-open", "land"):
            TickedStep.objects.create(work=self.work, step=step, who=self.owner)
        self.client.force_login(mate)
        page = self.tick("energize", **{"read-aside": "1"})
        self.assertIn("wren’s lock is on", page)
        self.client.force_login(self.owner)
        self.assertIn("needs signal", str(self.send(
            f"work/{self.work.pk}/tick", {"step": "energize"}, HTTP_X_QUEUED="1").json()
        ).replace("with signal", "needs signal"))  # fmt: skip
        self.tick("energize", **{"read-aside": "1"})
        self.assertIn("energize", self.ticked())

    def test_a_proof_of_dead_expires_when_one_was_away(self):
        self.prove_dead()
        earlier = timezone.now() - timedelta(minutes=50)
        self.work.ticks.update(at=earlier)
        LookedAt.objects.update(at=earlier)
        page = flat(self.client.get(f"{self.at}/work/{self.work.pk}").content)
        self.assertIn("you were away", page)
        self.assertIn("to be proven again", page)

    def test_sent_twice_from_a_queue_it_is_ticked_once(self):
        entry = {"step": "told", "read-licensed": "1",
                 "client_id": "6f1c4c2e-6b0b-4c39-8a5c-d0d3a7e6c001"}  # fmt: skip
        for _ in range(2):
            answer = self.send(f"work/{self.work.pk}/tick", entry, HTTP_X_QUEUED="1")
            self.assertEqual(answer.status_code, 200)
        self.assertEqual(self.ticked(), ["told"])
        answer = self.send(f"work/{self.work.pk}/tick", {"step": "lock"}, HTTP_X_QUEUED="1")
        self.assertEqual(answer.status_code, 422)

    def test_the_last_tick_back_and_a_part_that_is_gone(self):
        self.tick("told", **{"read-licensed": "1"})
        self.send(f"work/{self.work.pk}/back")
        self.assertEqual(self.ticked(), [])
        self.client.post(f"{self.at}/edit", {"base": 1, "op": "remove", "path": "p6"})
        page = flat(self.client.get(f"{self.at}/work/{self.work.pk}").content)
        self.assertIn("no longer in the job", page)
        self.assertIn("no longer in the job", self.told(
            "work/begin", {"form": "bond-cure", "subject": "p6"}))  # fmt: skip

    def test_a_firms_own_procedure_comes_in_runs_and_goes_out(self):
        text = ("format: 1\nkey: ours\nname: Ours at {panel}\nsteps:\n"
                "  - {key: a, say: 'Look at {panel} <b>', hold: confirm}\n")  # fmt: skip
        page = self.told("procedures", {"file": SimpleUploadedFile("o.yaml", text.encode())})
        self.assertIn("1 steps read in", page)
        self.send("work/begin", {"form": "ours", "subject": "p5"})
        work = self.job.works.get(form="ours")
        page = flat(self.client.get(f"{self.at}/work/{work.pk}").content)
        self.assertIn("Look at Utility room &lt;b&gt;", page)
        self.assertEqual(self.client.get("/procedures/ours.yaml").content.decode(), text)
        for wrong, words in (("key: x", "format"),
                             (text.replace("ours", "bond-cure"), "one of ours"),
                             (text.replace("hold: confirm", "hold: wish"), "hold")):  # fmt: skip
            file = SimpleUploadedFile("o.yaml", wrong.encode())
            self.assertIn(words, self.told("procedures", {"file": file}))
        self.assertEqual(OwnForm.objects.count(), 1)

    def test_a_firms_added_steps_stand_where_they_say(self):
        text = ("format: 1\nkey: ours-too\nname: Added\nadds_to: bond-cure\nsteps:\n"
                "  - {key: photo, after: told, say: 'A picture of {panel} first',"
                " hold: confirm}\n")  # fmt: skip
        self.send("procedures", {"file": SimpleUploadedFile("o.yaml", text.encode())})
        self.tick("told", **{"read-licensed": "1"})
        page = flat(self.client.get(f"{self.at}/work/{self.work.pk}").content)
        self.assertIn('<h2 id="h-own-photo">A picture of Loft studio first', page)
        wrong = text.replace("bond-cure", "nothing")
        page = self.told("procedures", {"file": SimpleUploadedFile("o.yaml", wrong.encode())})
        self.assertIn("none of ours", page)


class ServiceChange(PlanCase):
    def test_the_after_state_is_worked_out_and_tried_on_the_whole_job(self):
        job = job_of(self.owner, example("millrace"), "Millrace")
        page = flat(
            self.client.get(f"/jobs/{job.pk}/plan", {"show": "service", "q": "200"}).content
        )
        for words in ("main 100 A → 200 A", "Service conductors: 4 AWG → 2/0 AWG copper",
                      "Outage about"):  # fmt: skip
            self.assertIn(words, page)
        form = {"stage": "plan", "op": "service-change", "text": "200", "try": "1", "base": "1"}
        shown = self.client.post(f"/jobs/{job.pk}/edit", form, follow=True)
        self.assertContains(shown, "On trial")
        self.assertEqual(job.revisions.count(), 1)
        for odd in ("137", "lots", "-1", "nan"):
            answer = self.client.get(f"/jobs/{job.pk}/plan", {"show": "service", "q": odd})
            self.assertContains(answer, "field-error")


class Parts(PlanCase):
    LIST = ("item,first,second,third,aisle,on truck\n"
            '"10 AWG copper, green or bare",0.5,0.4,,Wire,yes\n'
            "pipe clamp,6,5,4,Earth,\n")  # fmt: skip

    def test_a_price_list_in_and_out_and_what_it_makes_of_the_list(self):
        page = self.told("prices", {"file": SimpleUploadedFile("p.csv", self.LIST.encode())})
        self.assertIn("2 prices read in", page)
        page = self.plan(show="parts")
        for words in ("74 ft", "37.00", "on the truck", "1 spool of 250 ft: 74",
                      "Without price or length", "43.00 · 34.60 · 4.00"):  # fmt: skip
            self.assertIn(words, page)
        text = self.client.get("/prices.csv").content.decode()
        self.assertIn('"10 AWG copper, green or bare",0.5,0.4,,Wire,yes', text)
        self.send("prices", {"file": SimpleUploadedFile("p.csv", text.encode())})
        self.assertEqual(Price.objects.count(), 2)
        out = self.client.get(f"{self.at}/parts.csv").content.decode()
        self.assertIn("Wire,", out)

    def test_protection_two_ways_and_the_list_on_paper(self):
        self.assertNotIn("Protection, two ways", self.plan(show="parts"))
        lacking = pairs.edited(pairs.pair("ground-fault-protection-by-place")[0])
        job = job_of(self.owner, lacking, "Lacking")
        page = flat(self.client.get(f"/jobs/{job.pk}/plan", {"show": "parts"}).content)
        self.assertIn("At the breaker: ", page)
        self.assertIn("At the receptacle: ", page)
        answer, html = printed(self.client, f"{self.at}/parts.pdf")
        self.assertEqual(answer.content[:5], b"%PDF-")
        self.assertIn("10 AWG copper, green or bare", html)

    def test_a_list_that_is_wrong_changes_nothing(self):
        self.send("prices", {"file": SimpleUploadedFile("p.csv", self.LIST.encode())})
        for text, words in (("a,b\n1,2", "column item"), ("item\n", "no price"),
                            ("item,first\nx,lots", "Row 2"), ("\ritem\rx\r,\"", ""),
                            ("item,first\nx,-1", "Row 2"),
                            ("item\nx\nX", "twice"), ("item,colour\nx,red", "colour")):  # fmt: skip
            file = SimpleUploadedFile("p.csv", text.encode())
            self.assertIn(words, self.told("prices", {"file": file}))
        self.assertEqual(Price.objects.count(), 2)


class Dates(PlanCase):
    def date(self, kind, days, **more):
        day = timezone.localdate() + timedelta(days=days)
        return self.told("dates", {"kind": kind, "day": day.isoformat()} | more)

    def test_one_at_risk_says_why_and_one_ticked_does_not(self):
        page = self.date("outage", 5)
        self.assertIn("at risk: there is no permit yet", page)
        self.date("application", -3)
        row = JobDate.objects.get(kind="application")
        self.send("dates", {"n": row.pk, "do": "done"})
        self.date("permit", 9)
        self.assertIn("the permit is only on", self.plan(show="dates"))
        self.send("dates", {"n": row.pk, "do": "drop"})
        self.assertEqual(JobDate.objects.count(), 2)

    def test_what_is_wrong_is_said(self):
        for data, words in (({"kind": "party", "day": "2026-11-30"}, "Choose what"),
                            ({"kind": "permit", "day": "soon"}, "is no date"),
                            ({"kind": "permit", "day": "2026-13-40"}, "is no date"),
                            ({"kind": "permit", "day": "2026-11-30", "who": "robin"}, "crew"),
                            ({"n": "999", "do": "done"}, "taken away")):  # fmt: skip
            self.assertIn(words, self.told("dates", data))
        self.assertEqual(JobDate.objects.count(), 0)

    def test_one_person_at_two_jobs_is_seen_on_the_jobs_page(self):
        other = job_of(self.owner, name="Other")
        for job in (self.job, other):
            JobDate.objects.create(job=job, kind="rough", who=self.owner,
                                   day=timezone.localdate() + timedelta(days=2))  # fmt: skip
        page = flat(self.client.get("/").content)
        self.assertIn("This week", page)
        self.assertIn("wren is wanted at", page)

    def test_calendars_out_in_and_by_a_private_address(self):
        self.date("permit", 3, note="P-7")
        body = self.client.get(f"{self.at}/dates.ics").content
        event = Calendar.from_ical(body).walk("VEVENT")[0]
        self.assertIn("permit", str(event["summary"]))
        other = job_of(self.owner, name="Other")
        for _ in range(2):
            file = SimpleUploadedFile("d.ics", body)
            self.client.post(f"/jobs/{other.pk}/dates/file", {"file": file})
        self.assertEqual(other.dates.get().note, "P-7")
        broken = body.replace(b"DTSTART;VALUE=DATE:20", b"DTSTART:T")
        for wrong in (
            b"",
            b"hello",
            broken,
            b"BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART:9\r\nEND:V",
        ):
            self.assertNotEqual(broken, body)
            file = SimpleUploadedFile("d.ics", wrong or b" ")
            self.client.post(f"{self.at}/dates/file", {"file": file})
        self.assertEqual(self.job.dates.count(), 1)
        page = self.told("dates/feed", {"of": "job"})
        address = page.split("shown once: ")[1].split(" ")[0].split("<")[0]
        path = address.split("testserver")[1]
        secret = path.split("/")[-1].removesuffix(".ics")
        self.assertNotIn(secret, Feed.objects.get().secret)
        self.client.logout()
        answer = self.client.get(path)
        self.assertEqual(answer["Content-Type"], "text/calendar; charset=utf-8")
        self.assertContains(answer, "P-7")
        self.assertEqual(self.client.get("/calendar/guess.ics").status_code, 404)
        self.client.force_login(self.owner)
        self.send("dates/feed", {"do": "revoke"})
        self.assertEqual(self.client.get(path).status_code, 404)


class Visits(PlanCase):
    def setUp(self):
        super().setUp()
        self.send("visits/begin", {"kind": "rough", "day": "2026-11-30", "inspector": "Desk 2"})
        self.visit = self.job.visits.get()

    def do(self, do, **more):
        answer = self.send(f"visits/{self.visit.pk}/do", {"do": do} | more)
        return flat(self.client.get(answer["Location"]).content)

    def test_before_during_and_after(self):
        page = flat(self.client.get(f"{self.at}/visits/{self.visit.pk}").content)
        self.assertIn("slots before cover are empty", page)
        self.assertIn("Type what was said", self.do("remark", rests_on="rule"))
        self.assertIn("Say what it rests on", self.do("remark", text="x", rests_on="mood"))
        page = self.do("remark", text="Bond screw in", rests_on="rule", where="250.24", place="p6",
                       finding="bond-downstream:p6")  # fmt: skip
        self.assertIn("Rests on a rule: 250.24", page)
        self.assertIn("Remarks are still open", self.do("passed"))
        row = Remark.objects.get()
        self.assertIn("“lots” is no number", self.do("mended", n=row.pk, hours="lots"))
        self.assertIn("Bond screw in", self.page())  # the record lacks its mending
        self.send("readings/add", {"text": "loft studio n-g 0.1"})
        photo = SimpleUploadedFile("a.jpg", picture(), "image/jpeg")
        page = self.do("mended", n=row.pk, hours="1.5", days="2", parts="a bar", photo=photo)
        self.assertIn("Read there: 0.1 V", page)
        self.assertIn("small.jpg", page)
        self.assertIn("1.5 h, 2 days of rework", page)
        page = self.do("passed")
        self.assertIn("It passed, and this still stands", page)
        self.assertIn("Rework so far: 1.5 h", self.plan(show="visits"))

    def test_disputed_carried_and_made_local_practice(self):
        self.do("remark", text="Two rods everywhere", rests_on="local", where="the office")
        row = Remark.objects.get()
        self.assertIn("Write the text", self.do("dispute", n=row.pk))
        self.do("dispute", n=row.pk, text="250.53: one where it proves 25 ohms")
        self.do("later", n=row.pk)
        self.do("practice", n=row.pk)
        asked = [r.text for r in self.job.latest.site.practice.requirements]
        self.assertEqual(asked, ["Two rods everywhere"])
        self.assertIn("stands in the local practice already", self.do("practice", n=row.pk))
        self.send("visits/begin", {"kind": "final", "day": "2026-12-10"})
        final = self.job.visits.get(kind="final")
        page = flat(self.client.get(f"{self.at}/visits/{final.pk}").content)
        self.assertIn("Left from the rough-in: Two rods everywhere", page)
        self.assertIn("Asked here before: Two rods everywhere", page)


class FromTheOffice(PlanCase):
    def office(self, **moods):
        desk = Desk(today=lambda: FRIDAY, **moods)
        office = Office(desk, 0)
        threading.Thread(target=office.serve_forever, daemon=True).start()
        self.addCleanup(office.server_close)
        self.addCleanup(office.shutdown)
        return override_settings(OFFICE=f"http://127.0.0.1:{office.server_address[1]}")

    def test_from_the_application_to_a_visit_that_fails_and_one_that_passes(self):
        with self.office():
            self.assertIn("apply first", self.told("office", {"do": "outage"}))
            self.assertIn("Permit P-101", self.told("office", {"do": "apply"}))
            self.assertEqual(self.job.dates.get(kind="permit").note, "P-101")
            self.send("visits/begin", {"kind": "rough", "day": "2026-11-30"})
            visit = self.job.visits.get()
            page = self.told("office", {"do": "result", "visit": visit.pk})
            self.assertIn("Failed, 3 remarks", page)
            self.assertEqual(set(visit.remarks.values_list("rests_on", flat=True)),
                             {"rule", "local", "manufacturer"})  # fmt: skip
            self.assertIn("Passed, 0", self.told("office", {"do": "result", "visit": visit.pk}))

    def test_its_moods_are_said_and_nothing_is_lost(self):
        with self.office(closed=True):
            self.assertIn("Closed on Fridays", self.told("office", {"do": "apply"}))
        with self.office(loses=True):
            self.assertIn("cannot be found", self.told("office", {"do": "apply"}))
            self.assertIn("Permit", self.told("office", {"do": "apply"}))
        with self.office(farm=True):
            self.assertIn("dwelling or a farm", self.told("office", {"do": "apply"}))
            self.assertIn("Permit", self.told("office", {"do": "apply", "class": "farm"}))
        with override_settings(OFFICE="http://127.0.0.1:1"):
            self.assertIn("No office answers", self.told("office", {"do": "apply"}))
