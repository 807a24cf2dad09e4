"""Tests of the computation alone: they run with Django not importable (see ``__main__``)."""
