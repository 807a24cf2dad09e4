"""``fix JOB [FINDING…] --out FILE``: apply the fixes of findings, and say what is left."""

from pathlib import Path

from ..errors import BadInput
from ..face import judge
from ..rules import Finding
from ..site import apply, describe, dumps
from ..vocabulary import GRAVE
from .check import read_job


def add_to(calls) -> None:
    """The call."""
    call = calls.add_parser("fix", help="apply the fixes of findings to a job file")
    call.add_argument("job", help="job file")
    call.add_argument(
        "findings", nargs="*", help="what to mend: gec-small, or gec-small:e7; all unless given"
    )
    call.add_argument("--out", required=True, help="the mended job file")
    call.add_argument("--edition", type=int, help="edition of the rules instead of the job's")
    call.set_defaults(run=_fix)


def _fix(chosen) -> int:
    site = read_job(chosen.job, edition=chosen.edition)
    before = judge(site)
    wanted = _wanted(before, chosen.findings)
    for finding in wanted:
        try:
            mended, said = site, []
            for edit in finding.fix:
                said.append(describe(mended, edit))
                mended = apply(mended, edit)
        except BadInput as error:
            print(f"{finding.key}: not done: {error.sentence}")
            continue
        site = mended
        print(f"{finding.key}: {'; '.join(said)}")
    Path(chosen.out).write_text(dumps(site), encoding="utf-8")
    left = [f for f in judge(site) if f.level in GRAVE]
    print(f"{len(wanted)} mended, {len(left)} of danger and fix left:" if left else
          f"{len(wanted)} mended, no danger and no fix left in what is described.")  # fmt: skip
    for finding in left:
        print(f"  {finding.level.upper():<7}{finding.key}  {finding.do}")
    return int(any(f.level == "danger" for f in left))


def _wanted(found: tuple[Finding, ...], names: list[str]) -> list[Finding]:
    """The findings to mend; BadInput for one that is not there or that no edit mends."""
    if not names:
        return [f for f in found if f.fix and f.level in GRAVE]
    chosen: list[Finding] = []
    for name in names:
        here = [f for f in found if name in (f.key, f.id)]
        if not here:
            raise BadInput(f"There is no finding “{name}” in this job.")
        mendable = [f for f in here if f.fix]
        if not mendable:
            raise BadInput(f"“{name}” is not mended by an edit: {here[0].do}")
        chosen += mendable
    return chosen
