"""A signed bundle: what it holds, whether it is whole, whose signature it carries."""

from .bundle import MOST_BYTES, Verified, open_bundle, verify_bundle, write_bundle
from .keys import KnownKey, Whose, fingerprint, same_key, weak, whose
from .manifest import Manifest, Signed, canonical, digest_of, hash_of, manifest_of, seal

__all__ = [
    "MOST_BYTES",
    "KnownKey",
    "Manifest",
    "Signed",
    "Verified",
    "Whose",
    "canonical",
    "digest_of",
    "fingerprint",
    "hash_of",
    "manifest_of",
    "open_bundle",
    "same_key",
    "seal",
    "verify_bundle",
    "weak",
    "whose",
    "write_bundle",
]
