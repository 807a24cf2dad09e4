"""A signed state of a job: its manifest with the seal; the bundle lies under its hash."""

from django.conf import settings
from django.db import models
from django.utils import timezone

from ..jobs.models import Job


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
