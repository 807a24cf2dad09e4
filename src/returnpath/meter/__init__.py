"""A simulated instrument: what it would read of a place as it is really built."""

from .instrument import Instrument, shown
from .twin import Twin, read_twin

__all__ = ["Instrument", "Twin", "read_twin", "shown"]
