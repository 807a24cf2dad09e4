"""What an answer of the quick bench is."""

from dataclasses import dataclass

from ..working import Step


@dataclass(frozen=True)
class Supposed:
    """What was assumed, in words, and the question with something else in its place."""

    words: str
    other: str
    instead: str


@dataclass(frozen=True)
class Quick:
    """An answer: ``title`` and ``figure`` large, what it says, its working; ``assumed`` what can
    be tapped to change; ``rows`` more figures; ``line`` what a job can take along; ``problem`` the
    sentence where there is no answer."""

    question: str
    title: str = ""
    figure: str = ""
    says: str = ""
    rows: tuple[tuple[str, str], ...] = ()
    steps: tuple[Step, ...] = ()
    assumed: tuple[Supposed, ...] = ()
    line: str = ""
    problem: str = ""
