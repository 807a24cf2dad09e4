"""What was not looked at: a family that is not there must not look checked."""

import json
from functools import cache
from importlib import resources

from ..site import Installation


@cache
def not_looked() -> dict[str, str]:
    """Findings of the trade's catalogue that nothing here looks for → why not."""
    return json.loads(resources.files(__package__).joinpath("not_looked.json").read_text("utf-8"))


def in_words(site: Installation) -> list[str]:
    """What was not looked at in this site, a sentence each."""
    said = ["readings, photographs, corrections and cautions (no record is kept here)"]
    if site.arrays:
        said.append("an array's lugs, washers, labels and spliced conductors")
    said += ["workmanship that no fact describes", "requirements of the local office, but for those"
             " entered"]  # fmt: skip
    return said
