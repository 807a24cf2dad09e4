"""Whose key signed: keys that are fit to sign at all, their fingerprints, and how long each is its
firm's.

A bundle is “whole” by its bytes; that says nothing of who made it. An unknown key's bundle is never
called whole alone.
"""

import hashlib
import re
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from ..errors import BadInput

_P = 2**255 - 19
_HEX = re.compile(r"[0-9a-f]{64}")
#: y of the points of small order: a signature under them holds for anything.
_SMALL_Y = frozenset({
    0,
    1,
    _P - 1,
    2707385501144840649318225287225658788936804267575313519463743609750303402022,
    55188659117513257062467267217118295137698188065244968500265048394206261417927,
})  # fmt: skip  # tests/core/test_seal.py has their encodings: eight times each is nothing


class Whose(StrEnum):
    """Whose key it is, as far as who checks knows."""

    OURS = "this firm’s"
    KNOWN = "a known one"
    LOST = "one that was lost before"
    OTHER = "another than the one that was asked for"
    UNKNOWN = "an unknown one"


@dataclass(frozen=True)
class KnownKey:
    """A key that who checks knows: hexadecimal, whose, until when it signed, since when it is
    lost. ``until`` and ``lost`` None while it is neither."""

    public: str
    name: str = ""
    is_ours: bool = False
    until: datetime | None = None
    lost: datetime | None = None


def weak(public: str) -> str:
    """Why a public key is fit for no signature; "" where it is. One key has one spelling."""
    if not _HEX.fullmatch(public):
        return "The key is not written as keys are: 64 hexadecimal digits in small letters."
    y = int.from_bytes(bytes.fromhex(public), "little") & (2**255 - 1)
    if y >= _P:
        return "The key is written in another spelling of itself: that is refused."
    if y in _SMALL_Y:
        return "The key is one under which anything holds (a point of small order)."
    return ""


def fingerprint(public: str) -> str:
    """SHA-256 of the key's 32 bytes in eight groups, as it is printed and read out."""
    digest = hashlib.sha256(bytes.fromhex(public)).hexdigest()
    return " ".join(digest[n : n + 8] for n in range(0, 64, 8))


def same_key(said: str, public: str) -> bool:
    """Whether a fingerprint or a whole key, as somebody typed it, is this key's; BadInput where it
    is neither."""
    typed = "".join(said.split()).replace(":", "").lower()
    if not _HEX.fullmatch(typed):
        raise BadInput(
            "A key is said by its fingerprint: 64 hexadecimal digits, with blanks or not."
        )
    return typed in (public, fingerprint(public).replace(" ", ""))


def whose(public: str, signed_at: str, known: Iterable[KnownKey]) -> tuple[Whose, KnownKey | None]:
    """Whose key a bundle's is. A retired key counts for what it signed while it was in use; of one
    that was lost nothing counts that says to be signed since, and its date alone proves none."""
    key = next((k for k in known if k.public == public), None)
    if key is None:
        return Whose.UNKNOWN, None
    when = _moment(signed_at)
    if key.lost is not None and (when is None or when >= key.lost):
        return Whose.LOST, key
    if key.until is not None and (when is None or when > key.until):
        return Whose.LOST, key
    return (Whose.OURS if key.is_ours else Whose.KNOWN), key


def _moment(text: str) -> datetime | None:
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        return None
    return found if found.tzinfo is not None else None
