"""Accounts and jobs that the web tests use."""

from unittest import mock

from django.contrib.auth import get_user_model

from justloop.jobs import revisions
from justloop.jobs.models import Job
from justloop.reports import printing
from returnpath.site import Installation
from tests.core.houses import house


def person(name: str):
    """An account."""
    return get_user_model().objects.create_user(name, password="a-long-password")


def flat(html: str | bytes) -> str:
    """A page with every run of blanks as one: where its templates break a line says nothing."""
    text = html.decode() if isinstance(html, bytes) else html
    return " ".join(text.split())


def printed(client, path: str) -> tuple[object, str]:
    """(the answer, the page that went to the printer) of a sheet's address."""
    seen = []
    real = printing.pdf

    def kept(html, base):
        seen.append(html)
        return real(html, base)

    with mock.patch.object(printing, "pdf", kept):
        return client.get(path), flat("".join(seen))


def job_of(owner, site: Installation | None = None, name: str = "Pebblewick") -> Job:
    """A job with one revision; the worked examples' house unless a site is given."""
    job = Job.objects.create(name=name, place="Mill Lane", owner=owner)
    site = site or house("20A 12/2 NM 85ft kitchen counter")
    revisions.start(job, site, owner, "Described the service")
    return job
