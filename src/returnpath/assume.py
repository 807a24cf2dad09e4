"""Fills absent facts with what stands in for them, and lists what it filled and why.

Figures from ``tables/assumptions.csv`` and the size tables. The presence of a return conductor
or of a bond is never assumed.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from . import sizing, supply, tables
from .errors import BadInput
from .site import Circuit, Installation, Source, field_info, show_value

#: How far over a "more than" bound the length is taken, so that the bound itself does not pass.
OVER_A_BOUND = 1.25


@dataclass(frozen=True, slots=True)
class Assumption:
    """One fact that stands in: its ``path``, ``value``, and both in words with the reason."""

    path: str
    value: Any
    label: str
    words: str
    why: str


@dataclass(frozen=True)
class Assumed:
    """A site with nothing absent that can be assumed, and what was."""

    site: Installation
    assumptions: tuple[Assumption, ...]

    def find(self, path: str) -> Assumption | None:
        """The assumption made for ``path``, or None where the fact is known or still absent."""
        return next((a for a in self.assumptions if a.path == path), None)


def assume(site: Installation) -> Assumed:
    """``site`` with its gaps filled, and the list of what was filled."""
    filling = _Filling(site)
    _panel(filling)
    _supply(filling)
    _service(filling)
    _electrode(filling)
    for index in range(len(site.circuits)):
        _circuit(filling, index)
    return Assumed(filling.build(), tuple(filling.made))


class _Filling:
    """The site being filled: values by path, so that one copy is made at the end."""

    def __init__(self, site: Installation):
        self.site = site
        self.elements = site.elements()
        self.values: dict[str, Any] = {}
        self.made: list[Assumption] = []

    def get(self, path: str) -> Any:
        if path in self.values:
            return self.values[path]
        return self.site.value_at(path)

    def fill(self, path: str, value: Any | Callable[[], Any], fact: str = "", why: str = "") -> Any:
        """Give ``path`` a value if it has none. ``fact`` names the row whose reason is shown."""
        known = self.get(path)
        if known is not None:
            return known
        if callable(value):
            try:
                value = value()
            except BadInput:
                return None  # the tables have no answer: it stays absent
        if value is None:
            return None
        self.values[path] = value
        element_id, _, inner = path.partition(".")
        info = field_info(self.elements[element_id], inner)
        words = show_value(info, value)
        reason = why or tables.assumption_texts()[fact][1]
        self.made.append(Assumption(path, value, info.label, words, reason))
        return value

    def build(self) -> Installation:
        by_element: dict[str, dict[str, Any]] = {}
        for path, value in self.values.items():
            element_id, _, inner = path.partition(".")
            by_element.setdefault(element_id, {})[inner] = value

        def filled(element):
            updates = by_element.get(element.id)
            if not updates:
                return element
            flat = {k: v for k, v in updates.items() if "." not in k}
            for inner, value in updates.items():
                part, _, name = inner.partition(".")
                if name:
                    before = flat.get(part, getattr(element, part))
                    flat[part] = before.model_copy(update={name: value})
            return element.model_copy(update=flat)

        site = self.site
        lists = ("supplies", "panels", "electrodes", "circuits")
        update: dict[str, Any] = {n: tuple(map(filled, getattr(site, n))) for n in lists}
        update["service"] = filled(site.service)
        return site.model_copy(update=update)


def _panel(f: _Filling) -> None:
    panel = f.site.panel.id
    f.fill(f"{panel}.main.rating_a", tables.assumed_number("main breaker A"), "main breaker A")
    f.fill(f"{panel}.terminals_c", int(tables.assumed_number("terminals")), "terminals")


def _supply(f: _Filling) -> None:
    """A transformer's size from the service's, its %Z and X/R from the typical plates."""
    unit, panel = f.site.supply.id, f.site.panel.id
    large = f.get(f"{panel}.main.rating_a") > 200
    fact = "transformer kVA (over 200 A)" if large else "transformer kVA (service to 200 A)"
    why = tables.assumption_texts()[fact][1] or "common pole size for a larger service"
    kva = f.fill(f"{unit}.kva", tables.assumed_number(fact), why=why)
    percent_z, x_over_r = supply.typical(kva)
    why = "typical of its size; taken 25 % higher for the lowest current"
    f.fill(f"{unit}.percent_z", percent_z, why=why)
    f.fill(f"{unit}.x_over_r", x_over_r, why="typical of its size")
    if f.get(f"{unit}.fault_a") is not None:
        why = "the larger source of the two readings is on the safe side for the highest current"
        f.fill(f"{unit}.fault_kind", "line to neutral", why=why)


def _service(f: _Filling) -> None:
    run, panel = f.site.service.id, f.site.panel.id
    rating = f.get(f"{panel}.main.rating_a")
    edition = f.site.practice.edition
    kind = f.fill(f"{run}.run", "underground", "service run")
    fact = "overhead drop length ft" if kind == "overhead" else "underground lateral length ft"
    f.fill(f"{run}.length_ft", tables.assumed_number(fact), why="a usual length for this run")
    f.fill(f"{run}.sets", 1, why="parallel runs are rare in dwellings")
    metal = f.fill(f"{run}.line_material", "aluminium", "service conductors")
    line = f.fill(
        f"{run}.line_size",
        lambda: sizing.service_line(rating, metal, edition).value,
        "service conductors",
    )
    if line is None:
        return
    f.fill(
        f"{run}.neutral_size",
        lambda: _neutral(line, metal, f.get(f"{run}.sets"), edition),
        "service neutral",
    )


def _neutral(line: str, metal: str, sets: int, edition: int) -> str | None:
    """The least neutral, one conductor of each set, never over the line's size."""
    wanted = tables.area(sizing.smallest_neutral(line, metal, sets, metal, edition).value) / sets
    made = [s for s in tables.sizes(metal) if tables.area(s) >= wanted]
    return made[0] if made and tables.area(made[0]) <= tables.area(line) else line


def _electrode(f: _Filling) -> None:
    electrode = f.site.electrode.id
    f.fill(
        f"{electrode}.ohm",
        _electrode_ohm(),
        why="a rod that just passes; it matters little while the bond is closed",
    )
    f.fill(f"{electrode}.gec_material", "copper", why="usual")
    f.fill(f"{electrode}.lands", "neutral bar", "electrode conductor lands")


def _electrode_ohm() -> float:
    text = tables.assumption_texts()["service electrode ohm"][0]
    return float(next(w for w in text.split() if w.isdigit()))


def _circuit(f: _Filling, index: int) -> None:
    circuit = f.site.circuits[index]
    at = circuit.id
    edition = f.site.practice.edition
    f.fill(f"{at}.poles", 1, why="most are")
    f.fill(f"{at}.neutral", "yes", why="most have one")
    f.fill(f"{at}.method", "NM", why="the usual wiring of a dwelling")
    f.fill(f"{at}.insulation", "thermoplastic", why="the less heat-proof of the two")
    metal = f.fill(f"{at}.line_material", "copper", why="usual in branch circuits")
    value, why = _length(f.site.sources.get(f"{at}.length_ft"))
    f.fill(f"{at}.length_ft", value, why=why)
    rating = circuit.breaker.rating_a
    if rating is None:
        return
    f.fill(
        f"{at}.line_size",
        lambda: sizing.smallest_line(rating, metal, 75, edition).value,
        "branch line size",
        why="the smallest its breaker allows",
    )
    _return_path(f, circuit, rating, edition)


def _length(source: Source | None) -> tuple[float, str]:
    """What a run is taken to be, and why: a bound that was answered beats the usual figure."""
    usual = tables.assumed_number("branch circuit length ft")
    why = tables.assumption_texts()["branch circuit length ft"][1]
    if source is None or source.bound is None:
        return usual, why
    if source.kind == "no more than":
        return source.bound, f"known to be no longer than {source.bound:g} ft"
    over = max(usual, round(source.bound * OVER_A_BOUND))
    return over, f"known to be over {source.bound:g} ft: measure it"


def _return_path(f: _Filling, circuit: Circuit, rating: float, edition: int) -> None:
    """Sizes of a return that is known to be there; never its presence."""
    at = circuit.id
    if circuit.egc in ("wire", "both"):
        metal = f.fill(f"{at}.egc_material", "copper", why="usual")
        f.fill(
            f"{at}.egc_size",
            lambda: sizing.smallest_egc(rating, material=metal, edition=edition).value,
            "equipment grounding conductor size",
        )
    if circuit.egc in ("raceway", "both"):
        f.fill(f"{at}.raceway_size", "1/2", "raceway trade size in")
