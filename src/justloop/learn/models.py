"""What a person answered, what comes back when, rounds of break and mend."""

from django.conf import settings
from django.db import models
from django.utils import timezone


class Card(models.Model):
    """A thing to know: an experiment or a topic of sizes; its box, and when it is asked again."""

    who = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    kind = models.CharField(max_length=12)  # "experiment", "size"
    key = models.CharField(max_length=40)
    box = models.PositiveIntegerField(default=0)
    right = models.PositiveIntegerField(default=0)
    wrong = models.PositiveIntegerField(default=0)
    due = models.DateField(default=timezone.localdate)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("due", "pk")
        constraints = [models.UniqueConstraint(fields=("who", "kind", "key"), name="one_card")]

    def __str__(self) -> str:
        return f"{self.kind} {self.key}"


class Round(models.Model):
    """A round of break and mend: its seed and grade, what was read, how it ended."""

    who = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    seed = models.PositiveIntegerField()
    grade = models.PositiveIntegerField()
    readings = models.JSONField(default=list)
    spent = models.PositiveIntegerField(default=0)
    said = models.CharField(max_length=80, blank=True)
    named = models.BooleanField(default=False)
    end = models.CharField(max_length=12, blank=True)  # "", right, wrong, shock, time
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("-at", "-pk")

    def __str__(self) -> str:
        return f"{self.seed} of grade {self.grade}"
