"""Locks of a place: two people, two procedures, one panel; nobody is switched on to."""

import uuid
from datetime import timedelta

from django.test import Client
from django.utils import timezone

from justloop.jobs import locks, revisions
from justloop.jobs.models import Lock, OffNow
from justloop.planning.models import TickedStep, Work
from justloop.signing.sealing import _plan
from returnpath.site import Remove, Set, read_place

from .people import flat, person
from .test_log_work import LogCase

READ = {f"read-{k}": "1" for k in ("licensed", "dead", "aside", "tester", "line-side", "seal")}
PROOF = ("known-live", "target", "live-again")


class LockCase(LogCase):
    """wren works; robin is on the job too. Each has a browser of their own."""

    def setUp(self):
        super().setUp()
        self.mate = person("robin")
        self.job.crew.add(self.mate)
        self.wren, self.robin = self.client, Client()
        self.robin.force_login(self.mate)

    def begin(self, form, subject, who=None) -> Work:
        (who or self.wren).post(f"{self.at}/work/begin", {"form": form, "subject": subject})
        return self.job.works.order_by("-pk").first()

    def tick(self, work, step, who=None, value="0.2", **more) -> str:
        """One step; what the page says then."""
        who = who or self.wren
        sent = {"step": step, "words": "my tag", "value": value} | READ | more
        answer = who.post(f"{self.at}/work/{work.pk}/tick", sent)
        return flat(who.get(answer["Location"]).content)

    def until(self, work, last, who=None):
        """Every step up to ``last``; photographs and the figures of readings are put in."""
        from justloop.planning.work import made

        for step in made(work, self.job.latest.site).steps:
            if not work.ticks.filter(step=step.key).exists():
                self.tick(work, step.key, who)
            if step.key == last:
                return

    def page(self, path="plan", who=None):
        return flat((who or self.wren).get(f"{self.at}/{path}").content)

    def locked(self, form="bond-cure", subject="p6", who=None) -> Work:
        work = self.begin(form, subject, who)
        self.until(work, "lock", who)
        return work

    def finish(self, work, *steps):
        """Steps between, as if they had been done: the one that counts is next."""
        for step in steps:
            TickedStep.objects.create(work=work, step=step, who=self.owner)


class TwoProcedures(LockCase):
    def test_a_second_procedure_does_not_energize_a_panel_with_anothers_lock(self):
        first = self.locked()
        second = self.begin("panel-cut-in", "p6", self.robin)
        self.assertIn("wren’s lock is on the breaker of Studio feeder",
                      self.page(f"work/{second.pk}", self.robin))  # fmt: skip
        self.until(second, "live-again", self.robin)
        for one in locks.on_now(self.job):
            if one.name == "robin":
                self.robin.post(f"{self.at}/locks/{one.pk}/off")
        mine = [o for o in locks.on_now(self.job) if o.name == "robin"]
        self.assertEqual(mine, [])
        steps = ("sides", "egcs", "neutrals", "hots", "capped", "torque", "covers")
        for step in steps:
            TickedStep.objects.create(work=second, step=step, who=self.mate)
        page = self.tick(second, "energize", self.robin)
        self.assertIn("Loft studio stays dead", page)
        self.assertFalse(second.ticks.filter(step="energize").exists())
        self.assertIn("wren’s lock is on", self.page(f"work/{first.pk}"))

    def test_a_lock_of_ones_own_in_another_procedure_forbids_too(self):
        self.locked()
        second = self.begin("panel-cut-in", "p6")
        self.finish(second, *(k for k in ("told", "sources", "open", "lock", "stored", *PROOF,
                                          "sides", "egcs", "neutrals", "hots", "capped", "torque",
                                          "covers")))  # fmt: skip
        self.assertIn("stays dead", self.tick(second, "energize"))

    def test_what_is_locked_further_down_is_not_in_the_way_but_its_proof_ends(self):
        work = self.locked()
        self.until(work, "live-again")
        self.assertIsNotNone(Lock.objects.get(point="f8").proved)
        main = self.begin("panel-cut-in", "p5", self.robin)
        before = ("told", "sources", "open", "lock", "lock-also-a33", "stored", *PROOF)
        after = ("sides", "egcs", "neutrals", "hots", "capped", "torque", "covers")
        for step in before + after:
            TickedStep.objects.create(work=main, step=step, who=self.mate)
        self.tick(main, "energize", self.robin)
        self.assertTrue(main.ticks.filter(step="energize").exists())
        self.assertIn("robin switched on Utility room", Lock.objects.get(point="f8").ended)
        page = self.page(f"work/{work.pk}")
        self.assertIn("Prove it dead again", page)
        self.assertIn("robin switched on Utility room ahead of it", page)
        self.assertIn("Prove it dead again", self.tick(work, "bar"))
        for step in PROOF:
            self.tick(work, step)
        self.tick(work, "bar")
        self.assertTrue(work.ticks.filter(step="bar").exists())

    def test_every_page_of_the_job_shows_the_lock_and_what_is_behind_it(self):
        work = self.locked()
        for path in ("plan", "panels", "survey", "service", "prove", "find", "test-sheet",
                     "readings", f"work/{work.pk}", "history"):  # fmt: skip
            page = self.page(path, self.robin)
            self.assertIn("wren’s lock is on the breaker of Studio feeder", page, path)
            self.assertIn("Studio outlets", page, path)
        token = page.split("locks?seen=", 1)[1].split("&", 1)[0]
        self.assertEqual(self.robin.get(f"{self.at}/locks?seen={token}").status_code, 204)
        self.assertContains(self.robin.get(f"{self.at}/locks?seen=none"), "wren’s lock is on")

    def test_a_partner_of_a_shared_neutral_is_not_switched_on(self):
        work = self.begin("range-dryer", "c25")
        self.tick(work, "unplugged")
        self.assertEqual(set(Lock.objects.get().zone), {"c25", "c32"})
        answer = self.robin.post(f"{self.at}/find", {"do": "off", "c": "c32"}, follow=True)
        answer = self.robin.post(f"{self.at}/find", {"do": "on", "c": "c32"})
        self.assertContains(answer, "Not switched on", status_code=422)
        self.assertTrue(OffNow.objects.filter(circuit="c32", until=None).exists())


class OneStep(LockCase):
    def test_two_who_lock_one_step_both_have_a_lock_and_each_is_told_of_the_other(self):
        work = self.locked()
        self.assertIn("wren has one on it too", self.tick(work, "lock", self.robin))
        self.assertEqual([o.name for o in locks.on_now(self.job)], ["wren", "robin"])
        self.assertEqual(work.ticks.filter(step="lock").count(), 1)
        self.assertIn("Your lock is on", self.tick(work, "lock", self.robin))
        self.assertEqual(Lock.objects.count(), 2)

    def test_the_second_press_of_another_step_is_told_who_ticked_it(self):
        work = self.locked()
        self.tick(work, "stored")
        self.assertIn("ticked already, by wren", self.tick(work, "stored", self.robin))

    def test_nobody_takes_back_anothers_tick_and_taking_back_never_unlocks(self):
        work = self.locked()
        self.tick(work, "stored", self.robin)
        self.wren.post(f"{self.at}/work/{work.pk}/back")
        self.assertTrue(work.ticks.filter(step="stored").exists())
        self.robin.post(f"{self.at}/work/{work.pk}/back")
        self.assertFalse(work.ticks.filter(step="stored").exists())
        self.wren.post(f"{self.at}/work/{work.pk}/back")
        self.assertFalse(work.ticks.filter(step="lock").exists())
        self.assertEqual([o.name for o in locks.on_now(self.job)], ["wren"])

    def test_a_proof_rests_on_ones_own_lock(self):
        work = self.locked()
        self.tick(work, "stored", self.robin)
        for step in PROOF[:2]:
            self.tick(work, step, self.robin)
        self.assertIn("Put your own lock on first", self.tick(work, "live-again", self.robin))
        self.robin.post(f"{self.at}/work/{work.pk}/lock", {"words": "robin, feeder"})
        self.tick(work, "live-again", self.robin)
        self.assertTrue(work.ticks.filter(step="live-again").exists())
        self.assertIsNone(Lock.objects.get(name="wren").proved)

    def test_no_proof_of_dead_while_a_source_is_not_isolated(self):
        work = self.begin("panel-cut-in", "p5")
        self.until(work, "lock-also-a33")
        array = Lock.objects.get(point="a33")
        self.wren.post(f"{self.at}/locks/{array.pk}/off")
        for step in ("stored", *PROOF[:2]):
            self.tick(work, step)
        page = self.tick(work, "live-again")
        self.assertIn("Still live: Roof array", page)
        self.assertFalse(work.ticks.filter(step="live-again").exists())


class WhoTakesItOff(LockCase):
    def test_only_its_owner(self):
        self.locked()
        lock = Lock.objects.get()
        self.robin.post(f"{self.at}/locks/{lock.pk}/off")
        self.assertIsNone(Lock.objects.get().off)
        self.wren.post(f"{self.at}/locks/{lock.pk}/off")
        self.assertIsNotNone(Lock.objects.get().off)

    def test_an_administrator_with_four_things_said_and_nobody_else(self):
        self.locked()
        lock = Lock.objects.get()
        said = {"off_called": "called twice, no answer", "off_gone": "van gone, seen leaving",
                "off_told": "the office calls him at six", "off_checked": "Hazel",
                "lock": str(lock.pk)}  # fmt: skip
        self.assertEqual(self.robin.post("/firm/locks", said).status_code, 403)
        boss = person("boss")
        boss.is_staff = True
        boss.save()
        admin = Client()
        admin.force_login(boss)
        for field in locks.FOR_ANOTHER:
            for empty in ("", "   "):
                self.assertContains(admin.post("/firm/locks", said | {field: empty}),
                                    "Not taken off")  # fmt: skip
        for same in ("boss", "wren"):
            self.assertContains(admin.post("/firm/locks", said | {"off_checked": same}),
                                "Not taken off")  # fmt: skip
        self.assertIsNone(Lock.objects.get().off)
        admin.post("/firm/locks", said)
        gone = Lock.objects.get()
        self.assertEqual((gone.off_by, gone.off_checked), ("boss", "Hazel"))
        self.assertContains(admin.get("/firm/locks"), "No lock is on")

    def test_with_a_lock_on_nothing_is_put_away_signed_archived_or_deleted(self):
        work = self.locked()
        self.robin.post(f"{self.at}/work/{work.pk}/back", {"do": "away"})
        self.wren.post(f"{self.at}/work/{work.pk}/back", {"do": "away"})
        self.assertIsNone(Work.objects.get(pk=work.pk).ended)
        for shelf in ("archive", "bin"):
            self.wren.post(f"{self.at}/put-away", {"shelf": shelf})
            self.job.refresh_from_db()
            self.assertEqual(self.job.shelf, "")
        latest = str(self.job.latest.number)
        page = self.told(
            "sign-off",
            {"stage": "sign", "base": latest, "licence": "E-1", "reason": "because " * 4},
        )
        self.assertIn("Not signed: a lock is on: wren", page)
        self.assertFalse(self.job.signed.exists())

    def test_nobody_leaves_a_job_with_a_lock_on(self):
        self.locked(who=self.robin)
        for do in ("remove", "reader"):
            self.wren.post(f"{self.at}/crew", {"name": "robin", "do": do})
            self.assertTrue(self.job.crew.filter(pk=self.mate.pk).exists(), do)

    def test_a_locked_point_is_not_removed_or_renamed_on_any_way_in(self):
        before = self.job.latest.number
        revisions.save_edits(self.job, self.mate, before, [Set(path="f8.name", value="Feeder L")])
        self.locked()
        number = self.job.latest.number
        tries = (
            lambda: revisions.save_edits(self.job, self.mate, number, [Remove(id="f8")]),
            lambda: revisions.save_edits(self.job, self.mate, number,
                                         [Set(path="f8.name", value="Other")]),
            lambda: revisions.undo(self.job, self.mate),
            lambda: revisions.go_on_from(self.job, self.mate,
                                         self.job.revisions.get(number=before)),
        )  # fmt: skip
        for n, attempt in enumerate(tries):
            with self.assertRaisesRegex(ValueError, "lock is on", msg=n):
                attempt()
        self.assertEqual(self.job.latest.number, number)
        page = self.told("undo", {"base": str(number)})
        self.assertIn("Not renamed", page)

    def test_a_part_that_is_removed_in_the_same_moment_is_not_locked(self):
        revisions.save_edits(self.job, self.mate, self.job.latest.number, [Remove(id="f8")])
        with self.assertRaisesRegex(ValueError, "no longer in the job"):
            locks.put_on(self.job, self.owner, ["f8"], "my tag")
        self.assertFalse(Lock.objects.exists())

    def test_the_sign_page_says_that_a_lock_is_on_before_anybody_presses(self):
        self.locked()
        page = self.page("sign")
        self.assertIn("Not signed: a lock is on: wren on the breaker of Studio feeder", page)
        self.assertIn('<button class="act" disabled>Sign revision', page)
        locks.lift(locks.on_now(self.job), "wren")
        self.assertNotIn("a lock is on", self.page("sign"))
        self.assertEqual([(o["point"], o["off_by"]) for o in _plan(self.job)["locks"]],
                         [("f8", "wren")])  # fmt: skip

    def test_a_change_of_what_is_behind_a_lock_ends_its_proof(self):
        work = self.locked()
        self.until(work, "live-again")
        number = self.job.latest.number
        revisions.save_edits(self.job, self.mate, number, [Set(path="c17.length_ft", value=50)])
        self.assertEqual(Lock.objects.get().ended, "")
        added = read_place(self.job.latest.site, "Attic fan 15A 14/2 NM 40ft", "p6").edits
        revisions.save_edits(self.job, self.owner, number + 1, added)
        self.assertIn("changed what is behind it", Lock.objects.get().ended)

    def test_a_copy_of_the_job_carries_no_lock_and_a_restore_ends_every_proof(self):
        work = self.locked()
        self.until(work, "live-again")
        self.wren.post(f"{self.at}/copy")
        self.assertEqual(Lock.objects.exclude(job=self.job).count(), 0)
        self.assertEqual(locks.end_all_proofs("restored"), 1)
        self.assertIn("Prove it dead again: restored", self.tick(work, "bar"))


class Proof(LockCase):
    def test_once_over_a_look_or_one_step_does_not_revive_it(self):
        work = self.locked()
        self.until(work, "live-again")
        then = timezone.now() - timedelta(minutes=45)
        work.ticks.update(at=then)
        work.looks.update(at=then)
        Lock.objects.update(at=then, proved=then)
        for _ in range(2):
            self.assertIn("you were away", self.page(f"work/{work.pk}"))
        self.assertIn("Prove it dead again", self.tick(work, "bar"))
        self.tick(work, "known-live")
        self.assertIn("Prove it dead again", self.tick(work, "bar"))
        self.tick(work, "target")
        self.assertIn("Prove it dead again", self.tick(work, "bar"))
        self.tick(work, "live-again")
        self.tick(work, "bar")
        self.assertTrue(work.ticks.filter(step="bar").exists())

    def test_a_lock_put_on_anew_is_proved_anew(self):
        work = self.locked()
        self.until(work, "live-again")
        self.wren.post(f"{self.at}/locks/{Lock.objects.get().pk}/off")
        self.assertIn("your own lock is not on", self.tick(work, "bar"))
        self.wren.post(f"{self.at}/work/{work.pk}/lock", {"words": "wren, feeder"})
        self.assertIn("dead is not proven at your lock", self.tick(work, "bar"))
        for step in PROOF:
            self.tick(work, step)
        self.tick(work, "bar")
        self.assertTrue(work.ticks.filter(step="bar").exists())

    def test_two_people_each_keep_their_own_proof(self):
        work = self.locked()
        self.until(work, "live-again")
        self.robin.post(f"{self.at}/work/{work.pk}/lock", {"words": "robin, feeder"})
        self.assertIn("wren proved it dead, not you", self.tick(work, "bar", self.robin))
        for step in PROOF:
            self.tick(work, step, self.robin)
        self.tick(work, "bar")  # wren goes on with her own
        self.tick(work, "grounds", self.robin)
        self.assertEqual(work.ticks.filter(step__in=("bar", "grounds")).count(), 2)


class FromAQueue(LockCase):
    def queued(self, work, step, when=None, phone=None, header="1", **more):
        sent = {"step": step, "words": "my tag", "value": "0.2", "client_id": str(uuid.uuid4())}
        sent |= READ | more
        if when is not None:
            sent["at_time"] = when.isoformat()
        if phone is not None:
            sent["now_time"] = phone.isoformat()
        answer = self.wren.post(f"{self.at}/work/{work.pk}/tick", sent, HTTP_X_QUEUED=header)
        return answer.json()

    def test_a_proof_out_of_a_queue_proves_nothing_for_what_is_done_now(self):
        work = self.locked()
        then = timezone.now() - timedelta(minutes=5)
        for n, step in enumerate(("stored", *PROOF)):
            self.queued(work, step, then + timedelta(seconds=n))
        self.assertTrue(work.ticks.filter(step="live-again").exists())
        self.assertIn("Prove it dead again: the proof waited", self.tick(work, "bar"))
        self.queued(work, "bar", then + timedelta(seconds=9))  # done then, after it
        self.assertTrue(work.ticks.filter(step="bar").exists())

    def test_sent_in_the_moment_it_is_pressed_it_is_no_queue(self):
        work = self.locked()
        now = timezone.now()
        for step in ("stored", *PROOF):
            self.queued(work, step, now, now, header="now")
        self.tick(work, "bar")
        self.assertTrue(work.ticks.filter(step="bar").exists())

    def test_a_phones_clock_is_corrected_and_said(self):
        work = self.locked()
        ahead = timezone.now() + timedelta(minutes=40)
        told = self.queued(work, "stored", ahead - timedelta(minutes=10), ahead)
        self.assertIn("clock is 40 min fast", told["words"])
        kept = work.ticks.get(step="stored").at
        self.assertAlmostEqual((timezone.now() - kept).total_seconds(), 600, delta=20)

    def test_an_old_proof_is_not_made_young_by_a_phones_clock(self):
        work = self.locked()
        self.until(work, "live-again")
        work.ticks.update(at=timezone.now() - timedelta(minutes=45))
        work.looks.update(at=timezone.now() - timedelta(minutes=45))
        back = timezone.now() - timedelta(minutes=44)
        told = self.queued(work, "bar", back, back, header="now")
        self.assertIn("you were away", told["problem"])

    def test_the_same_id_with_other_content_is_refused_aloud(self):
        work = self.begin("bond-cure", "p6")
        id = str(uuid.uuid4())
        self.queued(work, "told", client_id=id)
        self.assertEqual(self.queued(work, "told", client_id=id)["words"], "Ticked.")
        self.assertIn("other content", self.queued(work, "before", client_id=id)["problem"])

    def test_a_lock_out_of_a_queue_says_that_nobody_saw_it(self):
        work = self.begin("bond-cure", "p6")
        self.until(work, "open")
        told = self.queued(work, "lock", timezone.now() - timedelta(minutes=9))
        self.assertIn("nobody else saw it", told["words"])
        self.assertIn("seen by others only since it was sent", self.page("panels", self.robin))


class FindingCircuits(LockCase):
    def find(self, who, **sent):
        return who.post(f"{self.at}/find", sent)

    def test_one_breaker_of_a_panel_at_a_time_unless_both_are_said(self):
        self.find(self.wren, do="off", c="c18")
        answer = self.find(self.robin, do="off", c="c19")
        self.assertContains(answer, "wren has “Hall bath” off since", status_code=422)
        self.assertFalse(OffNow.objects.filter(circuit="c19").exists())
        self.assertEqual(self.find(self.robin, do="off", c="c26").status_code, 302)  # other panel
        self.find(self.robin, do="off", c="c19", both="1")
        page = self.page("find")
        for name in ("Hall bath", "Dishwasher", "Studio outlets"):
            self.assertIn(f"<p>{name}, ", page)

    def test_what_went_dead_is_booked_with_the_breaker_that_was_off_when_it_was_seen(self):
        self.find(self.wren, do="off", c="c18")
        answer = self.find(self.robin, do="found", c="c19", name="Kitchen sink", place="kitchen")
        self.assertContains(answer, "“Hall bath” was off and not “Dishwasher”", status_code=422)
        seen = timezone.now()
        self.find(self.wren, do="on", c="c18")
        self.find(self.wren, do="off", c="c19")
        late = {"do": "found", "c": "c19", "name": "Bath fan", "place": "bathroom",
                "at_time": seen.isoformat()}  # fmt: skip
        answer = self.robin.post(f"{self.at}/find", late, HTTP_X_WAITED="1")
        self.assertIn("“Hall bath” was off", answer.json()["sentence"])
        answer = self.robin.post(f"{self.at}/find", late | {"c": "c18"}, HTTP_X_WAITED="1")
        self.assertEqual(answer.status_code, 200, answer.content)

    def test_nothing_behind_a_lock_is_switched_on(self):
        self.locked()
        self.find(self.robin, do="off", c="c26")
        answer = self.find(self.robin, do="on", c="c26")
        self.assertContains(answer, "Studio outlets stays dead", status_code=422)
        answer = self.find(self.robin, do="found", c="c26", name="Loft desk", place="office")
        page = flat(self.robin.get(answer["Location"]).content)
        self.assertIn("Kept. Not switched on", page)
        self.assertTrue(OffNow.objects.filter(circuit="c26", until=None).exists())
