"""Guests: an inspector or a customer who joined by a job's link. They read what they are shown."""

from django.contrib.auth.models import Group
from django.core.exceptions import PermissionDenied

NAME = "guests"


def welcome(user) -> None:
    """Make a new account a guest's."""
    group, _ = Group.objects.get_or_create(name=NAME)
    user.groups.add(group)


def is_guest(user) -> bool:
    """Whether a person is here as a guest."""
    return user.groups.filter(name=NAME).exists()


def take_in(user) -> None:
    """A guest becomes one of the firm."""
    user.groups.remove(*user.groups.filter(name=NAME))


def not_for_guests(request) -> None:
    """PermissionDenied with its sentence where a guest asks for what the firm's people do."""
    if is_guest(request.user):
        raise PermissionDenied(
            "You are a guest here and read the jobs that you are shown; the firm's people make and"
            " change them."
        )
