"""The installation as an electrical network, solved without assuming any path."""

from .solver import EARTH, Fault, Network, Solution

__all__ = ["EARTH", "Fault", "Network", "Solution"]
