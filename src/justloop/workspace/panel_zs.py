"""The boards of a metric job, its Zs: the loop each device allows, what it has, and its RCD."""

from dataclasses import dataclass

from returnpath import sizing
from returnpath.site import name_of
from returnpath.working import figures

from ..address import Address
from ..solved import SolvedSite

TAB = "zs"


@dataclass(frozen=True)
class ZsRow:
    """One circuit: its device, the time that holds, Zs allowed hot and as read cold, Zs computed
    hot, and what it rests on."""

    name: str
    href: str
    device: str
    seconds: str
    allowed: str
    cold: str
    zs: str
    rcd: str
    mark: str
    is_met: bool


@dataclass(frozen=True)
class ZsView:
    """The circuits of a board; ``cold_words`` says how a cold reading is compared."""

    rows: tuple[ZsRow, ...]
    arrangement: str
    cold_words: str


def zs_view(solved: SolvedSite, panel: str, address: Address) -> ZsView:
    """Every circuit of a board whose loop is known."""
    rows, arrangement = [], ""
    by_fifths = solved.site.practice.zs_measured == "four fifths"
    for circuit in solved.study.assumed.site.circuits:
        loop = solved.study.loops.get(circuit.id)
        if circuit.panel != panel or loop is None:
            continue
        if loop.basis is None or loop.device is None:
            continue
        arrangement = loop.basis.spine.earthing(panel) or ""
        seconds = loop.basis.time_limit().seconds
        row = sizing.allowed_row(loop.device, seconds, loop.basis.spine.volts)
        cold = row.four_fifths_ohm if by_fifths else row.cold_ohm
        met = loop.loop_ohm <= row.hot_ohm
        words = "by its device" if met else "by its RCD alone" if loop.by_rcd else "not in time"
        rows.append(
            ZsRow(
                name_of(circuit),
                address.to(at=circuit.id, loop=circuit.id, show=""),
                loop.device.name.removesuffix(" breaker").replace(" ", "\u00a0"),
                f"{seconds:g}\u00a0s",
                figures(row.hot_ohm),
                figures(cold),
                figures(loop.loop_ohm),
                f"{circuit.rcd_ma:g}\u00a0mA" if circuit.rcd_ma else "",
                words,
                met or loop.by_rcd,
            )
        )
    words = "0.8 of it" if by_fifths else "at 20 °C"
    return ZsView(tuple(rows), arrangement, words)
