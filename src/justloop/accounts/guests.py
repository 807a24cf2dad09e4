"""Guests: an inspector or a customer who joined by a job's link. They read what they are shown."""

from django.contrib.auth.models import Group
from django.core.exceptions import PermissionDenied
from django.db.models import QuerySet

NAME = "guests"


def welcome(user) -> None:
    """Make a new account a guest's."""
    group, _ = Group.objects.get_or_create(name=NAME)
    user.groups.add(group)
    user._is_guest = True


def is_guest(user) -> bool:
    """Whether a person is here as a guest; asked of the database once a request."""
    if user is None or not user.is_authenticated:
        return True
    known = getattr(user, "_is_guest", None)
    if known is None:
        known = user._is_guest = user.groups.filter(name=NAME).exists()
    return bool(known)


def of_the_firm(rows: QuerySet, user) -> QuerySet:
    """What the firm keeps for itself, as this person may see it: a guest sees none of it."""
    return rows.none() if is_guest(user) else rows


def take_in(user) -> None:
    """A guest becomes one of the firm."""
    user.groups.remove(*user.groups.filter(name=NAME))
    user._is_guest = False


def not_for_guests(request) -> None:
    """PermissionDenied with its sentence where a guest asks for what the firm's people do."""
    if is_guest(request.user):
        raise PermissionDenied(
            "You are a guest here and read the jobs that you are shown; the firm's people make and"
            " change them."
        )
