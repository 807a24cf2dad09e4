"""The audit log: who signed in, took a file out, shared, deleted, restored. Read by owners."""

import logging

from django.db import DatabaseError, transaction

from .models import Act, Entry

logger = logging.getLogger(__name__)


def note(request, act: Act, what: str = "", job=None, person=None, who: str = "") -> None:
    """Add a line. Where the disk is full the act itself goes on, and the server's log has it."""
    person = person or (request.user if request and request.user.is_authenticated else None)
    facts = {
        "act": act,
        "what": what[:200],
        "who": (who or (person.get_username() if person else ""))[:150],
        "job_name": job.name if job else "",
        "address": (request.META.get("REMOTE_ADDR") or "")[:45] if request else "",
        "request_id": getattr(request, "id", "") if request else "",
    }
    try:
        with transaction.atomic():
            Entry.objects.create(person=person, job=job, **facts)
    except DatabaseError:
        logger.exception("Not in the audit log: %s", facts["act"])
