"""The page of each finding: what it looks for, why, a bad and a good example."""

from ..site import Add, Set, apply, describe, field_info
from ..study import study
from .pairs import base, edited, pair
from .registry import all_checks, findings


def page(id: str, edition: int = 2023) -> str:
    """One finding's page as Markdown."""
    entry = all_checks()[id]
    bad, good, _ = pair(id)
    site = edited(bad)
    shown = next((f for f in findings(site, study(site)) if f.id == id), None)
    lines = [
        f"## {id}",
        "",
        f"**{entry.level}** · {entry.family.replace('_', ' ')} · {entry.authority(edition)}",
        "",
        f"Looks for: {entry.looks}",
        "",
        f"Why: {entry.why}",
        "",
        f"Needs: {_needs(bad)}",
        "",
        "Bad: " + _words(bad),
        "",
    ]
    if shown is not None:
        lines += [f"> {shown.found} {shown.do}", ""]
    lines.append("Good: " + (_words(good) if good else "as the clean example stands"))
    return "\n".join(lines)


def _needs(edits) -> str:
    """The facts that make it: those of the bad example."""
    site, labels = base(), []
    for edit in edits:
        if isinstance(edit, Set):
            element = site.elements()[edit.path.partition(".")[0]]
            label = field_info(element, edit.path.partition(".")[2]).label
            labels.append(f"{label} ({type(element).__name__.lower()})")
        elif isinstance(edit, Add):
            labels.append(f"the {edit.to} of the place")
        site = apply(site, edit)
    return ", ".join(dict.fromkeys(labels)) or "what is there and what is not"


def _words(edits) -> str:
    site, said = base(), []
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
    family = None
    for id, entry in all_checks().items():
        if entry.family != family:
            family = entry.family
            parts += [f"# {family.replace('_', ' ').capitalize()}", ""]
        parts += [page(id, edition), ""]
    return "\n".join(parts)
