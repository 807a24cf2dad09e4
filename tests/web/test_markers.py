"""What each role is shown, by its content: a marker in every table of the firm and of another
customer's job, grepped for in every page, file and feed that the role is let in to."""

import io
import zipfile
from unittest.mock import patch

from django.test import Client, TestCase

from justloop.accounts import guests
from justloop.firm.models import FirmLine, PracticeProfile
from justloop.jobs import locks, revisions
from justloop.jobs.models import OffNow, Trial
from justloop.log.models import Instrument, LoggedReading, SlotNote
from justloop.planning.models import JobDate, OwnForm, Price, Remark, TickedStep, Visit, Work
from justloop.reports import printing
from justloop.signing.models import FirmKey, SignOff
from returnpath.rules import findings
from returnpath.site import Set
from returnpath.site.edits import Require
from returnpath.study import study
from tests.core.test_findings import example

from .people import job_of, person
from .permissions import ROLES, a_photo, addresses, may

#: Nothing of the firm is a guest's; nothing of another customer's job is a stranger's.
FIRM, OTHER = "Zfirmz", "Zotherz"
#: Tabs and readers that an address alone does not show.
ASKED = ("?reader=owner", "?reader=inspector", "?reader=next")
STAGES = ("survey", "service", "plan", "plan?show=parts", "plan?show=dates", "plan?show=visits",
          "readings", "readings?show=cover", "readings?show=instruments", "sign", "prove", "fix",
          "panels", "earth", "array")  # fmt: skip
#: Of another customer's job its name alone is the firm's business: where locks are on, and the log.
NAMES_JOBS = {"locks-for-another", "log", "firm", "people"}


class Markers(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.people = {r: person(f"the-{r}") for r in ROLES if r != "nobody"}
        cls.people["administrator"].is_staff = True
        cls.people["administrator"].save()
        for role in ("guest", "reader"):
            guests.welcome(cls.people[role])
        cls.owner = cls.people["owner"]
        cls.job = job_of(cls.owner, example("pebblewick"), "Mine")
        cls.job.crew.add(cls.people["editor"])
        cls.job.readers.add(cls.people["reader"])
        # The owner of both: what is on one customer's page is that customer's.
        cls.other = job_of(cls.owner, example("pebblewick"), f"{OTHER} job")
        cls._plant_firm()
        cls._plant_job(cls.other)

    @classmethod
    def _plant_firm(cls):
        part = next(iter(_parts(cls.job)))
        Price.objects.create(item=part, first=987654.32, aisle=f"{FIRM} aisle")
        Price.objects.create(item=f"{FIRM} item", first=1)
        FirmLine.objects.create(name=f"{FIRM} line")
        PracticeProfile.objects.create(name=f"{FIRM} profile", document="{}")
        Instrument.objects.create(name=f"{FIRM} meter", kind="loop")
        OwnForm.objects.create(key="zfirmz", text=(
            f"format: 1\nkey: zfirmz\nname: {FIRM} way\n"
            f"steps:\n  - {{key: one, say: {FIRM}.}}\n"))  # fmt: skip
        FirmKey.objects.create(public="ab" * 32, name=f"{FIRM} friend")

    @classmethod
    def _plant_job(cls, job):
        owner = cls.owner
        LoggedReading.objects.create(job=job, kind="loop", place="c17", value=0.6, unit="Ω",
                                     who=owner, remark=f"{OTHER} reading")  # fmt: skip
        photo = a_photo(job)
        photo.remark = photo.mark_text = f"{OTHER} photo"
        photo.save()
        SlotNote.objects.create(job=job, slot="bond:p6", because=f"{OTHER} note")
        work = Work.objects.create(job=job, form="bond-cure", subject="p6", title=f"{OTHER} work")
        TickedStep.objects.create(work=work, step="lock", words=f"{OTHER} tag", who=owner)
        JobDate.objects.create(job=job, kind="final", day="2031-12-09", note=f"{OTHER} date")
        visit = Visit.objects.create(job=job, kind="rough", day="2026-11-02",
                                     inspector=f"{OTHER} inspector")  # fmt: skip
        Remark.objects.create(visit=visit, text=f"{OTHER} remark", rests_on="local",
                              where=f"{OTHER} where")  # fmt: skip
        locks.put_on(job, owner, ["f8"], f"{OTHER} tag")
        OffNow.objects.create(job=job, circuit="c18", by=owner)
        Trial.objects.create(job=job, person=owner, base=job.latest, words=[f"{OTHER} trial"])
        SignOff.objects.create(job=job, number=1, manifest=f'"{OTHER}"', hash="1" * 64, bundle="1")
        edits = [Set(path="p6.name", value=f"{OTHER} panel"),
                 Require(text=f"{OTHER} rule", who=f"{OTHER} who")]  # fmt: skip
        locks.lift(locks.on_now(job), "the-owner")
        revisions.save_edits(job, owner, job.latest.number, edits, f"{OTHER} words")
        locks.put_on(job, owner, ["f8"], f"{OTHER} tag")

    def setUp(self):
        # What goes to the printer is looked at instead of what comes out: the same, at once.
        self.enterContext(patch.object(printing, "pdf", lambda html, base: html.encode()))

    def walk(self, role, marker, job):
        """(what was looked at, where the marker stands) of every address of ``job``."""
        client = Client()
        if role != "nobody":
            client.force_login(self.people[role])
        seen, found = 0, []
        for name, address in addresses(job).items():
            several = ASKED if name in ("report", "report-pdf") else ()
            pages = [address, *(f"{address}{a}" for a in several)]
            if name == "workspace":
                pages = [address.rsplit("/", 1)[0] + f"/{page}" for page in STAGES]
            for page in pages:
                answer = client.get(page)
                if not may(answer):
                    continue
                seen += 1
                if marker in _text(answer):
                    found.append((name, page))
            if name == "sign-out" and role != "nobody":
                client.force_login(self.people[role])
        return seen, found

    def test_guests_are_shown_nothing_of_the_firm(self):
        for role in ("guest", "reader"):
            for marker in (FIRM,) if role == "guest" else (FIRM, "987,654.32"):
                seen, found = self.walk(role, marker, self.job)
                self.assertEqual(found, [], (role, marker))
                self.assertGreater(seen, 10)

    def test_the_markers_stand_where_the_firm_looks(self):
        _, found = self.walk("owner", FIRM, self.job)
        self.assertLessEqual({"workspace", "breaker-lines", "prices-csv", "parts-csv", "practice"},
                             {name for name, _ in found})  # fmt: skip

    def test_nobody_is_shown_another_customers_job(self):
        for role in ROLES:
            _, found = self.walk(role, OTHER, self.job)
            found = [(n, p) for n, p in found if n not in NAMES_JOBS and n != "jobs"]
            if role == "owner":  # their own week and list of jobs name both
                found = [(n, p) for n, p in found if n not in ("week", "search")]
            self.assertEqual(found, [], role)
        for role in ("nobody", "guest", "stranger", "administrator", "reader", "editor"):
            _, found = self.walk(role, OTHER, self.other)
            found = [(n, p) for n, p in found if n not in NAMES_JOBS]
            self.assertEqual(found, [], role)

    def test_the_markers_stand_where_their_owner_looks(self):
        _, found = self.walk("owner", OTHER, self.other)
        names = {name for name, _ in found}
        self.assertLessEqual({"workspace", "visit", "readings-csv", "job-calendar", "history",
                              "work", "report", "job-file"}, names)  # fmt: skip


def _parts(job) -> set[str]:
    from returnpath.plan import parts_of
    from returnpath.rules import Evidence

    made = study(job.latest.site)
    evidence = Evidence(job.latest.site, made)
    return {line.key for line in parts_of(evidence, findings(job.latest.site, made))}


def _text(answer) -> str:
    body = b"".join(answer.streaming_content) if answer.streaming else answer.content
    kind = answer.get("Content-Type", "")
    if "zip" in kind and zipfile.is_zipfile(io.BytesIO(body)):
        with zipfile.ZipFile(io.BytesIO(body)) as bundle:
            return "\n".join(bundle.read(n).decode("utf-8", "replace") for n in bundle.namelist())
    return body.decode("utf-8", "replace")
