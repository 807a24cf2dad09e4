"""A simulated instrument: what it would read of a place as it is really built."""

from .instrument import TwinMeter, shown
from .twin import Twin, read_twin

__all__ = ["Twin", "TwinMeter", "read_twin", "shown"]
