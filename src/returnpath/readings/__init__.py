"""Readings against their prediction: what a meter should show, and when to look for a cause."""

from .expected import Expected, expected_loop

__all__ = ["Expected", "expected_loop"]
