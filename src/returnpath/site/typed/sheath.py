"""One circuit alone, as its sheath reads: ``20A 12/2 NM 85ft kitchen counter``."""

from dataclasses import dataclass, field
from typing import Any

from ..installation import Installation
from .making import nested
from .reading import read_place

UNDERSTOOD = (
    ("20A", "the breaker; 2P20A, 20A/2, “20 amp 2-pole” or “double pole” for two poles"),
    ("12/2", "the cable: size and insulated wires; 2-2-2-4 or 3 #12 too; #12, 12 gauge for a wire"),
    ("NM", "how it is wired: NM UF MC AC SE SER EMT IMC RMC PVC K&T BX, “mobile home feeder”"),
    ("EMT 1/2", "a steel raceway and its trade size; it is then the fault path"),
    ("85ft", "the one-way length; 85', 85 feet or 26m is understood too"),
    (
        "ground 10",
        "a ground wire of its own size, w/g; “no ground” where there is none",
    ),
    ("Al", "aluminum; copper unless said"),
    ("GFCI", "ground-fault protection; AFCI, dual function"),
    ("space 11", "the space; “circuit 7:” or “7:” in front"),
    ("1955", "when it was run: old cable is not taken to have a ground"),
    ("kitchen counter", "anything else is the name"),
)


@dataclass
class Reading:
    """What was read: ``facts`` of a Circuit, what it means in words, what was not understood."""

    facts: dict[str, Any] = field(default_factory=dict)
    words: list[str] = field(default_factory=list)
    problems: list[str] = field(default_factory=list)

    @property
    def is_complete(self) -> bool:
        """Whether nothing was left over and something was read."""
        return not self.problems and bool(self.facts)


def read_circuit(line: str, site: Installation | None = None) -> Reading:
    """Read one line as a circuit of ``site`` (any place), whatever else it could be; never
    raises."""
    made = read_place(site or Installation(), line, as_kind="circuit")
    words = [*made.words, *made.assumed_words]
    return Reading(nested(made.facts), words, made.problems)
