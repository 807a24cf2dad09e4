"""Benchmarks on the demo data, in a folder of their own."""

import gzip
import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
CHANGES = 200


def prepare() -> None:
    """A fresh demo in a temporary folder."""
    sys.path.insert(0, str(ROOT / "src"))
    os.environ["JUSTLOOP_DATA"] = tempfile.mkdtemp(prefix="justloop-bench-")
    os.environ["JUSTLOOP_DEMO"] = "1"
    os.environ["DJANGO_SETTINGS_MODULE"] = "justloop.settings"
    import django
    from django.core.management import call_command

    django.setup()
    call_command("migrate", verbosity=0)
    call_command("collectstatic", verbosity=0, interactive=False)
    call_command("demo", verbosity=0)


def client_and_job():
    """A signed-in client and Pebblewick."""
    from django.contrib.auth import get_user_model
    from django.test import Client

    from justloop.jobs.models import Job

    client = Client(SERVER_NAME="127.0.0.1")
    client.force_login(get_user_model().objects.get(username="demo"))
    return client, Job.objects.get(name__startswith="Pebblewick")


def bench_changes(client, job) -> None:
    """Server time of one change: endpoint in, whole swap out, every one a new content."""
    circuit = job.latest.site.circuits[0].id
    times = []
    for index in range(CHANGES + 5):
        data = {
            "path": f"{circuit}.length_ft",
            "text": f"{40 + index * 0.5:g} ft",
            "base": job.latest.number,
            "at": circuit,
        }
        started = time.perf_counter()
        answer = client.post(f"/jobs/{job.pk}/edit", data, headers={"HX-Request": "true"})
        times.append((time.perf_counter() - started) * 1000)
        assert answer.status_code == 200 and b"error" not in answer.content
    times = sorted(times[5:])
    circuits = len(job.latest.site.circuits)
    print(
        f"one change, {circuits} circuits, {CHANGES} times: median"
        f" {statistics.median(times):.0f} ms, p95 {times[int(0.95 * CHANGES)]:.0f} ms"
        " (asked: under 100)"
    )


def bench_first_load(client, job) -> None:
    """Bytes of the first load, compressed as they are sent."""
    import re

    html = client.get(f"/jobs/{job.pk}/service").content
    total = len(html)
    static = Path(os.environ["JUSTLOOP_DATA"]) / "static"
    seen = set(re.findall(r'(?:src|href)="/static/([^"]+)"', html.decode()))
    for css in [s for s in seen if s.endswith(".css")]:
        base = static / css
        for url in re.findall(r'url\("?([^")]+)"?\)', base.read_text("utf-8")):
            if not url.startswith("data:"):
                seen.add(str((base.parent / url).resolve().relative_to(static.resolve())))
    for name in seen:
        body = (static / name).read_bytes()
        total += len(body if name.endswith("woff2") else gzip.compress(body))
    print(f"first load: {total / 1000:.0f} kB with {len(seen)} files (asked: under 600)")


def bench_import() -> None:
    """How long the core takes to import, SciPy not yet."""
    code = "import time;t=time.perf_counter();import returnpath.study;print(time.perf_counter()-t)"
    environment = os.environ | {"PYTHONPATH": str(ROOT / "src")}
    best = min(
        float(subprocess.check_output([sys.executable, "-c", code], env=environment))
        for _ in range(5)
    )
    print(f"import returnpath.study: {best:.2f} s")


if __name__ == "__main__":
    prepare()
    everyone, pebblewick = client_and_job()
    bench_first_load(everyone, pebblewick)
    bench_changes(everyone, pebblewick)
    bench_import()
