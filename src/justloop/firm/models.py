"""What the firm keeps for all its jobs: breaker lines, and named profiles of local practice."""

from django.conf import settings
from django.db import models

from returnpath.site.breaker_lines import BreakerLine as Line


class Firm(models.Model):
    """The one firm of this installation: how its papers name it."""

    name = models.CharField(max_length=80, blank=True)
    licence = models.CharField(max_length=120, blank=True)

    def __str__(self) -> str:
        return self.name or "the firm"

    @classmethod
    def ours(cls) -> "Firm":
        """The firm; without a name until somebody gives it one."""
        return cls.objects.first() or cls()


class FirmLine(models.Model):
    """One row of the firm's list (``returnpath.site.breaker_lines``)."""

    name = models.CharField(max_length=60, unique=True)
    facts = models.JSONField(default=dict)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    @property
    def line(self) -> Line:
        """The row as the core has it."""
        return Line(**{"name": self.name, **self.facts})


class PracticeProfile(models.Model):
    """Local practice under a name, to be used in a job."""

    name = models.CharField(max_length=60, unique=True)
    document = models.TextField()
    by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+"
    )
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name
