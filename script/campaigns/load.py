"""How long people wait when many work at once: ``script/load``. Figures, not a test.

Ten people on one process over one job of 60 circuits, each with a pause between; the same over
two processes on one file; a sheet printed meanwhile; a list of 5,000 jobs.
"""

import os
import random
import re
import statistics
import subprocess
import sys
import tempfile
import threading
import time

from .__main__ import environment
from .server import Browser, Server

PEOPLE = 10
PAUSE_S = (0.5, 2.5)
EACH = 20  # changes of one person
JOBS = 5_000


def main() -> None:
    """Print the figures."""
    if os.environ.get("JUSTLOOP_LOAD") != "1":
        with tempfile.TemporaryDirectory(prefix="load-") as folder:
            again = [sys.executable, "-m", "script.campaigns.load"]
            subprocess.run(again, env=environment(folder) | {"JUSTLOOP_LOAD": "1"}, check=True)
        return
    from .inside import prepare

    owner, _ = prepare()
    job = _made_job(owner)
    for processes in (1, 2):
        servers = [Server() for _ in range(processes)]
        for server in servers:
            server.start()
        times = _people(servers, job)
        sheet = _sheet(servers[0], job)
        for server in servers:
            server.stop()
        print(f"{PEOPLE} people, {processes} process{'es' * (processes > 1)}:")
        for what, found in times.items():
            ranked = sorted(found)
            p95 = ranked[int(0.95 * (len(ranked) - 1))]
            middle = statistics.median(ranked)
            print(f"  {what:<6} median {middle:.0f} ms, p95 {p95:.0f} ms ({len(ranked)} of them)")
        print(f"  a sheet on paper meanwhile {sheet:.0f} ms")
    _list(owner)


def _made_job(owner):
    from justloop.jobs import revisions
    from justloop.jobs.models import Job
    from script.made_site import made_site

    job = Job.objects.create(name="Sixty circuits", owner=owner)
    revisions.start(job, made_site(), owner, "Made")
    return job


def _people(servers: list[Server], job) -> dict[str, list[float]]:
    """Milliseconds of each view and each change."""
    times: dict[str, list[float]] = {"view": [], "change": []}
    circuits = [c.id for c in job.latest.site.circuits]
    wrong: list[str] = []

    def work(number: int) -> None:
        chance = random.Random(number)
        browser = Browser(servers[number % len(servers)])
        browser.sign_in()
        for step in range(EACH):
            time.sleep(chance.uniform(*PAUSE_S))
            begun = time.perf_counter()
            stage = chance.choice(("survey", "service", "prove", "fix"))
            page = browser.get(f"/jobs/{job.pk}/{stage}")
            times["view"].append(1000 * (time.perf_counter() - begun))
            time.sleep(chance.uniform(*PAUSE_S))
            path = f"{circuits[number]}.length_ft"
            base = re.search(r'name="base"\s+value="(\d+)"', page)
            form = {"op": "set", "path": path, "text": f"{30 + step + number / 8} ft",
                    "base": base[1] if base else "", "stage": "prove",
                    "once": f"{number}-{step}-{len(servers)}"}  # fmt: skip
            begun = time.perf_counter()
            status, _ = browser.post(f"/jobs/{job.pk}/edit", form)
            browser.get(f"/jobs/{job.pk}/prove")
            times["change"].append(1000 * (time.perf_counter() - begun))
            if status not in (302, 303):
                wrong.append(str(status))

    threads = [threading.Thread(target=work, args=(n,)) for n in range(PEOPLE)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    if wrong:
        print(f"  {len(wrong)} changes were not kept at once: {sorted(set(wrong))}")
    return times


def _sheet(server: Server, job) -> float:
    browser = Browser(server)
    browser.sign_in()
    begun = time.perf_counter()
    with browser.opener.open(f"{server.address}/jobs/{job.pk}/sheet.pdf", timeout=120) as answer:
        answer.read()
    return 1000 * (time.perf_counter() - begun)


def _list(owner) -> None:
    from django.test import Client

    from justloop.jobs.models import Job, Revision

    kept = Job.objects.get(name__startswith="Pebble").latest
    many = [
        Job(name=f"House {n}", place=f"Mill Lane {n}", owner=owner, rank=n % 5)
        for n in range(JOBS)
    ]  # fmt: skip
    made = Job.objects.bulk_create(many)
    Revision.objects.bulk_create(
        Revision(job=job, number=1, author=owner, words="Made", document=kept.document,
                 summary=kept.summary) for job in made
    )  # fmt: skip
    client = Client()
    client.force_login(owner)
    for words, query in (("list", {}), ("search", {"q": "house 49"}), ("page 100", {"page": 100})):
        times = []
        for _ in range(12):
            begun = time.perf_counter()
            assert client.get("/", query).status_code == 200
            times.append(1000 * (time.perf_counter() - begun))
        print(f"{JOBS} jobs, {words}: median {statistics.median(times):.0f} ms, "
              f"most {max(times[1:]):.0f} ms")  # fmt: skip


if __name__ == "__main__":
    main()
