"""The page of each finding: what it looks for, why, a bad and a good example."""

from functools import cache

from ..site import apply, describe
from ..study import study
from .finding import Finding
from .needs import label, rows, words
from .pairs import base, edited, pair
from .registry import all_checks, findings


def page(id: str, edition: int = 2023) -> str:
    """One finding's page as Markdown."""
    entry = all_checks()[id]
    bad, good, _ = pair(id)
    shown = _shown(id)
    lines = [
        f"## {id}",
        "",
        f"**{entry.level}** · {entry.family.replace('_', ' ')} · {entry.authority(edition)}",
        "",
        f"Looks for: {entry.looks}",
        "",
        f"Why: {entry.why}",
        "",
        f"Needs: {words(entry)}",
        *_asked(entry),
        "",
        "Bad: " + _words(id, bad),
        "",
    ]
    if shown is not None:
        lines += [f"> {shown.found} {shown.do}", ""]
    lines.append("Good: " + (_words(id, good) if good else "as the clean example stands"))
    return "\n".join(lines)


@cache
def _shown(id: str) -> Finding | None:
    """The finding as its bad example gives it."""
    site = edited(pair(id)[0], id)
    return next((f for f in findings(site, study(site)) if f.id == id), None)


def _asked(entry) -> list[str]:
    """What is asked where the site does not say, and what an absence means."""
    known = [(f, rows()[f]) for f in entry.needs if f in rows()]
    asks = dict.fromkeys(row["ask"] for _, row in known if "ask" in row)
    means = [f"{label(f)}: {row['absent']}" for f, row in known if "absent" in row]
    lines = ["", "Asks where the site does not say: " + " ".join(asks)] if asks else []
    return lines + (["", "Not entered means: " + "; ".join(means) + "."] if means else [])


def _words(id: str, edits) -> str:
    site, said = base(id), []
    for edit in edits:
        said.append(describe(site, edit))
        site = apply(site, edit)
    return "; ".join(said)


def all_pages(edition: int = 2023) -> str:
    """Every finding, family by family."""
    parts = [
        "# The findings",
        "",
        "Written from the code by `script/docs`. Levels: *danger* someone can be shocked or a fire"
        " start from what is there; *fix* breaks a rule in force; *check* measure or ask; *note*."
        f" Sections are those of {edition}; “check locally” marks the doubtful ones.",
        "",
    ]
    families: dict[str, list[str]] = {}
    for id, entry in all_checks().items():
        families.setdefault(entry.family, []).append(id)
    for family, ids in families.items():
        parts += [f"# {family.replace('_', ' ').capitalize()}", ""]
        for id in ids:
            parts += [page(id, edition), ""]
    return "\n".join(parts)
