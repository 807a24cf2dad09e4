"""A signed state of a job: its manifest with the seal; the bundle lies under its hash."""

from django.conf import settings
from django.db import models
from django.utils import timezone

from returnpath.seal import fingerprint

from ..jobs.models import Job


class FirmKey(models.Model):
    """A key that this firm knows: its own, or another firm's by name. ``until`` it signed, ``lost``
    since when it is."""

    public = models.CharField(max_length=64, unique=True)
    name = models.CharField(max_length=80, blank=True)
    is_ours = models.BooleanField(default=False)
    since = models.DateTimeField(default=timezone.now)
    until = models.DateTimeField(null=True, blank=True)
    lost = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("-is_ours", "-since")

    def __str__(self) -> str:
        return f"{self.name or 'ours'} {self.public[:16]}"

    @property
    def fingerprint(self) -> str:
        """As reports print it."""
        return fingerprint(self.public)


class SignOff(models.Model):
    """What was signed, by whom; never changed. ``number`` of the revision."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="signed")
    number = models.PositiveIntegerField()
    manifest = models.TextField()
    hash = models.CharField(max_length=64, db_index=True)
    bundle = models.CharField(max_length=64)
    who = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("-at", "-pk")

    def __str__(self) -> str:
        return f"revision {self.number}, {self.hash[:12]}"
