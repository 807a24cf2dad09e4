"""The firm's list of breaker lines: what the manufacturer's sheet says, kept once.

A panel holds one line, so the curves of all its breakers are known together. CSV in and out; the
names are the firm's own.
"""

import csv
import io
from dataclasses import asdict, dataclass

from ..errors import BadInput, has_control, number_in
from ..vocabulary import FactPath
from .base import Provenance
from .edits import Edit, Set
from .installation import Installation

MOST_LINES = 200
COLUMNS = (
    "name", "type", "rating_from_a", "rating_to_a", "magnetic_from", "magnetic_to",
    "interrupting_ka", "calibration",
)  # fmt: skip
TYPES = ("inverse-time", "B", "C", "D")
CALIBRATIONS = ("standard", "metric")


@dataclass(frozen=True)
class BreakerLine:
    """One row: ratings in A, the magnetic band in × the rating, the interrupting rating in kA."""

    name: str
    type: str = "inverse-time"
    rating_from_a: float = 15
    rating_to_a: float = 60
    magnetic_from: float | None = None
    magnetic_to: float | None = None
    interrupting_ka: float | None = None
    calibration: str = "standard"


def write_lines(lines: list[BreakerLine]) -> str:
    """The list as CSV."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for line in lines:
        row = asdict(line)
        writer.writerow(["" if row[c] is None else _plain(row[c]) for c in COLUMNS])
    return out.getvalue()


def _plain(value: object) -> str:
    text = f"{value:g}" if isinstance(value, float) else str(value)
    # A cell that a table program would take for a formula is text.
    return f"'{text}" if text[:1] in "=+-@" else text


def read_lines_csv(text: str) -> list[BreakerLine]:
    """A list from CSV; BadInput with the row and what is wrong in it."""
    if len(text) > 200_000:
        raise BadInput("A list of breaker lines is at most 200 kB.")
    reader = csv.DictReader(io.StringIO("\n".join(text.lstrip("\ufeff").splitlines())))
    try:
        missing = [c for c in COLUMNS[:4] if c not in (reader.fieldnames or ())]
        rows = list(reader)
    except csv.Error as error:
        raise BadInput(f"This is no CSV list: {error}.") from None
    if missing:
        raise BadInput(f"The first row names the columns; missing: {', '.join(missing)}.")
    found: list[BreakerLine] = []
    for number, row in enumerate(rows, 2):
        if not any((v or "").strip() for v in row.values() if isinstance(v, str)):
            continue
        try:
            found.append(_line(row))
        except BadInput as error:
            raise BadInput(f"Row {number}: {error.sentence}") from None
        if len(found) > MOST_LINES:
            raise BadInput(f"At most {MOST_LINES} breaker lines.")
    names = [line.name.lower() for line in found]
    if twice := next((n for n in names if names.count(n) > 1), None):
        raise BadInput(f"“{twice}” is there twice.")
    return found


def _line(row: dict[str, str | None]) -> BreakerLine:
    cell = {c: (row.get(c) or "").strip().lstrip("'") for c in COLUMNS}
    if not cell["name"] or len(cell["name"]) > 60:
        raise BadInput("A line has a name of at most 60 characters.")
    if has_control(cell["name"]):
        raise BadInput("A name has no control characters.")
    kind = cell["type"] or "inverse-time"
    if kind not in TYPES:
        raise BadInput(f"“{kind}” is not a type; {', '.join(TYPES)} are.")
    calibration = cell["calibration"] or "standard"
    if calibration not in CALIBRATIONS:
        raise BadInput(f"“{calibration}” is not a calibration; {', '.join(CALIBRATIONS)} are.")
    low = number_in(_number(cell["rating_from_a"]), "Rating from", 1, 800, "A")
    high = number_in(_number(cell["rating_to_a"]), "Rating to", low, 800, "A")
    band = [_number(cell[c]) if cell[c] else None for c in ("magnetic_from", "magnetic_to")]
    for value in band:
        if value is not None:
            number_in(value, "Magnetic trip", 2, 40, "× rating")
    if kind != "inverse-time" and any(v is not None for v in band):
        raise BadInput(f"A type {kind} breaker's magnetic band is its type's: leave it empty.")
    if None not in band and band[0] > band[1]:  # type: ignore[operator]
        raise BadInput("The magnetic trip cannot end before it begins.")
    ka = _number(cell["interrupting_ka"]) if cell["interrupting_ka"] else None
    if ka is not None:
        number_in(ka, "Interrupting rating", 1, 200, "kA")
    return BreakerLine(cell["name"], kind, low, high, band[0], band[1], ka, calibration)


def _number(text: str) -> float:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        raise BadInput(f"“{text[:20]}” is not a number.") from None
    return value


def devices_at(site: Installation, panel: str) -> list[tuple[str, float]]:
    """(device path, rating) of every breaker in a panel whose rating is known."""
    found = []
    for run in (*site.circuits, *site.feeders):
        if (getattr(run, "panel", None) or getattr(run, "source", None)) == panel:
            found.append((FactPath.of(run.id, "breaker"), run.breaker.rating_a))
    here = next(p for p in site.panels if p.id == panel)
    found.append((FactPath.of(here.id, "main"), here.main.rating_a))
    return [(path, rating) for path, rating in found if rating is not None]


def edits_for(site: Installation, panel: str, line: BreakerLine) -> list[Edit]:
    """The edits that make a panel's breakers of one line: its name, and each one's curve."""
    source = Provenance(kind="marking")
    edits: list[Edit] = [Set(path=FactPath.of(panel, "breaker_line"), value=line.name)]
    for path, rating in devices_at(site, panel):
        if not line.rating_from_a <= rating <= line.rating_to_a:
            continue
        facts: dict[str, str | float | None] = {"kind": line.type}
        if line.type == "inverse-time":
            facts |= {"lo": line.magnetic_from, "hi": line.magnetic_to}
        if line.interrupting_ka is not None:
            facts["interrupting_ka"] = line.interrupting_ka
        for fact, value in facts.items():
            if value is not None:
                edits.append(Set(path=FactPath.of(path, fact), value=value, source=source))
    return edits
