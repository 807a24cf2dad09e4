"""A signed bundle: what it holds, whether it is whole, whose signature it carries."""

from .bundle import MOST_BYTES, Verified, open_bundle, verify_bundle, write_bundle
from .manifest import Manifest, Signed, canonical, digest_of, hash_of, manifest_of, seal

__all__ = [
    "MOST_BYTES",
    "Manifest",
    "Signed",
    "Verified",
    "canonical",
    "digest_of",
    "hash_of",
    "manifest_of",
    "open_bundle",
    "seal",
    "verify_bundle",
    "write_bundle",
]
