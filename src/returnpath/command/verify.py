"""``verify``: three things apart: are all bytes as they were signed, by whose key, and (what only
the firm's own server knows) whether it is the newest signed state."""

from argparse import Namespace
from pathlib import Path
from typing import Any

from ..errors import BadInput
from ..seal import Verified, fingerprint, same_key, verify_bundle, weak
from . import envelope

#: What the exit codes say, beside 2 for bad input.
WHOLE, NOT_WHOLE, UNKNOWN_KEY, OTHER_KEY = 0, 1, 3, 4


def add_to(calls: Any) -> None:
    """The call."""
    call = calls.add_parser("verify", help="whether a signed bundle is whole, and by whose key")
    call.add_argument("bundle")
    call.add_argument("--key", metavar="FINGERPRINT", help="the firm's, as its reports print it")
    call.add_argument("--json", action="store_true")
    call.set_defaults(run=_verify)


def _verify(chosen: Namespace) -> int:
    try:
        data = Path(chosen.bundle).read_bytes()
    except OSError as error:
        raise BadInput(f"{chosen.bundle} cannot be read: {error}.") from None
    if chosen.key:
        same_key(chosen.key, "0" * 64)  # said readably, before anything is opened
    found = verify_bundle(data)
    public = found.manifest.public_key
    code, key = _judged(found, chosen.key)
    signed = found.manifest.signed
    print_of = "" if weak(public) else fingerprint(public)
    if chosen.json:
        result = {"whole": found.is_whole, "key": key, "problems": list(found.problems),
                  "signed": signed.model_dump(), "hash": found.manifest.hash,
                  "public_key": public, "fingerprint": print_of, "newest": None}  # fmt: skip
        envelope.show(envelope.of(result, ""))
        return code
    print(f"{found.manifest.job}, revision {signed.revision}: signed by {signed.who}, {signed.at}")
    for problem in found.problems:
        print(f"NOT WHOLE: {problem}")
    if found.is_whole:
        print("Bytes: every one is as it was signed.")
    said = {
        "asked for": "the one that was asked for.",
        "other": "ANOTHER than the one that was asked for: somebody else signed this.",
        "unknown": "UNKNOWN: anybody can make such a bundle. Ask the firm for its fingerprint and"
        " give it with --key.",
        "unfit": "unfit: it proves nothing.",
    }[key]
    print(f"Key: {said}")
    print(f"     {print_of or public}")
    print("Newest: only the firm's own server knows whether it was signed again since (/verify).")
    return code


def _judged(found: Verified, asked: str | None) -> tuple[int, str]:
    """(the exit code, whose key in a word)."""
    public = found.manifest.public_key
    if weak(public):
        return NOT_WHOLE, "unfit"
    if asked is None:
        return (UNKNOWN_KEY if found.is_whole else NOT_WHOLE), "unknown"
    is_it = same_key(asked, public)
    key = "asked for" if is_it else "other"
    if not found.is_whole:
        return NOT_WHOLE, key
    return (WHOLE if is_it else OTHER_KEY), key
