"""The campaign against lost work, leaks and crashes: ``script/campaign``.

Every part is bounded, listens on loopback only, keeps its data in a folder of its own, and ends
what it started by its process number.
"""
