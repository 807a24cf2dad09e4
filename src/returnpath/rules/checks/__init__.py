"""The families of checks; importing this package enters them all in the registry."""

from . import conductors, electrodes, return_path  # noqa: F401
