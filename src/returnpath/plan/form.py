"""The form of a procedure: a YAML file, ours and a firm's alike (docs/procedures.md).

    format: 1
    key: sub-panel
    name: "Sub-panel: {panel}"
    steps:
      - {key: told, say: "Everybody knows that {panel} goes dead.", hold: confirm}

Words in braces are filled in from the site; ``if`` names a condition, ``each`` a list, ``use`` a
block that several procedures share.
"""

import re
from collections.abc import Iterable
from functools import cache
from importlib import resources
from importlib.resources.abc import Traversable
from typing import Annotated, Literal

import yaml
from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError

from .. import tables
from ..errors import BadInput
from ..readings import reading_kinds

MOST_BYTES, MOST_STEPS = 60_000, 80
Key = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]{0,39}$")]
#: Kinds of figure that a hold takes beside the Log's: nothing is predicted for these.
OWN_KINDS = {"volts": "V", "ohms": "Ω", "amps": "A"}
_BRACES = re.compile(r"\{\w+\}")
WANTS = ("open", "closed", "nothing", "band", "any")


class FormReading(BaseModel):
    """A reading that a step takes: of what kind, where, and what it must be."""

    model_config = ConfigDict(extra="forbid")

    kind: str
    at: str
    want: str = "band"


class FormStep(BaseModel):
    """One step as the form has it."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)

    key: Key = "step"
    say: str = Field("", max_length=400)
    why: str = Field("", max_length=400)
    when: str = Field("", alias="if", max_length=60)
    after: str = Field("", max_length=60)
    each: str = Field("", max_length=20)
    use: str = Field("", max_length=20)
    hold: Literal["", "confirm", "reading", "photo", "lock", "dead", "date"] = ""
    read: FormReading | None = None
    photo: str | None = Field(None, max_length=60)
    date: str = Field("", max_length=20)
    caution: tuple[str, ...] = Field((), max_length=6)
    change: dict[str, str] = Field(default_factory=dict, max_length=8)
    live: bool = False
    #: Parts by id, with commas: what a lock step locks, a proof proves dead, a step energizes.
    locks: str = Field("", max_length=120)
    proves: str = Field("", max_length=60)
    energizes: str = Field("", max_length=120)


class Choice(BaseModel):
    """A school that is chosen at the start, with both reasons."""

    model_config = ConfigDict(extra="forbid")

    key: Key
    ask: str = Field(max_length=120)
    options: dict[Key, str] = Field(min_length=2, max_length=5)
    why: str = Field("", max_length=400)


class Form(BaseModel):
    """A whole procedure; or the blocks that several use."""

    model_config = ConfigDict(extra="forbid")

    format: Literal[1]
    key: Key
    name: str = Field(min_length=1, max_length=120)
    what: str = Field("", max_length=300)
    rules: Literal["us", "metric", "both"] = "us"
    adds_to: str = Field("", max_length=40)
    choices: tuple[Choice, ...] = Field((), max_length=4)
    steps: tuple[FormStep, ...] = Field((), max_length=MOST_STEPS)
    blocks: dict[str, tuple[FormStep, ...]] = Field(default_factory=dict, max_length=20)


def read_form(text: str) -> Form:
    """A procedure of a YAML file; BadInput says which step is wrong and how."""
    if len(text.encode()) > MOST_BYTES:
        raise BadInput(f"A procedure is at most {MOST_BYTES // 1000} kB.")
    try:
        data = yaml.safe_load(text)
    except yaml.YAMLError as error:
        mark = getattr(error, "problem_mark", None)
        line = f" (line {mark.line + 1})" if mark else ""
        raise BadInput(f"That is no YAML file{line}: {getattr(error, 'problem', error)}.") from None
    except (RecursionError, ValueError) as error:
        raise BadInput(f"That is no YAML file: {error}.") from None
    if not isinstance(data, dict):
        raise BadInput("A procedure begins with format: 1, key, name and steps.")
    try:
        form = Form.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        where = " ".join(str(p + 1) if isinstance(p, int) else str(p) for p in first["loc"])
        where = f"{where}{_line_of(text, first['loc'])}"
        raise BadInput(f"{where or 'The file'}: {first['msg']}.") from None
    if problem := _problem(form):
        raise BadInput(problem)
    return form


def _line_of(text: str, where: tuple[int | str, ...]) -> str:
    """“ (line 6)” of what a path of keys and numbers leads to, as far as it leads."""
    node = yaml.compose(text, Loader=yaml.SafeLoader)
    for part in where:
        if isinstance(node, yaml.SequenceNode) and isinstance(part, int):
            node = node.value[part] if part < len(node.value) else node
        elif isinstance(node, yaml.MappingNode):
            node = next((v for k, v in node.value if k.value == part), node)
    return f" (line {node.start_mark.line + 1})" if node is not None else ""


def _problem(form: Form) -> str:
    cautions = {row["key"] for row in tables.rows("cautions")}
    seen: set[str] = set()
    for n, step in enumerate((*form.steps, *(s for b in form.blocks.values() for s in b)), 1):
        where = f"Step {n} ({step.key})"
        if step.use:
            if step.use not in blocks():
                return f"{where}: there is no block “{step.use}”."
            continue
        if not step.say:
            return f"{where}: say what is done."
        if step.key in seen:
            return f"{where}: there are two steps of that key."
        seen.add(step.key)
        if step.hold == "reading" and step.read is None:
            return f"{where}: a hold by a reading needs read."
        if step.locks and step.hold != "lock":
            return f"{where}: locks belongs to a hold by a lock."
        if step.proves and step.hold != "dead":
            return f"{where}: proves belongs to a hold by a proof of dead."
        if step.hold == "date" and not step.date:
            return f"{where}: a hold by a date needs date."
        if step.read is not None:
            if step.read.kind not in OWN_KINDS and step.read.kind not in reading_kinds():
                return f"{where}: “{step.read.kind}” is no kind of reading."
            if step.read.want not in WANTS and "{" not in step.read.want:
                return f"{where}: want is one of {', '.join(WANTS)}."
        for key in step.caution:
            if key not in cautions:
                return f"{where}: there is no caution “{key}”; {', '.join(sorted(cautions))} are."
        for text in (step.say, step.why):
            if set(_BRACES.sub("", text)) & set("{}"):
                return f"{where}: a brace is open: {text[:60]}"
    return ""


def write_form(form: Form) -> str:
    """The YAML of a procedure."""
    data = form.model_dump(by_alias=True, exclude_defaults=True)
    data = {"format": 1} | data
    return str(yaml.safe_dump(_plain(data), sort_keys=False, allow_unicode=True, width=100))


def _plain(value: object) -> object:
    if isinstance(value, dict):
        return {k: _plain(v) for k, v in value.items()}
    return [_plain(v) for v in value] if isinstance(value, list | tuple) else value


def with_added(form: Form, others: Iterable[Form]) -> Form:
    """A form with the steps that a firm adds to it: each after the step it names, else at the end.
    A step whose place is gone goes to the end; none of the form's own is lost."""
    steps = list(form.steps)
    for other in others:
        if other.adds_to != form.key:
            continue
        for step in other.steps:
            at = next((n for n, s in enumerate(steps) if step.after and s.key == step.after), None)
            place = len(steps) if at is None else at + 1
            steps.insert(place, step.model_copy(update={"key": f"own-{step.key}"[:40]}))
    return form.model_copy(update={"steps": tuple(steps)})


@cache
def blocks() -> dict[str, tuple[FormStep, ...]]:
    """The shared blocks by name."""
    text = _folder().joinpath("blocks.yaml").read_text("utf-8")
    return Form.model_validate(yaml.safe_load(text)).blocks


@cache
def forms() -> dict[str, Form]:
    """Our own procedures by key, in the order of their files."""
    found = {}
    for file in sorted(_folder().iterdir(), key=lambda f: f.name):
        if file.name.endswith(".yaml") and file.name != "blocks.yaml":
            form = read_form(file.read_text("utf-8"))
            found[form.key] = form
    return found


def _folder() -> Traversable:
    return resources.files(__package__).joinpath("procedures")
