"""A new job from one short page: the facts it asks for, and the edits they make."""

from dataclasses import dataclass

from returnpath import tables
from returnpath.errors import BadInput
from returnpath.site import (
    Add,
    Circuit,
    Installation,
    Set,
    apply,
    field_info,
    parse_text,
    read_circuit,
)
from returnpath.vocabulary import FactPath

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
#: Labels that need their element's name on this page, where the elements are not apart.
LABELS = {
    "u1.kva": "Transformer",
    "p1.main.rating_a": "Main breaker",
    "p1.bond": "Main bond",
    "s1.length_ft": "Run, one way",
    "s1.line_material": "Their metal",
}
MAIN_RATINGS = (60, 100, 125, 150, 200, 225, 320, 400)
EXAMPLE = "20A 12/2 NM 85ft kitchen counter"


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

    def __init__(self, data=None):
        self.data = data or {}
        self.errors: dict[str, str] = {}
        self.site: Installation | None = None

    def text(self, name: str) -> str:
        """What was typed into ``name``."""
        return " ".join(str(self.data.get(name, "")).split())[:300]

    def groups(self) -> dict[str, list[NewField]]:
        """The boxes by group."""
        return {name: [self._field(p) for p in paths] for name, paths in GROUPS.items()}

    def supply_open(self) -> bool:
        """Whether figures of the supply were typed or refused."""
        return any(self.text(p) or p in self.errors for p in GROUPS["supply"])

    @property
    def main_open(self) -> bool:
        """Whether figures of the main breaker were typed or refused."""
        return self._is_open("main")

    @property
    def circuit_open(self) -> bool:
        """Whether figures of the circuit's breaker were typed or refused."""
        return self._is_open("circuit")

    def _is_open(self, group: str) -> bool:
        return any(self.text(p) or p in self.errors for p in GROUPS[group])

    def _field(self, path: str) -> NewField:
        info = self._info(path)
        if info.kind == "size":
            metal = "aluminium" if path.startswith("s1") else "copper"
            choices = [(s, tables.size_name(s)) for s in tables.sizes(metal)]
        else:
            choices = list(info.choices.items())
        if path == "p1.main.rating_a":
            choices = [(str(r), f"{r} A") for r in MAIN_RATINGS]
        return NewField(
            path,
            LABELS.get(path, info.label),
            info.kind,
            info.unit,
            info.help,
            self.text(path),
            choices,
            self.errors.get(path, ""),
        )

    @staticmethod
    def _info(path: str):
        path = FactPath(path)
        if path.element == "circuit":
            return field_info(Circuit(id="c1"), path.fact)
        return field_info(Installation().elements()[path.element], path.fact)

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
        site = Installation()
        paths = [p for paths in GROUPS.values() for p in paths if not p.startswith("circuit.")]
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
        reading = read_circuit(line)
        if reading.problems or not reading.is_complete:
            problems = " ".join(reading.problems)
            self.errors["line"] = problems or f"Type a circuit, such as {EXAMPLE}."
            return site
        try:
            site = apply(site, Add(facts=reading.facts))
        except BadInput as error:
            self.errors["line"] = error.sentence
            return site
        made = site.circuits[-1].id
        for path in GROUPS["circuit"]:
            site = self._put(site, path, path.replace("circuit", made, 1))
        return site
