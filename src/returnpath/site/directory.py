"""Circuits as CSV, in and out: a panel's directory as a table any program opens."""

import csv
import io
from typing import Any

from ..cells import guarded, unguarded
from ..errors import BadInput
from ..vocabulary import FactPath, fact_in
from .circuits import Circuit
from .fields import FieldInfo, check_value, fields_of, parse_text, show_value
from .installation import Installation

MOST_ROWS = 1000


def _columns() -> dict[str, FieldInfo]:
    return {info.path: info for info in fields_of(Circuit)}


def write_csv(site: Installation) -> str:
    """The circuits of a site, a row each, a column a fact; lengths in feet."""
    columns = _columns()
    names = {c.id: c.name or c.id for c in site.circuits}
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["panel", *columns])
    for circuit in site.circuits:
        row = [circuit.panel]
        for path, info in columns.items():
            value = fact_in(circuit, path)
            if info.path == "shares_with" and value is not None:
                value = names[value]  # ids do not outlive a table
            row.append(_cell(info, value))
        writer.writerow(row)
    return out.getvalue()


def _cell(info: FieldInfo, value: Any) -> str:
    if value is None:
        return ""
    text = str(value) if info.kind == "choice" else show_value(info, value, unit=False)
    return guarded(text)


def read_csv(text: str) -> list[dict[str, Any]]:
    """Circuits' facts from CSV, for a Replace or Adds.

    The first row names the columns as ``write_csv`` does; any of them may be left out. BadInput
    with the row and the column of the first cell that cannot be read.
    """
    if len(text) > 1_000_000:
        raise BadInput("A circuit table is at most 1 MB.")
    reader = csv.reader(io.StringIO(text.lstrip("\ufeff")))
    try:
        rows = [row for row in reader if any(cell.strip() for cell in row)]
    except csv.Error as error:
        raise BadInput(f"This is not a CSV table: {error}.") from None
    if not rows:
        raise BadInput("The table is empty: its first row names the columns.")
    columns = _columns()
    head = [cell.strip() for cell in rows[0]]
    for name in head:
        if name != "panel" and name not in columns:
            known = ", ".join(["panel", *columns])
            raise BadInput(f"“{name}” is not a column; known are {known}.")
    if len(rows) > MOST_ROWS + 1:
        raise BadInput(f"A circuit table has at most {MOST_ROWS} rows.")
    return [_facts(head, row, number, columns) for number, row in enumerate(rows[1:], 2)]


def _facts(head, row, number, columns) -> dict[str, Any]:
    facts: dict[str, Any] = {}
    if len(row) > len(head):
        raise BadInput(f"Row {number} has {len(row)} cells for {len(head)} columns.")
    for name, cell in zip(head, row, strict=False):
        cell = unguarded(cell.strip())
        if not cell:
            continue
        if name == "panel":
            facts["panel"] = cell
            continue
        try:
            value = parse_text(columns[name], cell)
            if columns[name].kind == "segments":
                value = check_value(columns[name], value)
        except BadInput as error:
            raise BadInput(f"Row {number}, {name}: {error.sentence}") from None
        here, path = facts, FactPath.of("c", name)
        for part in path.names[:-1]:
            here = here.setdefault(part, {})
        here[path.leaf] = value
    return facts
