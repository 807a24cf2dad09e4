"""What is noted when people sign in, fail to, or sign out."""

from contextlib import suppress

from django.contrib.auth.models import update_last_login
from django.contrib.auth.signals import user_logged_in, user_logged_out, user_login_failed
from django.db import DatabaseError, transaction
from django.dispatch import receiver

from . import audit, seats
from .models import Act

# Django's own raises where the date cannot be written.
user_logged_in.disconnect(dispatch_uid="update_last_login")


@receiver(user_logged_in)
def last_login(sender, user, **_more):
    """When somebody was in last; a full disk stops nobody."""
    with suppress(DatabaseError), transaction.atomic():
        update_last_login(sender, user)


@receiver(user_logged_in)
def signed_in(sender, request, user, **_more):
    """A seat for the session, a line in the log."""
    seats.take(request, user)
    audit.note(request, Act.SIGN_IN, person=user)


@receiver(user_logged_out)
def signed_out(sender, request, user, **_more):
    """The seat is free again."""
    if user is not None:
        seats.leave(request)
        audit.note(request, Act.SIGN_OUT, person=user)


@receiver(user_login_failed)
def refused(sender, credentials, request=None, **_more):
    """Whose name was tried: never what was typed as the password."""
    if request is not None:
        audit.note(request, Act.REFUSED, who=str(credentials.get("username", ""))[:150])
