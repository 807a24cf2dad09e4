"""What is told as kept is kept, and what is whole is whole: forced conflicts at every caller, and a
signed bundle with one byte of its carrier changed."""

import random
from unittest import mock

from .inside import arguments, finish, prepare


def main() -> None:
    """A third of ``count`` forced conflicts over every caller, the rest flips of a carrier."""
    count, seed = arguments()
    chance = random.Random(seed)
    owner, job = prepare()
    conflicts = max(7, count // 25)
    wrong, told_kept = _conflicts(owner, job, conflicts)
    passed = _flips(chance, count)
    wrong += [f"a flip of byte {at} passes" for at in passed]
    finish(wrong, f"{conflicts} forced conflicts, {told_kept} told as kept; {count} flips,"
           f" {len(passed)} passed")  # fmt: skip


def _conflicts(owner, job, count: int) -> tuple[list[str], int]:
    from django.test import Client

    from justloop.jobs import revisions
    from justloop.jobs.models import Trial
    from justloop.log.models import LoggedReading
    from justloop.planning.models import Remark, TickedStep, Visit, Work

    site = job.latest.site
    reading = LoggedReading.objects.create(job=job, kind="r2", place="f8", value=0.1, unit="Ω",
                                           who=owner)  # fmt: skip
    work = Work.objects.create(job=job, form="bond-cure", subject="p6", title="Bond", by=owner)
    TickedStep.objects.create(work=work, step="screw", who=owner)
    visit = Visit.objects.create(job=job, kind="rough", day="2026-11-02")
    remark = Remark.objects.create(visit=visit, text="A clamp", rests_on="local")
    rod = site.electrodes[0].id
    at = f"/jobs/{job.pk}"
    callers = {
        "edit": (f"{at}/edit", {"op": "set", "path": "c17.name", "text": "Galley", "base": "1",
                                "stage": "survey"}),
        "keep": (f"{at}/keep", {"stage": "survey"}),
        "use as measured": (f"{at}/readings/{reading.pk}/use", {}),
        "three-point": (f"{at}/readings/keep", {"kind": "three-point", "place": rod,
                                                "value": "12", "hold": "1"}),
        "practice": (f"{at}/practice", {"op": "school", "path": "rod_spacing",
                                        "value": "twice", "base": "1"}),
        "step": (f"{at}/work/{work.pk}/enter", {"step": "screw"}),
        "correction": (f"{at}/visits/{visit.pk}/do", {"do": "practice", "n": str(remark.pk)}),
        "find": (f"{at}/find", {"do": "nothing", "c": "c18", "base": "1"}),
    }  # fmt: skip
    client = Client(raise_request_exception=False)
    client.force_login(owner)
    wrong, kept = [], 0
    names = list(callers)
    for number in range(count):
        name = names[number % len(names)]
        address, form = callers[name]
        Trial.objects.all().delete()  # what is changed while one runs goes into it
        if name == "keep":
            edit = {"op": "set", "path": "c17.length_ft", "value": 77.0}
            Trial.objects.create(job=job, person=owner, base=job.latest, edits=[edit],
                                 words=["longer"])  # fmt: skip
        before = job.revisions.count()
        clash = revisions.Conflict("c17.name", "something else", "mate", before, None)
        with mock.patch.object(
            revisions, "_save", side_effect=revisions.Conflicted(clash, job.latest)
        ) as tried:
            answer = client.post(address, form, follow=True)
        said = answer.content.decode()
        if not tried.called:
            wrong.append(f"{name}: nothing was saved, {answer.status_code}")
        elif answer.status_code >= 500 or "mate set this to something else" not in said:
            wrong.append(f"{name}: the conflict is not said, {answer.status_code}")
        if "Kept:" in said or "Kept as measured" in said or "Entered in the job" in said:
            kept += 1
            wrong.append(f"{name}: told as kept")
        if job.revisions.count() != before:
            wrong.append(f"{name}: something was saved")
    return wrong, kept


def _flips(chance: random.Random, count: int) -> list[int]:
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

    from returnpath.errors import BadInput
    from returnpath.seal import Signed, manifest_of, seal, verify_bundle, write_bundle

    signed = Signed(who="Wren", licence="L-1", at="2026-11-27T03:00:00+00:00", edition=2023,
                    engine="6.0", statement="What was computed.", revision=7)  # fmt: skip
    files = {"job.json": b'{"a": 1}', "readings.csv": b"kind\n", "report.pdf": b"%PDF-" * 40}
    key = Ed25519PrivateKey.generate()
    data = write_bundle(seal(manifest_of("Pebblewick", files, signed), key), files)
    passed = []
    for _ in range(count):
        at = chance.randrange(len(data) + 1)
        way = chance.randrange(3)
        if way == 0 and at < len(data):
            other = bytearray(data)
            other[at] ^= 1 << chance.randrange(8)
        elif way == 1:
            other = bytearray(data[:at] + bytes([chance.randrange(256)]) + data[at:])
        else:
            other = bytearray(data[:at] + data[at + 1 + chance.randrange(4) :])
        if bytes(other) == data:
            continue
        try:
            if verify_bundle(bytes(other)).is_whole:
                passed.append(at)
        except BadInput:
            continue
    return passed


if __name__ == "__main__":
    main()
