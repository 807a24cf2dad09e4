"""Try it: a what-if of one person, on top of the job's newest revision."""

from dataclasses import dataclass

from returnpath.errors import BadInput
from returnpath.site import Edit, Installation, apply, describe, parse_edit, rebase, resolved

from ..jobs import revisions
from ..jobs.models import Job, Revision, Trial
from ..solved import SolvedSite, Unsolvable, solve
from ..trouble import beside_looking


@dataclass(frozen=True)
class Trying:
    """A running trial: its words, the site it makes, and what its person must be told."""

    trial: Trial
    site: Installation
    solved: SolvedSite | None
    edits: tuple[Edit, ...]
    told: str = ""
    fails: str = ""

    @property
    def words(self) -> list[str]:
        """What is tried, in words."""
        return list(self.trial.words)


class Gone(BadInput):
    """A trial that no longer fits what somebody saved meanwhile: it was thrown away."""


def running(job: Job, person, site: Installation) -> Trying | None:
    """This person's trial on the job, carried to its newest revision.

    Gone, once, when it no longer fits what somebody saved meanwhile.
    """
    trial = Trial.objects.filter(job=job, person=person).first()
    if trial is None:
        return None
    try:
        told = _carry(trial, job, person)
        edits = tuple(parse_edit(e) for e in trial.edits)
        for edit in edits:
            site = apply(site, edit)
    except BadInput:
        _keep(trial, gone=True)
        who = revisions.others_words(job, trial.base.number, person) if trial.base else ""
        gone = f"Your trial no longer fits the job and is gone ({revisions.listed(trial.words)})."
        raise Gone(f"{who} {gone}".strip()) from None
    try:
        return Trying(trial, site, solve(site), edits, told)
    except Unsolvable as error:  # its person is not locked out: the job shows as it is saved
        return Trying(trial, site, None, edits, told, error.sentence)


def _carry(trial: Trial, job: Job, person) -> str:
    """Write the trial anew for the newest revision; what to tell of what was saved meanwhile."""
    latest = job.latest
    if trial.base == latest:
        return ""
    if trial.base is None:
        raise BadInput("Its revision is no longer kept.")
    if trial.base.document == latest.document:  # only what is set aside moved
        trial.base = latest
        _keep(trial)
        return ""
    edits = [parse_edit(e) for e in trial.edits]
    conflict = revisions.first_conflict(job, trial.base.number, latest, edits)
    if conflict:
        told = f"{conflict.found()} Your trial puts its own in that place."
    else:
        told = revisions.others_words(job, trial.base.number, person)
    carried = rebase(edits, trial.base.site, latest.site)
    trial.edits = [e.model_dump(mode="json") for e in carried]
    trial.base = latest
    _keep(trial)
    return told


def _keep(trial: Trial, gone: bool = False) -> None:
    """Write a carried trial, or its end; where nothing can be written that is done at every
    look anew: looking never fails."""
    beside_looking(trial.delete if gone else trial.save)


def further(trying: Trying | None, latest: Revision, person, edits) -> None:
    """Go further in the trial that runs, or start one; BadInput when it cannot be made."""
    if trying is None:
        trial, site = Trial(job=latest.job, person=person, base=latest), latest.site
    else:
        trial, site = trying.trial, trying.site
    for edit in resolved(site, edits):
        words = describe(site, edit)
        site = apply(site, edit)
        trial.edits = [*trial.edits, edit.model_dump(mode="json")]
        trial.words = [*trial.words, words]
    if len(trial.edits) > 200:
        raise BadInput("A trial holds at most 200 changes: keep it or throw it away.")
    trial.save()
