"""The bench's tabs: which one is open, and what each counts."""

from dataclasses import dataclass

from returnpath.vocabulary import GRAVE

from ..address import TABS, Address
from .findings_view import ShownFinding


@dataclass(frozen=True)
class BenchTab:
    """A tab of the bench."""

    key: str
    label: str
    count: int
    grave: bool
    href: str
    current: bool


def tabs(address: Address, context: dict) -> list[BenchTab]:
    """The tabs of a place that have something in them; the open one is marked."""
    here = context["findings"].here
    there = {
        "findings": True,
        "facts": True,
        "loop": bool(context.get("rows")),
        "sizes": bool(context.get("sizes")),
        "try": bool(context["whatifs"]),
    }
    shown = [key for key in TABS if there[key]]
    open_one = _open(address, here)
    if open_one not in shown:
        open_one = "facts"
    return [
        BenchTab(
            key=key,
            label=TABS[key],
            count=len(here) if key == "findings" else 0,
            grave=key == "findings" and any(f.level in GRAVE for f in here),
            href=address.to(tab=key),
            current=key == open_one,
        )
        for key in shown
    ]


def _open(address: Address, here: list[ShownFinding]) -> str:
    """What was asked for; else the tab of an opened working; else a danger or fix, else facts."""
    opened = address.open
    if opened.startswith("size-"):
        return "sizes"
    if opened.startswith("aside:"):
        return "findings"
    if opened:
        return "loop"
    if address.tab:
        return address.tab
    return "findings" if any(f.level in GRAVE for f in here) else "facts"
