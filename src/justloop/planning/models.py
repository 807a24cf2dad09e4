"""Procedures under way with their ticks, dates, visits with their remarks, the firm's prices."""

import uuid

from django.conf import settings
from django.db import models
from django.utils import timezone

from ..jobs.models import Job
from ..log.models import LoggedReading, Photo


def _person(**more):
    return models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+", **more
    )


class OwnForm(models.Model):
    """A procedure of the firm's own, as its YAML (docs/procedures.md)."""

    key = models.CharField(max_length=40, unique=True)
    text = models.TextField(max_length=60_000)
    by = _person()
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("key",)

    def __str__(self) -> str:
        return self.key


class Work(models.Model):
    """A procedure under way on a job: its form by key, what it is about, the schools chosen."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="works")
    form = models.CharField(max_length=40)
    subject = models.CharField(max_length=20)
    title = models.CharField(max_length=160)
    choices = models.JSONField(default=dict)
    by = _person()
    at = models.DateTimeField(default=timezone.now)
    ended = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("ended", "-at")

    def __str__(self) -> str:
        return self.title


class TickedStep(models.Model):
    """A step that was ticked; ``value`` of its reading, ``words`` what was said (a lock's tag)."""

    work = models.ForeignKey(Work, on_delete=models.CASCADE, related_name="ticks")
    client_id = models.UUIDField(default=uuid.uuid4, unique=True)
    step = models.CharField(max_length=60)
    value = models.FloatField(null=True, blank=True)
    simulated = models.BooleanField(default=False)
    words = models.CharField(max_length=160, blank=True)
    reading = models.ForeignKey(
        LoggedReading, null=True, blank=True, on_delete=models.SET_NULL, related_name="+"
    )
    who = _person()
    at = models.DateTimeField(default=timezone.now)
    waited = models.BooleanField(default=False)  # it came out of a phone's queue

    class Meta:
        ordering = ("at", "pk")

    def __str__(self) -> str:
        return self.step


class LookedAt(models.Model):
    """When a person last looked at a work: a proof of dead lasts while they stay."""

    work = models.ForeignKey(Work, on_delete=models.CASCADE, related_name="looks")
    who = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    step = models.CharField(max_length=60, blank=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=("work", "who"), name="one_look_each")]

    def __str__(self) -> str:
        return f"{self.who} at {self.step}"


class CautionRead(models.Model):
    """A caution that a person read on a day."""

    who = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    key = models.CharField(max_length=20)
    day = models.DateField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=("who", "key", "day"), name="one_caution_a_day")
        ]

    def __str__(self) -> str:
        return f"{self.key} {self.day}"


class JobDate(models.Model):
    """A date of a job: of a kind, on a day, done or not, who must be there."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="dates")
    client_id = models.UUIDField(default=uuid.uuid4, unique=True)
    kind = models.CharField(max_length=20)
    day = models.DateField()
    note = models.CharField(max_length=160, blank=True)
    done = models.BooleanField(default=False)
    who = _person()
    by = _person()

    class Meta:
        ordering = ("day", "pk")

    def __str__(self) -> str:
        return f"{self.kind} {self.day}"


class Visit(models.Model):
    """A visit of the office: rough-in or final; what came of it."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="visits")
    kind = models.CharField(max_length=20)
    day = models.DateField()
    inspector = models.CharField(max_length=80, blank=True)
    result = models.CharField(max_length=10, blank=True)  # "", passed, failed
    by = _person()

    class Meta:
        ordering = ("-day", "-pk")

    def __str__(self) -> str:
        return f"{self.kind} {self.day}"


class Remark(models.Model):
    """What the inspector said of a place, what it rests on, what became of it."""

    RESTS = {
        "rule": "a rule",
        "local": "a local requirement",
        "manufacturer": "a manufacturer's instruction",
    }
    visit = models.ForeignKey(Visit, on_delete=models.CASCADE, related_name="remarks")
    place = models.CharField(max_length=20, blank=True)
    text = models.CharField(max_length=300)
    rests_on = models.CharField(max_length=20, default="rule")
    where = models.CharField(max_length=120, blank=True)
    disputed = models.CharField(max_length=300, blank=True)
    finding = models.CharField(max_length=60, blank=True)
    parts = models.CharField(max_length=200, blank=True)
    hours = models.FloatField(null=True, blank=True)
    days = models.FloatField(null=True, blank=True)
    later = models.BooleanField(default=False)  # carried to the final
    mended = models.DateTimeField(null=True, blank=True)
    mended_by = _person()
    photo = models.ForeignKey(
        Photo, null=True, blank=True, on_delete=models.SET_NULL, related_name="+"
    )

    reading = models.ForeignKey(
        LoggedReading, null=True, blank=True, on_delete=models.SET_NULL, related_name="+"
    )

    class Meta:
        ordering = ("mended", "pk")

    def __str__(self) -> str:
        return self.text


class Price(models.Model):
    """One line of the firm's price list: up to three prices; where it stands; on the truck."""

    item = models.CharField(max_length=120, unique=True)
    first = models.FloatField(null=True, blank=True)
    second = models.FloatField(null=True, blank=True)
    third = models.FloatField(null=True, blank=True)
    aisle = models.CharField(max_length=40, blank=True)
    on_truck = models.BooleanField(default=False)

    class Meta:
        ordering = ("aisle", "item")

    def __str__(self) -> str:
        return self.item


class Feed(models.Model):
    """A private calendar address: only a hash of its secret is kept. Of a job, or of a person."""

    secret = models.CharField(max_length=64, unique=True)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    job = models.ForeignKey(Job, null=True, blank=True, on_delete=models.CASCADE)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("-at",)

    def __str__(self) -> str:
        return f"feed of {self.who}"
