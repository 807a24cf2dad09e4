"""A reading: what was read, where, when, by whom, with what. Never changed, only added."""

import uuid

from django.conf import settings
from django.db import models

from returnpath.readings import reading_kinds

from ..jobs.models import Job

#: A reading of the place itself, not of a part of it.
SOIL = "soil"


class LoggedReading(models.Model):
    """One reading of a job. ``client_id`` is made where it was typed: sent twice, it is kept once.

    ``value`` in ``unit``; ``detail`` what it was computed from (readings of a test, one a line);
    ``simulated`` for ever, where the stand-in meter gave it.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="readings")
    client_id = models.UUIDField(default=uuid.uuid4, unique=True)
    kind = models.CharField(max_length=20)
    place = models.CharField(max_length=20)
    value = models.FloatField()
    unit = models.CharField(max_length=10)
    detail = models.TextField(max_length=2000, blank=True)
    instrument = models.CharField(max_length=80, blank=True)
    temperature_c = models.FloatField(null=True, blank=True)
    loaded = models.BooleanField(default=False)
    remark = models.CharField(max_length=200, blank=True)
    simulated = models.BooleanField(default=False)
    who = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-at", "-pk")

    def __str__(self) -> str:
        return f"{self.kind_words} at {self.place}: {self.value:g} {self.unit}"

    @property
    def kind_words(self) -> str:
        """The kind in the trade's words."""
        if self.kind == SOIL:
            return "soil, four pins"
        kind = reading_kinds().get(self.kind)
        return kind.label if kind else self.kind
