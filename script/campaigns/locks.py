"""Two people over two procedures on one panel: one puts a lock on while the other switches on, in
the same moment; and both switch on. Nothing is energized against a lock."""

import random
import threading

from .inside import arguments, finish, prepare

PROCEDURES = (("panel-cut-in", "energize"), ("sub-panel", "energize"), ("bond-cure", "energize"))
READ = {f"read-{k}": "1" for k in ("licensed", "dead", "aside", "tester", "line-side", "seal")}


def main() -> None:
    """``count`` rounds."""
    count, seed = arguments()
    chance = random.Random(seed)
    owner, job = prepare()
    from django.contrib.auth import get_user_model
    from django.db import connections
    from django.test import Client
    from django.utils import timezone

    from justloop.jobs import locks
    from justloop.jobs.models import Lock
    from justloop.planning.models import CautionRead, TickedStep, Work
    from justloop.planning.work import made
    from returnpath.site.isolation import LivePaths

    mate = get_user_model().objects.create_user("mate", password="a-long-password")
    job.crew.add(mate)
    panel = next(p.id for p in job.latest.site.panels if p.name == "Loft studio")
    site = job.latest.site
    for who in (owner, mate):
        for key in READ:
            CautionRead.objects.get_or_create(who=who, key=key[5:], day=timezone.localdate())
    wrong: list[str] = []
    refused = energized = 0

    def work_of(who, form: str, until: str) -> Work:
        work = Work.objects.create(job=job, form=form, subject=panel, title=form, by=who)
        for step in made(work, site).steps:
            if step.key == until:
                return work
            TickedStep.objects.create(work=work, step=step.key, who=who)
        raise AssertionError(until)

    for number in range(count):
        (first, _), (second, on) = chance.sample(PROCEDURES, 2)
        lock, switch = work_of(owner, first, "lock"), work_of(mate, second, on)
        gate = threading.Barrier(2)

        def press(who, work, step, gate=gate):
            client = Client()
            client.force_login(who)
            gate.wait()
            sent = {"step": step, "words": "my tag"} | READ
            client.post(f"/jobs/{job.pk}/work/{work.pk}/tick", sent)
            connections.close_all()

        pair = [(owner, lock, "lock"), (mate, switch, on)]
        if chance.random() < 0.3:  # the lock is on before
            press(*pair[0], gate=threading.Barrier(1))
            pair[0] = (owner, work_of(owner, first, on), on) if chance.random() < 0.5 else pair[0]
        threads = [threading.Thread(target=press, args=one) for one in pair]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        mine = Lock.objects.filter(job=job, off=None)
        for tick in TickedStep.objects.filter(step=on, work__job=job, work__ended=None):
            energized += 1
            before = [one for one in mine if one.at < tick.at]
            reach = LivePaths(site).reach(panel)
            wrong += [f"round {number}: energized against {one}" for one in before
                      if set(one.zone) & reach]  # fmt: skip
        refused += not switch.ticks.filter(step=on).exists()
        if not mine:
            wrong.append(f"round {number}: no lock went on")
        locks.lift(list(mine), "campaign")
        Work.objects.filter(job=job).update(ended=timezone.now())
    finish(wrong, f"{count} rounds, {refused} refused, {energized} energized before a lock")


if __name__ == "__main__":
    main()
