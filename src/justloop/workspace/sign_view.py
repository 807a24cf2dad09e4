"""The Sign stage: what stands open, who signs, what was signed."""

from dataclasses import dataclass
from typing import Any

from ..accounts.guests import is_guest
from ..firm.models import Firm
from ..jobs import locks
from ..signing.firm_key import firm_fingerprint
from ..signing.models import SignOff
from ..signing.seen import seen_now
from ..signing.standing import OpenWork, open_work
from ..solved import SolvedSite


@dataclass(frozen=True)
class SignPage:
    """The Sign stage."""

    open: OpenWork
    licence: str
    signed: tuple[SignOff, ...]
    is_current: bool
    since: int
    key: str
    readers: tuple[tuple[str, str], ...]
    seen: str
    locked: str


READERS = (("inspector", "the inspector"), ("owner", "the owner"), ("next", "the next electrician"))


def sign_page(job: Any, revision: Any, solved: SolvedSite, user: Any) -> SignPage:
    """What stands open now; whether the newest state is the signed one."""
    signed = tuple(job.signed.select_related("who")[:20])
    newest = signed[0] if signed else None
    since = revision.number - newest.number if newest else 0
    return SignPage(
        open=open_work(job, solved, revision.aside), signed=signed,
        licence="" if is_guest(user) else Firm.ours().licence,
        is_current=bool(newest) and since == 0, since=since, key=firm_fingerprint(),
        readers=READERS,
        seen=seen_now(job), locked=locks.why_not(job, "signed"),
    )  # fmt: skip
