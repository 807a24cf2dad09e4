"""The stored document: JSON with its format number, migrated when read.

``{"format": 2, "site": {...}}``. Each past format has a function here and a fixture in
``tests/core/fixtures``.
"""

import json
from collections.abc import Callable

from pydantic import ValidationError

from ..errors import BadInput, has_control
from .installation import Installation, Practice
from .validate import check_site, sentence_of

FORMAT = 2
MAX_BYTES = 2_000_000


def _from_1(site: dict) -> dict:
    """Format 1 had one service run, without its ends."""
    site = dict(site)
    service = site.pop("service", {"id": "s1"})
    if isinstance(service, dict):
        site["services"] = [{"supply": "u1", "to": "p1", **service}]
    return site


#: format → function that turns that format's site into the next one's.
MIGRATIONS: dict[int, Callable[[dict], dict]] = {1: _from_1}


def dumps(site: Installation) -> str:
    """The document as JSON text; absent facts are left out."""
    body = site.model_dump(mode="json", exclude_none=True)
    for name in ("feeders", "circuits"):
        for element in body.get(name, ()):
            if not element.get("around"):
                element.pop("around", None)
    return json.dumps({"format": FORMAT, "site": body}, ensure_ascii=False)


def loads(text: str) -> Installation:
    """Read a document of any known format; BadInput with the path of what is wrong."""
    if len(text) > MAX_BYTES:
        raise BadInput("A job file is at most 2 MB.")
    try:
        data = json.loads(text)
    except (ValueError, RecursionError):
        raise BadInput("This is not a job file: it is not JSON.") from None
    if has_control(data):
        raise BadInput("A job file holds no control characters in its texts.")
    if not isinstance(data, dict) or set(data) != {"format", "site"}:
        raise BadInput("A job file has two keys: “format” and “site”.")
    found, body = data["format"], data["site"]
    if not isinstance(found, int) or not 1 <= found <= FORMAT:
        raise BadInput(f"This job file has format {found}; formats 1 to {FORMAT} can be read.")
    if not isinstance(body, dict):
        raise BadInput("“site” must be an object.")
    while found < FORMAT:
        body = MIGRATIONS[found](body)
        found += 1
    try:
        site = Installation.model_validate(body)
    except ValidationError as error:
        raise BadInput(sentence_of(error)) from None
    check_site(site)
    return site


def dumps_practice(practice: Practice) -> str:
    """Local practice as JSON text, to carry it to another place."""
    body = practice.model_dump(mode="json", exclude_none=True, exclude={"id"})
    return json.dumps({"format": FORMAT, "practice": body}, ensure_ascii=False, indent=1)


def loads_practice(text: str) -> Practice:
    """Read a practice file; BadInput with the key of what is wrong."""
    try:
        data = json.loads(text)
    except (ValueError, RecursionError):
        raise BadInput("This is not a practice file: it is not JSON.") from None
    if not isinstance(data, dict) or set(data) != {"format", "practice"}:
        raise BadInput("A practice file has two keys: “format” and “practice”.")
    try:
        return Practice.model_validate(data["practice"])
    except ValidationError as error:
        raise BadInput(sentence_of(error)) from None
