"""Folding: what goes when another finding is mended is listed under it.

An open main bond is one danger with sixty circuits inside, not sixty-one. Only findings that
are marked as roots and have a fix of edits are tried; each is one study of the edited site.
"""

from dataclasses import replace

from ..errors import BadInput
from ..site import Installation, apply
from ..study import study
from .finding import LEVELS, Finding
from .registry import all_checks, findings

#: What a lacking way home does to each loop behind it: told once, where it lacks. What else the
#: same cure mends (a rule about its feeder) stays a row of its own.
LOOPS = (
    "loop-never-opens", "earth-only-return", "loop-slow", "loop-heat", "loop-curve-unknown",
    "touch-voltage-high", "short-circuit-never-clears",
)  # fmt: skip


def fold(site: Installation, found: tuple[Finding, ...]) -> tuple[Finding, ...]:
    """``found`` with every finding that another's fix takes away folded under that one."""
    left = list(found)
    before = {f.key for f in found}
    for one in [f for f in found if f.root and f.fix]:
        if one not in left:
            continue
        try:
            mended = site
            for edit in one.fix:
                mended = apply(mended, edit)
        except BadInput:
            continue
        after = findings(mended, study(mended))
        still = {f.key for f in after}
        # Something new that is as grave took its place: that is nobody's cure.
        new = {(f.place, f.level) for f in after if f.key not in before}
        gone = [
            f
            for f in left
            if f.key not in still
            and f is not one
            and not _is_as_grave(f, new)
            and LEVELS.index(f.level) >= LEVELS.index(one.level)  # no danger under a fix
            and (all_checks()[one.id].root or f.id in LOOPS)
        ]
        if gone:
            left = [f for f in left if f not in gone]
            left[left.index(one)] = replace(one, folded=tuple(gone))
    return tuple(left)


def _is_as_grave(finding: Finding, new: set[tuple[str, str]]) -> bool:
    """Whether something of its level, or worse, is newly found at its place."""
    upto = LEVELS[: LEVELS.index(finding.level) + 1]
    return any((finding.place, level) in new for level in upto)
