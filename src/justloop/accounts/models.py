"""Links that are handed over, the sessions of a person, and the audit log."""

import hashlib
import secrets
from datetime import timedelta

from django.conf import settings
from django.db import models
from django.utils import timezone

LINK_DAYS = 7
AUDIT_DAYS = 400  # the log is kept so long, then ``manage.py thin`` drops it


class Link(models.Model):
    """A one-use link to hand over: to join, or to set a new password. Only its hash is kept."""

    class Use(models.TextChoices):
        """What the link is good for."""

        JOIN = "join", "join"
        PASSWORD = "password", "new password"

    token_hash = models.CharField(max_length=64, unique=True)
    use = models.CharField(max_length=8, choices=Use.choices)
    made_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="links_made"
    )
    made_at = models.DateTimeField(auto_now_add=True)
    until = models.DateTimeField()
    used_at = models.DateTimeField(null=True, blank=True)
    note = models.CharField(max_length=80, blank=True)
    # Of a new password: whose. Of joining: the job it leads to, and as what.
    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, null=True, related_name="links_for"
    )
    job = models.ForeignKey("jobs.Job", on_delete=models.CASCADE, null=True, related_name="links")
    role = models.CharField(max_length=8, blank=True)

    def __str__(self) -> str:
        return f"{self.use} {self.note or self.person or ''}"

    @classmethod
    def hand_out(cls, by, use: str, **facts) -> tuple["Link", str]:
        """(the link, its secret): the secret is shown once and kept nowhere."""
        secret = secrets.token_urlsafe(24)
        until = timezone.now() + timedelta(days=LINK_DAYS)
        made = cls.objects.create(
            token_hash=_hash(secret), use=use, made_by=by, until=until, **facts
        )
        return made, secret

    @classmethod
    def of(cls, secret: str, use: str) -> "Link | None":
        """The link of a secret that is still good; None otherwise."""
        still = cls.objects.filter(
            use=use, used_at=None, until__gt=timezone.now(), made_by__is_active=True
        ).select_related("made_by", "job", "person")
        found = still.filter(token_hash=_hash(secret)).first()
        return found if found is not None and found.maker_still_may else None

    @property
    def maker_still_may(self) -> bool:
        """Whether whoever made it could make it today: as an administrator, or the job's owner."""
        if self.job is not None:
            return self.job.owner_id == self.made_by_id
        return bool(self.made_by.is_staff)

    def spend(self) -> bool:
        """Use it up; False where somebody was faster."""
        unused = Link.objects.filter(pk=self.pk, used_at=None)
        return bool(unused.update(used_at=timezone.now()))


def _hash(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


class Seat(models.Model):
    """One session of a person: from where, with what, when last."""

    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="seats"
    )
    session_key = models.CharField(max_length=40, unique=True)
    started = models.DateTimeField(auto_now_add=True)
    seen = models.DateTimeField(default=timezone.now)
    address = models.CharField(max_length=45, blank=True)
    agent = models.CharField(max_length=120, blank=True)

    class Meta:
        ordering = ["-seen"]

    def __str__(self) -> str:
        return f"{self.person} since {self.started:%Y-%m-%d}"


class Act(models.TextChoices):
    """What is noted in the audit log."""

    SIGN_IN = "sign-in", "signed in"
    REFUSED = "refused", "was refused at the sign-in"
    SIGN_OUT = "sign-out", "signed out"
    EXPORT = "export", "took a file out"
    SHARE = "share", "changed who works on it"
    DELETE = "delete", "put away or deleted"
    RESTORE = "restore", "put back"
    ACCOUNT = "account", "changed an account"


class Entry(models.Model):
    """One line of the audit log. Names are kept as they were; no secret and no fact of a site."""

    at = models.DateTimeField(auto_now_add=True, db_index=True)
    act = models.CharField(max_length=8, choices=Act.choices)
    who = models.CharField(max_length=150, blank=True)
    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+"
    )
    job = models.ForeignKey("jobs.Job", on_delete=models.SET_NULL, null=True, related_name="audit")
    job_name = models.CharField(max_length=80, blank=True)
    what = models.CharField(max_length=200, blank=True)
    address = models.CharField(max_length=45, blank=True)
    request_id = models.CharField(max_length=16, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return f"{self.at:%Y-%m-%d %H:%M} {self.who} {self.get_act_display()}"
