"""The manifest of a bundle: every file's SHA-256, who signed and what of, in one canonical form.

A hash proves wholeness only. The Ed25519 signature over it is the firm's: it proves that who holds
the firm's key made it, not that what is said is true.
"""

import hashlib
import json
from collections.abc import Mapping
from typing import Any, Literal

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey
from pydantic import BaseModel, ConfigDict, Field

from .keys import weak


class Signed(BaseModel):
    """Who signed, when, under what, and what stood open."""

    model_config = ConfigDict(extra="forbid")

    who: str = Field(max_length=150)
    licence: str = Field("", max_length=120)
    at: str = Field(max_length=40)
    edition: int
    engine: str = Field(max_length=20)
    statement: str = Field(max_length=1000)
    revision: int
    open: list[str] = Field(default_factory=list, max_length=400)
    reason: str = Field("", max_length=600)


class Manifest(BaseModel):
    """What a bundle is made of, and its seal. ``hash`` is over everything but the seal itself."""

    model_config = ConfigDict(extra="forbid")

    format: Literal[1] = 1
    job: str = Field(max_length=120)
    files: dict[str, str] = Field(max_length=2000)
    signed: Signed
    hash: str = Field("", pattern=r"^([0-9a-f]{64})?$")
    public_key: str = Field("", pattern=r"^([0-9a-f]{64})?$")
    signature: str = Field("", pattern=r"^([0-9a-f]{128})?$")


def canonical(data: Mapping[str, Any]) -> bytes:
    """One way to write it: keys sorted, no blanks, UTF-8."""
    text = json.dumps(data, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return text.encode("utf-8")


def digest_of(data: bytes) -> str:
    """SHA-256, hexadecimal."""
    return hashlib.sha256(data).hexdigest()


def hash_of(manifest: Manifest) -> str:
    """Of the canonical form without the seal."""
    body = manifest.model_dump(exclude={"hash", "public_key", "signature"})
    return digest_of(canonical(body))


def manifest_of(job: str, files: Mapping[str, bytes], signed: Signed) -> Manifest:
    """Unsealed."""
    return Manifest(
        job=job[:120], files={n: digest_of(d) for n, d in sorted(files.items())}, signed=signed
    )


def seal(manifest: Manifest, key: Ed25519PrivateKey) -> Manifest:
    """Hashed, and signed with the firm's key."""
    found = hash_of(manifest)
    return manifest.model_copy(
        update={
            "hash": found,
            "public_key": key.public_key().public_bytes_raw().hex(),
            "signature": key.sign(found.encode("ascii")).hex(),
        }
    )


def signature_holds(manifest: Manifest) -> bool:
    """Whether the signature is that key's over that hash, and the key is fit to sign."""
    if weak(manifest.public_key):
        return False
    try:
        key = Ed25519PublicKey.from_public_bytes(bytes.fromhex(manifest.public_key))
        key.verify(bytes.fromhex(manifest.signature), manifest.hash.encode("ascii"))
    except (ValueError, InvalidSignature):
        return False
    return True
