"""The *as-built* twin of a job: its site with defects that its description does not have."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ..errors import BadInput
from ..site import Add, Installation, Set, apply, loads

FORMAT = 1
MOST_DEFECTS = 20


@dataclass(frozen=True)
class Twin:
    """``name`` of the job it is the twin of; the place as it really is; the seed of its meter's
    errors."""

    name: str
    site: Installation
    seed: int


def read_twin(text: str, job_file: Callable[[str], str]) -> Twin:
    """A twin file. ``job_file`` hands over the text of the job file that it names.

    {"format": 1, "name": "Pebblewick Cottage", "job": "pebblewick.json", "seed": 7,
     "defects": [{"on": "c30.neutral", "ohm": 0.6}, {"set": "p7.bond", "to": "in"}]}
    """
    try:
        data = json.loads(text)
    except ValueError as error:
        raise BadInput(f"That is no twin file: {error}.") from None
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise BadInput("That is no twin file of format 1.")
    defects = data.get("defects", [])
    if not isinstance(defects, list) or len(defects) > MOST_DEFECTS:
        raise BadInput(f"A twin has a list of at most {MOST_DEFECTS} defects.")
    site = loads(job_file(str(data.get("job", ""))))
    for one in defects:
        site = apply(site, _edit(one))
    return Twin(str(data.get("name", ""))[:80], site, int(data.get("seed", 0)))


def _edit(one: Any) -> Add | Set:
    if isinstance(one, dict) and "on" in one:
        facts = {k: one[k] for k in ("on", "ohm", "open") if k in one}
        return Add(to="joints", facts=facts)
    if isinstance(one, dict) and "set" in one:
        return Set(path=str(one["set"]), value=one.get("to"))
    raise BadInput(f"A defect is a joint (on, ohm) or a fact (set, to), not {one!r:.60}.")
