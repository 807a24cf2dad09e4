"""A reading: what was read, where, when, by whom, with what. Never changed, only added."""

import uuid

from django.conf import settings
from django.db import models

from ..jobs.models import Job


class ReadingKind(models.TextChoices):
    """What was read."""

    THREE_POINT = "three-point", "three-point test"
    CLAMP = "clamp", "clamp on an electrode"
    SOIL = "soil", "soil, four pins"


class LoggedReading(models.Model):
    """One reading of a job. ``client_id`` is made where it was typed: sent twice, it is kept once.

    ``value`` in ``unit``; ``detail`` what it was computed from (readings of a test, one a line);
    ``simulated`` for ever, where the stand-in meter gave it.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="readings")
    client_id = models.UUIDField(default=uuid.uuid4, unique=True)
    kind = models.CharField(max_length=20, choices=ReadingKind.choices)
    place = models.CharField(max_length=20)
    value = models.FloatField()
    unit = models.CharField(max_length=10)
    detail = models.TextField(max_length=2000, blank=True)
    instrument = models.CharField(max_length=80, blank=True)
    temperature_c = models.FloatField(null=True, blank=True)
    remark = models.CharField(max_length=200, blank=True)
    simulated = models.BooleanField(default=False)
    who = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-at", "-pk")

    def __str__(self) -> str:
        return f"{self.get_kind_display()} at {self.place}: {self.value:g} {self.unit}"
