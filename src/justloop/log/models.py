"""Readings, the instruments they are taken with, photographs, and what was seen before cover."""

import uuid

from django.conf import settings
from django.db import models
from django.utils import timezone

from returnpath.readings import figure_of, reading_kinds

from ..jobs.models import Job

#: A reading of the place itself, not of a part of it.
SOIL = "soil"


class Instrument(models.Model):
    """One of the firm's: its error is ± (``error_pct`` % + ``error_abs`` in the kind's unit); of a
    loop meter also in its no-trip range. Put away, never deleted: readings name it."""

    name = models.CharField(max_length=60, unique=True)
    kind = models.CharField(max_length=20)
    error_pct = models.FloatField(null=True, blank=True)
    error_abs = models.FloatField(null=True, blank=True)
    no_trip_pct = models.FloatField(null=True, blank=True)
    no_trip_abs = models.FloatField(null=True, blank=True)
    no_trip_ma = models.FloatField(null=True, blank=True)
    calibrated_until = models.DateField(null=True, blank=True)
    put_away = models.BooleanField(default=False)

    class Meta:
        ordering = ("put_away", "name")

    def __str__(self) -> str:
        return self.name

    def error(self, no_trip: bool) -> tuple[float, float] | None:
        """(share, absolute); None where nobody entered it."""
        pct, least = self.error_pct, self.error_abs
        if no_trip and self.no_trip_abs is not None:
            pct, least = self.no_trip_pct, self.no_trip_abs
        if pct is None and least is None:
            return None
        return (pct or 0.0) / 100, least or 0.0


class LoggedReading(models.Model):
    """One reading of a job. ``client_id`` is made where it was typed: sent twice, it is kept once.

    ``value`` in ``unit``; ``detail`` what it was computed from (readings of a test, one a line);
    the instrument's error as it was then; ``simulated`` for ever, where the stand-in meter gave it.
    ``at`` is when it was read, which a queue without signal knows better than the server.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="readings")
    client_id = models.UUIDField(default=uuid.uuid4, unique=True)
    kind = models.CharField(max_length=20)
    place = models.CharField(max_length=20)
    value = models.FloatField()
    unit = models.CharField(max_length=10)
    detail = models.TextField(max_length=2000, blank=True)
    instrument = models.CharField(max_length=80, blank=True)
    tool = models.ForeignKey(
        Instrument, null=True, blank=True, on_delete=models.SET_NULL, related_name="readings"
    )
    error_share = models.FloatField(null=True, blank=True)
    error_abs = models.FloatField(null=True, blank=True)
    no_trip = models.BooleanField(default=False)
    overdue = models.BooleanField(default=False)
    temperature_c = models.FloatField(null=True, blank=True)
    loaded = models.BooleanField(default=False)
    remark = models.CharField(max_length=200, blank=True)
    simulated = models.BooleanField(default=False)
    who = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    at = models.DateTimeField(default=timezone.now)

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

    @property
    def figure(self) -> str:
        """The value as it is shown."""
        return f"{self.value:g} {self.unit}" if self.kind == SOIL else figure_of(
            self.kind, self.value
        )  # fmt: skip

    @property
    def error(self) -> tuple[float, float] | None:
        """(share, absolute) of the instrument; None: its kind's usual one."""
        if self.error_share is None and self.error_abs is None:
            return None
        return self.error_share or 0.0, self.error_abs or 0.0


class Photo(models.Model):
    """A photograph, re-encoded and kept by its content's hash; ``slot`` what it shows before it is
    covered, or ``reading`` what it was taken beside. The mark is drawn over it, not into it: a
    circle (shares of its width and height) and a line of text."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="photos")
    client_id = models.UUIDField(default=uuid.uuid4, unique=True)
    sha256 = models.CharField(max_length=64, db_index=True)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    taken = models.DateTimeField(null=True, blank=True)
    slot = models.CharField(max_length=40, blank=True)
    reading = models.ForeignKey(
        LoggedReading, null=True, blank=True, on_delete=models.SET_NULL, related_name="photos"
    )
    remark = models.CharField(max_length=200, blank=True)
    mark_x = models.FloatField(null=True, blank=True)
    mark_y = models.FloatField(null=True, blank=True)
    mark_r = models.FloatField(null=True, blank=True)
    mark_text = models.CharField(max_length=80, blank=True)
    who = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("at", "pk")

    def __str__(self) -> str:
        return f"{self.slot or 'photo'} {self.sha256[:8]}"


class SlotNote(models.Model):
    """What stands in a slot instead of a photo: who saw it, or why it could not be seen."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="slot_notes")
    client_id = models.UUIDField(default=uuid.uuid4, unique=True)
    slot = models.CharField(max_length=40)
    seen_by = models.CharField(max_length=80, blank=True)
    because = models.CharField(max_length=200, blank=True)
    who = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("-at", "-pk")

    def __str__(self) -> str:
        return f"{self.slot}: {self.seen_by or self.because}"
