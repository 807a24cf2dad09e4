"""Memory over thousands of edits: what is kept must not grow with them."""

import os
from pathlib import Path

from .inside import arguments, finish, prepare

WARM = 60
MOST_MB = 30.0


def resident_mb() -> float:
    """The memory of this process."""
    pages = int(Path("/proc/self/statm").read_text("utf-8").split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


def main() -> None:
    """``count`` edits of one job, each with its page."""
    count, _ = arguments()
    owner, job = prepare()
    from django.test import Client

    client = Client()
    client.force_login(owner)
    circuit = job.latest.site.circuits[0].id
    wrong: list[str] = []
    start = 0.0
    for number in range(WARM + count):
        if number == WARM:
            start = resident_mb()
        form = {"op": "set", "path": f"{circuit}.length_ft", "text": f"{30 + number % 97 * 0.5} ft",
                "base": job.latest.number, "stage": "prove", "at": circuit}  # fmt: skip
        answer = client.post(f"/jobs/{job.pk}/edit", form, headers={"HX-Request": "true"})
        if answer.status_code != 200:
            wrong.append(f"edit {number}: {answer.status_code}")
    grown = resident_mb() - start
    if grown > MOST_MB:
        wrong.append(f"{grown:.1f} MB more after {count} edits; {MOST_MB:g} are the most")
    finish(wrong, f"{count} edits: {start:.0f} MB, {grown:+.1f} MB")


if __name__ == "__main__":
    main()
