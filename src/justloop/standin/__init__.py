"""Simulated stand-ins for outside devices and services; none of them is needed."""
