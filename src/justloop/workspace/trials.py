"""Try it: a what-if of one person, on top of the job's newest revision."""

from dataclasses import dataclass

from returnpath.errors import BadInput
from returnpath.site import Edit, Installation, apply, describe, parse_edit

from ..jobs.models import Job, Trial
from .solved import SolvedSite, solve


@dataclass(frozen=True)
class Trying:
    """A running trial: its words and the site it makes."""

    trial: Trial
    site: Installation
    solved: SolvedSite
    edits: tuple[Edit, ...]

    @property
    def words(self) -> list[str]:
        """What is tried, in words."""
        return list(self.trial.words)


def running(job: Job, person, site: Installation) -> Trying | None:
    """This person's trial on the job; one that no longer fits the job is thrown away."""
    trial = Trial.objects.filter(job=job, person=person).first()
    if trial is None:
        return None
    try:
        edits = tuple(parse_edit(e) for e in trial.edits)
        for edit in edits:
            site = apply(site, edit)
    except BadInput:
        trial.delete()
        return None
    return Trying(trial, site, solve(site), edits)


def begin(job: Job, person, edits, site: Installation) -> Trial:
    """Start a trial, or go further in the one that runs; BadInput when it cannot be made."""
    trial = Trial.objects.filter(job=job, person=person).first()
    if trial is None:
        trial = Trial(job=job, person=person, base=job.latest)
    for edit in (parse_edit(e) for e in trial.edits):
        site = apply(site, edit)
    for edit in edits:
        words = describe(site, edit)
        site = apply(site, edit)
        trial.edits = [*trial.edits, edit.model_dump(mode="json")]
        trial.words = [*trial.words, words]
    if len(trial.edits) > 200:
        raise BadInput("A trial holds at most 200 changes: keep it or throw it away.")
    trial.save()
    return trial
