"""What an engineer calls: read a job file, study it, judge it."""

import json
from pathlib import Path
from typing import Any

from .errors import BadInput
from .rules import Finding, findings, fold
from .site import Installation, loads
from .site.jobfile import MAX_BYTES
from .study import SiteStudy
from .study import study as study_site

Site = Installation

__all__ = ["BadInput", "Site", "judge", "read", "study"]


def read(source: str | Path | dict[str, Any]) -> Site:
    """A site from a job file's path, its text, or its plain data.

    A demo file, which holds one under “job”, is read too. BadInput says in one sentence what is
    wrong, with the path of the fact.
    """
    if isinstance(source, dict):
        return _site(json.dumps(source))
    if isinstance(source, str) and source.lstrip().startswith("{"):
        return _site(source)
    return _site(text_of(source))


def text_of(path: str | Path) -> str:
    """A file's text; BadInput where it cannot be read."""
    file = Path(path)
    try:
        if file.stat().st_size > 2 * MAX_BYTES:
            raise BadInput("A file is at most 4 MB here.")
        return file.read_text("utf-8")
    except (OSError, UnicodeDecodeError, ValueError):
        raise BadInput(f"“{path}” cannot be read as a text file.") from None


def _site(text: str) -> Site:
    try:
        data = json.loads(text)
    except (ValueError, RecursionError):
        data = None
    if isinstance(data, dict) and set(data) == {"name", "place", "job"}:
        text = json.dumps(data["job"])
    return loads(text)


def study(site: Site) -> SiteStudy:
    """Every fault at every place, with every supply; loads, lost neutrals, arrays when asked."""
    return study_site(site)


def judge(site: Site, studied: SiteStudy | None = None) -> tuple[Finding, ...]:
    """The findings of a site, worst first; what goes when another is mended is folded under it."""
    studied = studied or study(site)
    return fold(site, findings(site, studied))
