"""Readings as a table and as a file: CSV with documented columns, JSON with a schema.

    kind,place,value,unit,at,who,instrument,temperature_c,loaded,no_trip,simulated,remark,id

Only ``kind``, ``place`` and ``value`` are needed. ``place`` is an id or a name. What a stand-in
read stays simulated. Rows of the kind ``soil`` are given out and passed over when read: the Earth
stage keeps those.
"""

import csv
import io
import math
from collections.abc import Iterable
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..cells import guarded, unguarded
from ..errors import BadInput
from ..site import Installation, name_of
from ..site.plan import names_on_plan
from .reading import TypedReading, reading_kinds

MOST_BYTES, MOST_ROWS = 1_000_000, 2000


class ReadingRow(BaseModel):
    """One reading as a file has it."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)

    kind: str = Field(max_length=20, description="A kind of reading: loop, r2, ng, clamp, …")
    place: str = Field(max_length=80, description="The id of a part of the job, or its name.")
    value: float = Field(ge=0, lt=1e7, description="In the unit of its kind.")
    unit: str = Field("", max_length=10, description="Given out; of the kind, so not read.")
    at: str = Field("", max_length=40, description="When it was read, ISO 8601.")
    who: str = Field("", max_length=80, description="Who read it.")
    instrument: str = Field("", max_length=80, description="With which instrument.")
    temperature_c: float | None = Field(None, ge=-60, le=120, description="°C, where known.")
    loaded: bool = Field(False, description="Loads were on.")
    no_trip: bool = Field(False, description="In a loop meter's no-trip range.")
    simulated: bool = Field(False, description="A stand-in read it; for ever.")
    remark: str = Field("", max_length=200, description="As it was typed, or a remark.")
    id: str = Field("", max_length=40, description="Its own id: the same twice is kept once.")


class ReadingsFile(BaseModel):
    """The JSON file."""

    model_config = ConfigDict(extra="forbid")

    format: Literal[1] = 1
    readings: list[ReadingRow] = Field(max_length=MOST_ROWS)


def write_table(rows: Iterable[ReadingRow]) -> str:
    """CSV. A text cell that a spreadsheet would take for a formula gets an apostrophe."""
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(ReadingRow.model_fields)
    for row in rows:
        table.writerow([_cell(v) for v in row.model_dump().values()])
    return out.getvalue()


def _cell(value: object) -> object:
    if isinstance(value, bool):
        return "yes" if value else ""
    if isinstance(value, str):
        return guarded(value)
    return "" if value is None else value


def read_table(site: Installation, text: str) -> list[tuple[ReadingRow, TypedReading]]:
    """The readings of a CSV or JSON file, each understood at its place; BadInput names the row."""
    if len(text.encode()) > MOST_BYTES:
        raise BadInput(f"A file of readings is at most {MOST_BYTES / 1e6:g} MB.")
    found = _json_rows(text) if text.lstrip().startswith("{") else _csv_rows(text)
    rows = [row for row in found if row.kind != "soil"]
    if not rows:
        raise BadInput("There is no reading in that file.")
    return [(row, typed_of(site, row, f"Row {n}")) for n, row in enumerate(rows, 1)]


def _json_rows(text: str) -> list[ReadingRow]:
    try:
        return ReadingsFile.model_validate_json(text).readings
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise BadInput(f"That file of readings: {where or 'it'}: {first['msg']}.") from None


def _csv_rows(text: str) -> list[ReadingRow]:
    table = csv.DictReader(io.StringIO("\n".join(text.lstrip("\ufeff").splitlines())))
    try:
        heading = [(name or "").strip().lower() for name in table.fieldnames or ()]
    except csv.Error as error:
        raise BadInput(f"That is no CSV file: {error}.") from None
    if not {"kind", "place", "value"} <= set(heading):
        raise BadInput("The first line needs the columns kind, place and value.")
    table.fieldnames = heading
    found: list[ReadingRow] = []
    try:
        for n, cells in enumerate(table, 1):
            if n > MOST_ROWS:
                raise BadInput(f"At most {MOST_ROWS} readings in one file.")
            if not any(cells.values()):
                continue
            found.append(_row(n, cells))
    except csv.Error as error:
        raise BadInput(f"That is no CSV file: {error}.") from None
    return found


_YES = {"yes", "true", "1", "x"}


def _row(n: int, cells: dict[str | None, Any]) -> ReadingRow:
    given: dict[str, object] = {}
    for name, cell in cells.items():
        if name not in ReadingRow.model_fields or not isinstance(cell, str) or not cell.strip():
            continue
        text = cell.strip()
        is_flag = ReadingRow.model_fields[name].annotation is bool
        given[name] = text.lower() in _YES if is_flag else unguarded(text)
    if "value" in given:
        given["value"] = str(given["value"]).replace(",", ".")
    try:
        return ReadingRow.model_validate(given)
    except ValidationError as error:
        first = error.errors()[0]
        raise BadInput(f"Row {n}: {first['loc'][0]}: {first['msg']}.") from None


def typed_of(site: Installation, row: ReadingRow, where: str) -> TypedReading:
    """A row understood at its place."""
    if row.kind not in reading_kinds():
        kinds = ", ".join(reading_kinds())
        raise BadInput(f"{where}: “{row.kind}” is no kind of reading; {kinds} are.")
    if not math.isfinite(row.value):
        raise BadInput(f"{where}: that value cannot be read.")
    elements = site.elements()
    names = {i: name_of(e) for i, e in elements.items()} | names_on_plan(site)
    place = row.place
    if place not in elements:
        low = place.lower()
        named = [i for i, e in elements.items() if low in (names[i].lower(), name_of(e).lower())]
        if len(named) != 1:
            raise BadInput(f"{where}: there is no one place “{row.place}” in this job.")
        place = named[0]
    return TypedReading(row.remark, row.kind, place, names[place], row.value, row.loaded,
                        celsius=row.temperature_c, no_trip=row.no_trip)  # fmt: skip


def readings_schema() -> dict[str, Any]:
    """The JSON file's schema, as the documentation has it."""
    return ReadingsFile.model_json_schema()
