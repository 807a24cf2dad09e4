"""Whether a procedure of a firm's own can be shown at all: tried on the place before it is kept."""

import re

from ..errors import BadInput
from ..rules import Evidence
from ..site import describe
from ..vocabulary import FactPath
from .form import Form, FormStep, blocks
from .procedure import procedure_of

_PATH = re.compile(r"(?:\{\w+\}|[a-z]\d+)\.[a-z_]+(?:\.[a-z_]+)?")


def why_not_rendered(text: str, form: Form, evidence: Evidence) -> str:
    """The sentence, with its line in the file; "" where it can be shown. It is tried on the first
    panel of the place, with every choice of its own."""
    for one in form.steps:
        if problem := _of_step(one):
            return f"{_line(text, one.key)}: {problem}"
    panel = evidence.filled.panel.id
    ways = [(c.key, option) for c in form.choices for option in c.options] or [("", "")]
    for key, option in ways:
        try:
            made = procedure_of(form, evidence, panel, {key: option})
            if not made.steps:
                continue
            for step in made.steps:
                for edit in step.change:
                    path = FactPath(getattr(edit, "path", ""))
                    if path.element in evidence.site.elements():
                        _described(evidence, edit)
        except BadInput as error:
            return f"It cannot be shown: {error.sentence}"
        except (KeyError, ValueError, TypeError, IndexError, AttributeError) as error:
            return f"It cannot be shown: {type(error).__name__} {str(error)[:120]}"
    return ""


def _described(evidence: Evidence, edit: object) -> None:
    try:
        describe(evidence.site, edit)  # type: ignore[arg-type]
    except (KeyError, ValueError, AttributeError):
        path = getattr(edit, "path", "")
        raise BadInput(
            f"change: “{path}” is no fact of that part, or takes no such value."
        ) from None


def _of_step(step: FormStep) -> str:
    for path in step.change:
        if not _PATH.fullmatch(path):
            return f"change: “{path[:60]}” is no fact; write {{panel_id}}.bond."
    if step.hold == "dead" and step.key != "live-again":
        return "a proof of dead is the three steps of the block: write use: dead."
    if step.use and step.use not in blocks():
        return f"there is no block “{step.use}”."
    return ""


def _line(text: str, key: str) -> str:
    for number, row in enumerate(text.splitlines(), 1):
        if re.search(rf"\bkey:\s*[\"']?{re.escape(key)}\b", row):
            return f"Line {number} ({key})"
    return f"Step {key}"
