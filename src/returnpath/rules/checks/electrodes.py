"""Electrodes: the conductor that goes to them."""

from ... import tables
from ...site import Set
from ..finding import Finding
from ..registry import Solved, check


@check
def gec_small(solved: Solved):
    """An electrode conductor smaller than the service asks for."""
    electrode = solved.filled.electrode
    row = solved.sizes.get(f"{electrode.id}.gec_size")
    if row is None or row.meets is not False:
        return
    yield Finding(
        "gec-small",
        "fix",
        electrode.id,
        "Electrodes",
        f"Electrode conductor {tables.size_name(row.installed)}; {row.needed}"
        f" {row.needed_material} is needed.",
        "It holds the house at earth's potential in a surge.",
        f"Run {tables.size_name(row.needed)} {row.needed_material}.",
        f"{tables.section('gec_size', solved.edition)} ({solved.edition})",
        (Set(path=row.path, value=row.needed),),
    )
