"""The firm's Ed25519 keys: made at the first sign-off, kept beside the database, never given out.

The newest signs. A key that was changed keeps its public part in the database: what it signed is
verified as of its time. Of one that was lost, what says to be signed since counts for nothing.
"""

import os
import secrets
from datetime import datetime
from pathlib import Path

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from django.conf import settings
from django.db import transaction
from django.utils import timezone

from returnpath.errors import BadInput
from returnpath.seal import KnownKey, fingerprint, weak

from ..files_kept import to_disk
from .models import FirmKey


def key_path() -> Path:
    """Where the one that signs lies."""
    return Path(settings.KEYS) / "firm.ed25519"


def firm_key() -> Ed25519PrivateKey:
    """The key that signs; made where there is none yet. Two at once: the first that is written
    stays."""
    path = key_path()
    try:
        if not path.exists():
            _make(path)
        return Ed25519PrivateKey.from_private_bytes(bytes.fromhex(path.read_text("ascii").strip()))
    except (OSError, ValueError) as error:
        raise BadInput(f"The firm's key cannot be used: {error}. Nothing was signed.") from None


def _make(path: Path) -> None:
    """A new key under a name that nobody has taken; on the disk before anything is signed."""
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    part = path.with_name(f"{path.name}.{secrets.token_hex(8)}.part")
    part.touch(mode=0o600)
    with part.open("w", encoding="ascii") as file:
        file.write(Ed25519PrivateKey.generate().private_bytes_raw().hex())
        file.flush()
        os.fsync(file.fileno())
    try:
        os.link(part, path)
    except FileExistsError:
        pass
    finally:
        part.unlink(missing_ok=True)
    to_disk(path.parent)


def public_key() -> str:
    """The public part of the key that signs, hexadecimal; "" while there is none."""
    return firm_key().public_key().public_bytes_raw().hex() if key_path().exists() else ""


def firm_fingerprint() -> str:
    """Its fingerprint, as reports print it; "" while there is no key."""
    public = public_key()
    return fingerprint(public) if public else ""


def enter_key() -> FirmKey:
    """The key that signs, on the list of keys."""
    public = firm_key().public_key().public_bytes_raw().hex()
    return FirmKey.objects.get_or_create(public=public, defaults={"is_ours": True})[0]


def change_key(lost_from: datetime | None = None) -> FirmKey:
    """A new key signs from now on; the old one's private part is put aside under its fingerprint.
    ``lost_from``: it was lost then."""
    path = key_path()
    if path.exists():
        old = enter_key()
        with transaction.atomic():
            old.until = old.until or timezone.now()
            old.lost = lost_from or old.lost
            old.save(update_fields=["until", "lost"])
            aside = path.with_name(f"until-{old.until:%Y%m%d-%H%M%S}-{old.public[:16]}.ed25519")
            path.replace(aside)
    return enter_key()


def mark_lost(key: FirmKey, lost_from: datetime) -> None:
    """Of a key on the list: lost since then. The one that signs is changed with it."""
    if key.public == public_key():
        change_key(lost_from)
        return
    key.lost = lost_from
    key.save(update_fields=["lost"])


def know_key(public: str, name: str) -> FirmKey:
    """Another firm's key on the list; BadInput where it is no key, or has no name."""
    public = "".join(public.split()).lower()
    name = " ".join(name.split())[:80]
    if why := weak(public):
        raise BadInput(why)
    if not name:
        raise BadInput("Whose key it is: write the firm's name.")
    return FirmKey.objects.get_or_create(public=public, defaults={"name": name})[0]


def known_keys() -> list[KnownKey]:
    """Every key that this firm knows, its own first."""
    if key_path().exists():
        enter_key()
    return [
        KnownKey(k.public, k.name, k.is_ours, k.until, k.lost)
        for k in FirmKey.objects.order_by("-is_ours", "-since")
    ]
