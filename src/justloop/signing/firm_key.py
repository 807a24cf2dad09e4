"""The firm's Ed25519 key: made at the first sign-off, kept beside the database, never given out."""

import os
import secrets
from pathlib import Path

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from django.conf import settings

from returnpath.errors import BadInput


def key_path() -> Path:
    """Where it lies."""
    return Path(settings.KEYS) / "firm.ed25519"


def firm_key() -> Ed25519PrivateKey:
    """The key; made where there is none yet. Two at once: the first that is written stays."""
    path = key_path()
    try:
        if not path.exists():
            path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            made = Ed25519PrivateKey.generate().private_bytes_raw().hex()
            part = path.with_name(f"{path.name}.{secrets.token_hex(8)}.part")
            part.touch(mode=0o600)
            part.write_text(made, "ascii")
            try:
                os.link(part, path)
            except FileExistsError:
                pass
            finally:
                part.unlink(missing_ok=True)
        return Ed25519PrivateKey.from_private_bytes(bytes.fromhex(path.read_text("ascii").strip()))
    except (OSError, ValueError) as error:
        raise BadInput(f"The firm's key cannot be used: {error}. Nothing was signed.") from None


def public_key() -> str:
    """The public part, hexadecimal; "" while there is no key."""
    return firm_key().public_key().public_bytes_raw().hex() if key_path().exists() else ""
