"""Where a person stands in a job: stage, element, loop, look. All of it is in the address."""

from dataclasses import dataclass, fields
from functools import cached_property, lru_cache
from urllib.parse import quote_plus

from django.urls import reverse

from .drawing.looks import LOOKS

#: The stages that are built, in the order of the work.
STAGES = {
    "survey": "Survey",
    "service": "Service",
    "panels": "Panels",
    "earth": "Earth",
    "buildings": "Buildings",
    "array": "Array",
    "prove": "Prove",
    "fix": "Fix list",
    "plan": "Plan",
    "readings": "Log",
    "sign": "Sign",
}
MAP_STAGES = ("service", "buildings")  # Survey has the outline instead
#: Where a group of stages begins, and what it is called.
GROUPS = {"survey": "the place", "prove": "the proof", "plan": "the work"}
FIRST = "service"


@lru_cache(maxsize=4096)
def _path(pk: int, stage: str) -> str:
    return reverse("workspace", args=[pk, stage])


IN_QUERY = ("at", "loop", "look", "open", "more", "map", "beside", "show", "q", "tab")
#: The bench's tabs.
TABS = {"findings": "Findings", "facts": "Facts", "loop": "Loop", "sizes": "Sizes", "try": "Try"}


def _quoted(text: str) -> str:
    """``text`` as a query holds it; most are plain ids, and a page has hundreds."""
    return text if text.isalnum() and text.isascii() else quote_plus(text)


@dataclass(frozen=True)
class Address:
    """One address of the workspace. ``open`` a working, ``more`` the bench's other facts,
    ``map`` the map under the chosen row of the table,
    ``beside`` a second place, ``show`` the filter of the table, ``q`` its search, ``tab`` the
    bench's (empty: the one that matters first there)."""

    pk: int
    stage: str = FIRST
    at: str = ""
    loop: str = ""
    look: str = "fault"
    open: str = ""
    more: str = ""
    map: str = ""
    beside: str = ""
    show: str = ""
    q: str = ""
    tab: str = ""

    def to(self, **changes) -> str:
        """The address with ``changes``; what is closed or empty is left out."""
        asked = {**self._asked, "open": "", **changes}
        path = _path(asked["pk"], asked["stage"])
        if asked["loop"] == asked["at"]:
            asked["loop"] = ""
        if asked["look"] == "fault":
            asked["look"] = ""
        query = "&".join(f"{k}={_quoted(asked[k])}" for k in IN_QUERY if asked[k])
        return f"{path}?{query}" if query else path

    @cached_property
    def _asked(self) -> dict:
        return {f.name: getattr(self, f.name) for f in fields(self)}

    @property
    def here(self) -> str:
        """This address."""
        return self.to(open=self.open)


def address_of(job, stage: str, chosen) -> Address:
    """The address that a query or a form asks for; nonsense falls back to the usual."""

    def text(name: str, most: int = 60) -> str:
        return str(chosen.get(name, ""))[:most]

    look = text("look")
    return Address(
        pk=job.pk,
        stage=stage if stage in STAGES else FIRST,
        at=text("at", 20),
        loop=text("loop", 20),
        look=look if look in LOOKS else "fault",
        open=text("open"),
        more="1" if text("more") else "",
        map="1" if text("map") else "",
        beside=text("beside", 20),
        show=text("show", 20),
        q=_typed_in(chosen) or text("q", 1500 if stage in ("earth", "array", "readings") else 60),
        tab=text("tab") if text("tab") in TABS else "",
    )


def _typed_in(chosen) -> str:
    """Readings typed into the Earth stage as one text: what they were taken with, the readings, a
    clamp's."""
    if "readings" not in chosen:
        return ""
    lines = str(chosen.get("readings", ""))[:1400].replace("|", " ").splitlines()
    parts = (
        str(chosen.get("far", chosen.get("season", "")))[:10].replace("|", " ").strip(),
        ";".join(line.strip() for line in lines if line.strip()),
        str(chosen.get("clamp", ""))[:12].replace("|", " ").strip(),
    )
    return "|".join(parts)


def job_address(job, at: str = "", loop: str = "", opened: str = "", stage: str = FIRST) -> str:
    """The workspace's address with a selection."""
    return Address(job.pk, stage, at, loop, open=opened).to(open=opened)
