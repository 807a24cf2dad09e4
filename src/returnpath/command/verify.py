"""``verify``: whether a signed bundle is whole, and whose signature it carries."""

from argparse import Namespace
from pathlib import Path
from typing import Any

from ..errors import BadInput
from ..seal import verify_bundle
from . import envelope


def add_to(calls: Any) -> None:
    """The call."""
    call = calls.add_parser("verify", help="whether a signed bundle is whole")
    call.add_argument("bundle")
    call.add_argument("--json", action="store_true")
    call.set_defaults(run=_verify)


def _verify(chosen: Namespace) -> int:
    try:
        data = Path(chosen.bundle).read_bytes()
    except OSError as error:
        raise BadInput(f"{chosen.bundle} cannot be read: {error}.") from None
    found = verify_bundle(data)
    signed = found.manifest.signed
    if chosen.json:
        result = {"whole": found.is_whole, "problems": list(found.problems),
                  "signed": signed.model_dump(), "hash": found.manifest.hash,
                  "public_key": found.manifest.public_key}  # fmt: skip
        envelope.show(envelope.of(result, ""))
        return 0 if found.is_whole else 1
    print(f"{found.manifest.job}, revision {signed.revision}: signed by {signed.who}, {signed.at}")
    print(f"key {found.manifest.public_key}")
    for problem in found.problems:
        print(f"NOT WHOLE: {problem}")
    if found.is_whole:
        print("Whole: every byte is as it was signed. Whose key it is, the firm says.")
    return 0 if found.is_whole else 1
