"""Writes the documentation that is made from the code: schemas and the job format's tables.

``docs/*.schema.json`` (job, check, readings), ``docs/job-format.md``,
``docs/findings.md``. A test compares.
"""

import json
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "src"))

from returnpath.command.schema import check_schema, job_schema  # noqa: E402
from returnpath.readings.table import readings_schema  # noqa: E402
from returnpath.record import record_kinds  # noqa: E402
from returnpath.rules.pages import all_pages  # noqa: E402
from returnpath.site import FORMAT, LISTS, UNDERSTOOD, Practice, fields_of  # noqa: E402

HEAD = (ROOT / "docs" / "job-format.head.md").read_text("utf-8")


def table(model) -> str:
    """The facts of one element as a table."""
    lines = ["| key | what | kind | may be |", "|---|---|---|---|"]
    plain = {
        name: info
        for name, info in model.model_fields.items()
        if not info.json_schema_extra and name not in ("id", "main", "breaker")
    }
    for name in plain:
        lines.append(f"| `{name}` | {_PLAIN.get(name, name)} | id | |")
    for info in fields_of(model):
        may = ", ".join(f"`{c}`" for c in info.choices) if info.choices else _limits(info)
        label = info.label + (f" ({info.help})" if info.help else "")
        lines.append(f"| `{info.path}` | {label} | {_KINDS.get(info.kind, info.kind)} | {may} |")
    return "\n".join(lines)


_PLAIN = {
    "panel": "the panel it is in (an id of `panels`)",
    "supply": "where the run starts (an id of `supplies`)",
    "to": "where it ends (an id of `panels`)",
    "source": "where it starts (an id of `panels`)",
    "on": "the branch it is on: `s1.neutral`, `f3.egc`, `c4.line1`",
    "reach": "metals within reach of the case (list of ids)",
    "joined_to": "metals the case is joined to (list of ids)",
}
_KINDS = {
    "length": "number, feet",
    "amps": "number, amperes",
    "size": "text: `12`, `4/0`, `250`, `2.5mm2`",
    "raceway": "text: `1/2`, `1-1/4` (inches)",
    "ref": "id",
    "choice": "one of",
}


def _limits(info) -> str:
    if info.kind == "ref":
        return f"an id of `{info.to}`"
    if info.low is None:
        return ""
    return f"{info.low:g} to {info.high:g} {info.unit}".strip()


def job_format() -> str:
    """The whole page."""
    parts = [HEAD.replace("{format}", str(FORMAT))]
    for name, (model, letter) in LISTS.items():
        doc = " ".join(model.__doc__.split())
        parts.append(f"## `{name}`: ids begin with `{letter}`\n\n{doc}\n\n{table(model)}\n")
    doc = " ".join(Practice.__doc__.split())
    parts.append(f"## `practice`: its id is `practice`\n\n{doc}\n\n{table(Practice)}\n")
    parts.append("## The sheath grammar\n\nWhat `read` and the screen understand, in any order:\n")
    parts.append("\n".join(f"- `{word}` {meaning}" for word, meaning in UNDERSTOOD) + "\n")
    return "\n".join(parts)


def record_pages() -> str:
    """The family that rests on what was read and seen; the Log shows it."""
    parts = ["# Record\n\nOf what was read and photographed, in the Log.\n"]
    for kind in record_kinds().values():
        parts.append(
            f"## {kind.id}\n\n**{kind.level}** · record\n\nLooks for: {kind.looks}\n\n"
            f"Why: {kind.why}\n\nDo: {kind.do}\n"
        )
    return "\n".join(parts)


def files() -> dict[Path, str]:
    """Every file that is made here, and its text."""
    docs = ROOT / "docs"
    dumped = {"job": job_schema(), "check": check_schema(), "readings": readings_schema()}
    found = {
        docs / f"{name}.schema.json": json.dumps(schema, indent=1, ensure_ascii=False) + "\n"
        for name, schema in dumped.items()
    }
    found[docs / "job-format.md"] = job_format()
    found[docs / "findings.md"] = f"{all_pages().rstrip()}\n\n{record_pages()}"
    return found


if __name__ == "__main__":
    for path, text in files().items():
        path.write_text(text, "utf-8")
