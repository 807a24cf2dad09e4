"""The registry of checks: one function a check, one file a family."""

from collections.abc import Callable, Iterable

from ..study import SiteStudy
from .finding import LEVELS, Finding
from .sizes import SizeRow, size_rows

Check = Callable[["Solved"], Iterable[Finding]]
_CHECKS: list[Check] = []


class Solved:
    """What a check may look at: the site as described, its study, its sizes."""

    def __init__(self, site, site_study: SiteStudy):
        self.site = site
        self.study = site_study
        self.filled = site_study.assumed.site
        self.edition = site.practice.edition
        self.sizes: dict[str, SizeRow] = {r.path: r for r in size_rows(site, site_study)}


def check(function: Check) -> Check:
    """Enter a check in the registry."""
    _CHECKS.append(function)
    return function


def findings(site, site_study: SiteStudy) -> tuple[Finding, ...]:
    """All findings of a studied site, worst first, in the order of the work within a level."""
    from . import checks  # noqa: F401 - importing enters the checks

    solved = Solved(site, site_study)
    found = [f for one in _CHECKS for f in one(solved)]
    return tuple(sorted(found, key=lambda f: LEVELS.index(f.level)))
