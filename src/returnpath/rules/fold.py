"""Folding: what goes when another finding is mended is listed under it.

An open main bond is one danger with sixty circuits inside, not sixty-one. Only findings that
are marked as roots and have a fix of edits are tried; each is one study of the edited site.
"""

from dataclasses import replace

from ..errors import BadInput
from ..site import Installation, apply
from ..study import study
from .finding import Finding
from .registry import findings, is_root


def fold(site: Installation, found: tuple[Finding, ...]) -> tuple[Finding, ...]:
    """``found`` with every finding that another's fix takes away folded under that one."""
    left = list(found)
    for one in [f for f in found if is_root(f.id) and f.fix]:
        if one not in left:
            continue
        try:
            mended = site
            for edit in one.fix:
                mended = apply(mended, edit)
        except BadInput:
            continue
        still = {f.key for f in findings(mended, study(mended))}
        gone = [f for f in left if f.key not in still and f is not one]
        if gone:
            left = [f for f in left if f not in gone]
            left[left.index(one)] = replace(one, folded=tuple(gone))
    return tuple(left)
