"""The disk is full: saving says so, reading goes on, and with room again work goes on."""

import random

from .inside import arguments, finish, prepare

STAGES = ("survey", "service", "buildings", "prove", "fix", "history")


def main() -> None:
    """``count`` tries to save and to read on a database that takes no page more."""
    count, seed = arguments()
    chance = random.Random(seed)
    owner, job = prepare()
    from django.db import connection
    from django.test import Client

    def limited(pragma: str) -> None:
        with connection.cursor() as cursor:
            cursor.execute(pragma)

    client = Client(raise_request_exception=False)
    client.force_login(owner)
    limited("PRAGMA wal_checkpoint(TRUNCATE)")
    limited("PRAGMA max_page_count=1")
    wrong: list[str] = []
    refused = 0
    long = "20A 12/2 NM 85ft " + "pantry " * 9
    for number in range(count):
        before = job.revisions.count()
        form = {"op": "paste", "path": "", "text": "\n".join([long] * 40), "base": before,
                "stage": "survey", "once": f"full-{number}"}  # fmt: skip
        answer = client.post(f"/jobs/{job.pk}/edit", form, headers={"HX-Request": "true"})
        if answer.status_code >= 500 and answer.status_code != 503:
            wrong.append(f"save {number}: {answer.status_code}")
        refused += b"the disk is full" in answer.content
        stage = chance.choice(STAGES)
        page = client.get(f"/jobs/{job.pk}/{stage}")
        if page.status_code != 200:
            wrong.append(f"reading {stage}: {page.status_code}")
    if not refused:
        wrong.append("no save was refused: the disk was not full")
    limited("PRAGMA max_page_count=1073741823")
    before = job.revisions.count()
    path = f"{job.latest.site.panel.id}.name"
    form = {"op": "set", "path": path, "text": "With room", "base": before, "once": "room"}
    client.post(f"/jobs/{job.pk}/edit", form, headers={"HX-Request": "true"})
    if job.revisions.count() != before + 1:
        wrong.append("with room again nothing is saved")
    finish(wrong, f"{count} tries, {refused} refused with the reason")


if __name__ == "__main__":
    main()
