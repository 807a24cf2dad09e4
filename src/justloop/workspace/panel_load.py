"""The Panels stage, its Load: a dwelling's load by each method, its neutral, and what fits."""

from dataclasses import dataclass

from returnpath.errors import BadInput
from returnpath.panels import (
    METHOD_WORDS,
    DwellingLoad,
    LoadItem,
    LoadMethod,
    dwelling_load,
    typed_item,
)
from returnpath.working import Step, figures

from ..address import Address
from ..solved import SolvedSite
from .fields import fact_href

#: Asked for most: a vehicle charger.
USUAL = "48 A vehicle charger"
TAB = "load"


@dataclass(frozen=True)
class MethodRow:
    """One method: its name and section, its amperes, the address that opens its working."""

    words: str
    section: str
    amps: str
    href: str
    current: bool


@dataclass(frozen=True)
class LoadView:
    """What the page says of a dwelling's load. ``ask`` where its floor area is to be said; the
    rest is then empty. ``fits`` of the load that was asked for, None: not known."""

    ask: str = ""
    amps: str = ""
    of: str = ""
    room: str = ""
    unknown: tuple[str, ...] = ()
    asked: str = ""
    with_it: str = ""
    fits: bool | None = None
    error: str = ""
    steps: tuple[Step, ...] = ()
    methods: tuple[MethodRow, ...] = ()
    neutral: str = ""
    neutral_steps: tuple[Step, ...] = ()
    least: str = ""
    tab_href: str = ""

    @property
    def fits_words(self) -> str:
        """What becomes of the load that was asked for; "" where the service's rating is not
        known."""
        if not self.with_it:
            return ""
        words = {True: "fits", False: "does not fit", None: "may not fit, at least"}[self.fits]
        return f"{self.asked} {words}: {self.with_it} of {self.of} A"


def load_view(solved: SolvedSite, panel: str, address: Address) -> LoadView | None:
    """The dwelling's load; None at any panel but its first, or where there is no building."""
    site = solved.site
    if panel != site.panel.id or not site.buildings:
        return None
    method = LoadMethod(address.open) if address.open in list(LoadMethod) else LoadMethod.EXISTING
    found = dwelling_load(site, method)
    if found is None:
        return LoadView(ask=fact_href(site, address, f"{site.buildings[0].id}.floor_area_sqft"))
    asked, error = _asked(address.q)
    with_it = dwelling_load(site, method, add=asked) if asked else None
    known = found.rating_a is not None
    return LoadView(
        amps=f"{found.amps:.0f}",
        of=f"{found.rating_a:g}" if known else "",
        room=f"{found.room_a:.0f}" if found.room_a and found.room_a > 0 else "",
        unknown=found.unknown,
        asked=address.q or USUAL,
        with_it=f"{with_it.amps:.0f}" if with_it and known else "",
        fits=with_it.fits if with_it else None,
        error=error,
        steps=(with_it or found).steps if address.q else found.steps,
        methods=(  # the face shows one alone
            tuple(_row(solved, m, found, address) for m in LoadMethod)
            if address.show == TAB
            else ()
        ),
        neutral=figures(found.neutral_a),
        neutral_steps=found.neutral_steps,
        least=f"{found.least_service_a:.0f}",
        tab_href=address.to(show=TAB, at=panel),
    )


def _asked(text: str) -> tuple[LoadItem | None, str]:
    """(the load that was typed, the usual one for nothing; what is wrong with it)."""
    try:
        return typed_item(text or USUAL), ""
    except BadInput as wrong:
        return None, wrong.sentence


def _row(
    solved: SolvedSite, method: LoadMethod, chosen: DwellingLoad, address: Address
) -> MethodRow:
    words, section = METHOD_WORDS[method]
    found = chosen if method is chosen.method else dwelling_load(solved.site, method)
    href = address.to(open=method.value, show=TAB)
    return MethodRow(words, section, f"{found.amps:.0f}", href, method is chosen.method)
