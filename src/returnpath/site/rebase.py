"""Edits made on one revision of a site, carried to a newer one of the same site.

An added element is numbered one past the last that the site has given out; when somebody else added
elements meanwhile, that number is theirs. What later edits say of it must follow.
"""

import re
from collections.abc import Sequence

from .edits import Edit, parse_edit
from .installation import LISTS, Installation

_ID = re.compile(rf"({'|'.join(letter for _, letter in LISTS.values())})(\d{{1,11}})(\..*)?")


def rebase(edits: Sequence[Edit], base: Installation, newest: Installation) -> tuple[Edit, ...]:
    """``edits``, written to be applied to ``base``, as they must read to be applied to ``newest``.

    Ids that the edits themselves give out are renumbered; ids that ``base`` holds stay.
    """
    by = newest.last_id - base.last_id
    if not by:
        return tuple(edits)
    return tuple(parse_edit(_carried(e.model_dump(mode="json"), base.last_id, by)) for e in edits)


def _carried(value, last: int, by: int):
    if isinstance(value, dict):
        # a name is a person's text, never an id
        return {k: v if k == "name" else _carried(v, last, by) for k, v in value.items()}
    if isinstance(value, list):
        return [_carried(v, last, by) for v in value]
    found = _ID.fullmatch(value) if isinstance(value, str) else None
    if found is None or int(found[2]) <= last:
        return value
    return f"{found[1]}{int(found[2]) + by}{found[3] or ''}"
