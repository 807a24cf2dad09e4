"""Tests of the computation alone: no Django, no screen."""
