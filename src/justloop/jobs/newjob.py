"""A new job from one short page: the facts it asks for, and the edits they make."""

from dataclasses import dataclass

from returnpath import tables
from returnpath.errors import BadInput
from returnpath.site import (
    Add,
    Circuit,
    Installation,
    Set,
    Supply,
    apply,
    field_info,
    first_example,
    parse_text,
    read_circuit,
)
from returnpath.site.speech import field_in
from returnpath.vocabulary import FactPath, System
from returnpath.words import RuleSet

#: The facts asked for, by group, as paths of the model; ``circuit`` is the typed line's.
GROUPS = {
    "supply": (
        "u1.kva",
        "u1.percent_z",
        "u1.x_over_r",
        "u1.fault_a",
        "u1.fault_kind",
        "u1.primary_mva",
    ),
    "service": (
        "s1.run",
        "s1.length_ft",
        "s1.line_size",
        "s1.line_material",
        "s1.neutral_size",
    ),
    "panel": ("p1.main.rating_a", "p1.bond"),
    "main": ("p1.main.lo", "p1.main.hi"),
    "circuit": ("circuit.breaker.lo", "circuit.breaker.hi"),
}
#: The same of the metric rule set: no plate of a transformer, but what is measured at the origin.
METRIC_GROUPS = {
    "supply": ("u1.fault_a",),
    "service": ("u1.system", "u1.earthing", "u1.ze_ohm", "s1.line_size"),
    "panel": ("p1.main.rating_a", "p1.rcd_ma"),
    "main": (),
    "circuit": (),
}
#: Labels that need their element's name on this page, where the elements are not apart.
LABELS = {
    "u1.kva": "Transformer",
    "p1.main.rating_a": "Main breaker",
    "p1.bond": "Main bond",
    "s1.length_ft": "Run, one way",
    "s1.line_material": "Their metal",
}
METRIC_LABELS = {
    "u1.system": "Supply",
    "u1.fault_a": "Prospective fault current",
    "s1.line_size": "Supply tails",
    "p1.main.rating_a": "Main switch",
}
MAIN_RATINGS = {
    RuleSet.US: (60, 100, 125, 150, 200, 225, 320, 400),
    RuleSet.METRIC: (40, 63, 80, 100, 125),
}
#: What a metric job begins as: its rule set follows from its supply's system.
METRIC_START = Installation(frequency_hz=50, supplies=(Supply(id="u1", system=System.SINGLE_230),))


@dataclass
class NewField:
    """One box of the page."""

    path: str
    label: str
    kind: str
    unit: str
    help: str
    value: str
    choices: list[tuple[str, str]]
    error: str = ""

    @property
    def id(self) -> str:
        """A stable id, fit for HTML."""
        return "n-" + self.path.replace(".", "-")


class NewJob:
    """The page's state: what was typed, what is wrong with it, the site it makes."""

    def __init__(self, data=None, rules: str = ""):
        self.data = data or {}
        metric = (self.data.get("rules") or rules) == RuleSet.METRIC
        self.rule_set = RuleSet.METRIC if metric else RuleSet.US
        self.errors: dict[str, str] = {}
        self.site: Installation | None = None

    def text(self, name: str) -> str:
        """What was typed into ``name``."""
        return " ".join(str(self.data.get(name, "")).split())[:300]

    def groups(self) -> dict[str, list[NewField]]:
        """The boxes by group."""
        return {name: [self._field(p) for p in paths] for name, paths in self._groups.items()}

    @property
    def _groups(self) -> dict[str, tuple[str, ...]]:
        return METRIC_GROUPS if self.is_metric else GROUPS

    @property
    def is_metric(self) -> bool:
        """Whether the job is to be of the metric rule set."""
        return self.rule_set is RuleSet.METRIC

    @property
    def start(self) -> Installation:
        """What it begins as."""
        return METRIC_START if self.is_metric else Installation()

    @property
    def example(self) -> str:
        """A line that can be typed."""
        return first_example(self.rule_set)

    def supply_open(self) -> bool:
        """Whether figures of the supply were typed or refused."""
        return any(self.text(p) or p in self.errors for p in self._groups["supply"])

    @property
    def main_open(self) -> bool:
        """Whether figures of the main breaker were typed or refused."""
        return self._is_open("main")

    @property
    def circuit_open(self) -> bool:
        """Whether figures of the circuit's breaker were typed or refused."""
        return self._is_open("circuit")

    def _is_open(self, group: str) -> bool:
        return any(self.text(p) or p in self.errors for p in self._groups[group])

    def _field(self, path: str) -> NewField:
        info = self._info(path)
        if info.kind == "size":
            metal = "aluminium" if path.startswith("s1") else "copper"
            made = tables.metric_conductors() if self.is_metric else tables.sizes(metal)
            choices = [(s, tables.size_name(s)) for s in made]
        else:
            choices = list(info.choices.items())
        if path == "p1.main.rating_a":
            choices = [(str(r), f"{r} A") for r in MAIN_RATINGS[self.rule_set]]
        return NewField(
            path,
            (METRIC_LABELS if self.is_metric else LABELS).get(path, info.label),
            info.kind,
            info.unit,
            info.help,
            self.text(path),
            choices,
            self.errors.get(path, ""),
        )

    def _info(self, path: str):
        path = FactPath(path)
        if path.element == "circuit":
            return field_info(Circuit(id="c1"), path.fact)
        return field_in(self.start, path)

    def is_valid(self) -> bool:
        """Read everything; ``site`` is made when nothing was refused."""
        self.errors = {}
        name = self.text("name")
        if not name:
            self.errors["name"] = "Give the job a name: the owner's, the house's, the street's."
        elif len(name) > 80:
            self.errors["name"] = "At most 80 characters."
        if len(self.text("place")) > 120:
            self.errors["place"] = "At most 120 characters."
        site = self.start
        paths = [
            p for paths in self._groups.values() for p in paths if not p.startswith("circuit.")
        ]
        for path in paths:
            site = self._put(site, path, path)
        site = self._circuit(site)
        if not self.errors:
            # A place begins with one building; the others are typed as they are walked to.
            site = apply(site, Add(to="buildings", facts={"name": "House"}))
            self.site = apply(site, Set(path="p1.building", value=site.buildings[0].id))
        return not self.errors

    def _put(self, site: Installation, name: str, path: str) -> Installation:
        text = self.text(name)
        if not text:
            return site
        try:
            return apply(site, Set(path=path, value=parse_text(self._info(name), text)))
        except BadInput as error:
            self.errors[name] = error.sentence
            return site

    def _circuit(self, site: Installation) -> Installation:
        line = self.text("line")
        if not line:
            return site
        reading = read_circuit(line, self.start)
        if reading.problems or not reading.is_complete:
            problems = " ".join(reading.problems)
            self.errors["line"] = problems or f"Type a circuit, such as {self.example}."
            return site
        try:
            site = apply(site, Add(facts=reading.facts))
        except BadInput as error:
            self.errors["line"] = error.sentence
            return site
        made = site.circuits[-1].id
        for path in self._groups["circuit"]:
            site = self._put(site, path, path.replace("circuit", made, 1))
        return site
