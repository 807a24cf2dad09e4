"""Jobs and their append-only revisions. The installation itself is a document, not tables."""

import threading
from collections import OrderedDict

from django.conf import settings
from django.db import models
from django.db.models import OuterRef, Q, Subquery
from django.utils import timezone

from returnpath.site import Installation, loads

_sites: OrderedDict[str, Installation] = OrderedDict()
_lock = threading.Lock()
SITES_KEPT = 32


def remember(document: str, site: Installation) -> Installation:
    """Keep the installation of a document: one page asks for the newest several times."""
    with _lock:
        _sites[document] = site
        _sites.move_to_end(document)
        while len(_sites) > SITES_KEPT:
            _sites.popitem(last=False)
    return site


def _read(document: str) -> Installation:
    with _lock:
        found = _sites.get(document)
    return found if found is not None else remember(document, loads(document))


class JobQuerySet(models.QuerySet):
    """Jobs of one person; every view begins here."""

    def seen_by(self, user):
        """The jobs that ``user`` owns, edits or reads; what lies in the bin is not seen."""
        if not user.is_authenticated:
            return self.none()
        mine = Q(owner=user) | Q(crew=user) | Q(readers=user)
        return self.filter(mine).exclude(shelf=Job.Shelf.BIN).distinct()

    def edited_by(self, user):
        """The jobs that ``user`` may change."""
        if not user.is_authenticated:
            return self.none()
        return self.seen_by(user).exclude(readers=user)

    def binned_by(self, user):
        """The jobs that ``user`` owns and put into the bin: they alone can take them out."""
        if not user.is_authenticated:
            return self.none()
        return self.filter(owner=user, shelf=Job.Shelf.BIN)

    def with_summary(self):
        """Adds the newest revision's ``summary`` and ``saved_at``: lists solve nothing."""
        newest = Revision.objects.filter(job=OuterRef("pk")).order_by("-number")
        return self.annotate(
            summary=Subquery(newest.values("summary")[:1]),
            saved_at=Subquery(newest.values("at")[:1]),
        )


BIN_DAYS = 30  # a job stays in the bin, then ``manage.py thin`` drops it


#: Rank of a job in whose newest revision nothing was found; the levels have 0 to 3.
NOTHING_FOUND = 4


class Role(models.TextChoices):
    """What a person may do in a job."""

    OWNER = "owner", "owner"
    EDITOR = "editor", "editor"
    READER = "reader", "reader"


class Job(models.Model):
    """One place that is surveyed, changed or proven."""

    class Shelf(models.TextChoices):
        """Where a job lies: at hand, put away, or on its way out."""

        AT_HAND = "", "at hand"
        ARCHIVE = "archive", "archive"
        BIN = "bin", "bin"

    name = models.CharField(max_length=80)
    place = models.CharField(max_length=120, blank=True)
    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="jobs_owned"
    )
    crew = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="jobs_shared", blank=True)
    # An inspector or a customer: sees everything, changes nothing.
    readers = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="jobs_read", blank=True)
    created = models.DateTimeField(auto_now_add=True)
    # Of the newest revision, so that a list of thousands is one query: how grave, and when.
    rank = models.PositiveSmallIntegerField(default=NOTHING_FOUND)
    changed = models.DateTimeField(default=timezone.now)
    shelf = models.CharField(
        max_length=8, choices=Shelf.choices, default=Shelf.AT_HAND, blank=True, db_index=True
    )
    shelved_at = models.DateTimeField(null=True, blank=True)

    objects = JobQuerySet.as_manager()

    class Meta:
        ordering = ["-created"]
        indexes = [models.Index(fields=["rank", "-changed"], name="job_worst_first")]

    def __str__(self) -> str:
        return self.name

    def role_of(self, user) -> str:
        """``owner``, ``editor`` (the crew), ``reader``, or "" of a stranger."""
        if self.owner_id == user.pk:
            return Role.OWNER
        if self.crew.filter(pk=user.pk).exists():
            return Role.EDITOR
        return Role.READER if self.readers.filter(pk=user.pk).exists() else ""

    @property
    def latest(self) -> "Revision":
        """The newest revision: the job as it stands."""
        return self.revisions.order_by("-number").first()


class Revision(models.Model):
    """One state of a job, never changed once written.

    ``parent`` is the revision that the content came after: undo goes there, even from a
    revision that is itself an undo. ``undoes`` is the revision an undo took back. ``aside`` the
    findings set aside: finding key → its reason, who and when.
    """

    class Kind(models.TextChoices):
        """How a revision came about; any but undo and redo ends redo."""

        EDIT = "edit"
        UNDO = "undo"
        REDO = "redo"

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    kind = models.CharField(max_length=8, choices=Kind.choices, default=Kind.EDIT)
    author = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+"
    )
    at = models.DateTimeField(auto_now_add=True)
    words = models.CharField(max_length=300)
    name = models.CharField(max_length=80, blank=True)
    document = models.TextField()
    summary = models.JSONField(default=dict)
    aside = models.JSONField(default=dict)
    parent = models.ForeignKey(
        "self", on_delete=models.SET_NULL, null=True, related_name="children"
    )
    undoes = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="+")

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.UniqueConstraint(fields=["job", "number"], name="one_revision_a_number")
        ]

    def __str__(self) -> str:
        return f"{self.job} {self.number}: {self.words}"

    @property
    def site(self) -> Installation:
        """The installation, read (and migrated) from the document; never changed in place."""
        return _read(self.document)


class OffNow(models.Model):
    """A breaker that somebody at a panel has switched off to find its circuit: told to whoever
    looks what went dead. One of a panel, unless two were said to be off."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="off")
    circuit = models.CharField(max_length=12)
    by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+"
    )
    at = models.DateTimeField(default=timezone.now)
    until = models.DateTimeField(null=True, blank=True)  # on again: kept, to know what was off when

    class Meta:
        ordering = ["at", "pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["job", "circuit"], condition=models.Q(until=None), name="off_once"
            )
        ]

    def __str__(self) -> str:
        return f"{self.job}: {self.circuit} is off"


class Lock(models.Model):
    """A person's own lock on a point of a place: it belongs to the part, not to a procedure.

    ``point`` is the part whose device is locked open, ``device`` its words then; ``zone`` the ids
    behind it when it was put on. ``proved`` is when dead was proven at it, ``ended`` why that is
    over. Several people may each have one on a point; one person has one. Times are the server's.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="locks")
    work = models.PositiveIntegerField(null=True, blank=True)  # the procedure it was put on in
    client_id = models.UUIDField(null=True, blank=True, db_index=True)
    point = models.CharField(max_length=20)
    device = models.CharField(max_length=200)
    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="locks"
    )
    name = models.CharField(max_length=150)
    tag = models.CharField(max_length=160)
    zone = models.JSONField(default=list)
    at = models.DateTimeField(default=timezone.now)
    waited = models.BooleanField(default=False)  # it was put on where there was no signal
    proved = models.DateTimeField(null=True, blank=True)
    ended = models.CharField(max_length=300, blank=True)
    ended_at = models.DateTimeField(null=True, blank=True)
    off = models.DateTimeField(null=True, blank=True)
    off_by = models.CharField(max_length=150, blank=True)
    # Taken off for somebody else: what was done before, in the administrator's words.
    off_called = models.CharField(max_length=200, blank=True)
    off_gone = models.CharField(max_length=200, blank=True)
    off_told = models.CharField(max_length=200, blank=True)
    off_checked = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["at", "pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["job", "point", "person"],
                condition=models.Q(off=None),
                name="one_lock_of_a_person_on_a_point",
            )
        ]

    def __str__(self) -> str:
        return f"{self.name}’s lock on {self.device}"


class Done(models.Model):
    """A form that was done: its key, so that pressing twice does it once."""

    key = models.CharField(max_length=64, primary_key=True)
    at = models.DateTimeField(auto_now_add=True, db_index=True)

    def __str__(self) -> str:
        return self.key


class Trial(models.Model):
    """A what-if of one person on one job: edits on top of its newest revision, kept or not."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="trials")
    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="trials"
    )
    base = models.ForeignKey(Revision, on_delete=models.SET_NULL, null=True, related_name="+")
    edits = models.JSONField(default=list)
    words = models.JSONField(default=list)
    started = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "person"], name="one_trial_each")]

    def __str__(self) -> str:
        return f"{self.person} tries on {self.job}: {'; '.join(self.words)}"
