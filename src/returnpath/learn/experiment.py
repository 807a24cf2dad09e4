"""Believed and false: what one says will happen, what does, and why. Data files, computed."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any, Literal

import yaml
from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from ..errors import BadInput
from ..rules import pairs
from ..site import Add, Edit, Installation, Remove, Set, apply, loads
from ..working import figures
from .measure import Measured

MOST_BYTES = 200_000
METRIC_PLACES = ("foxglove", "thistle")


class Measure(BaseModel):
    """One figure of the changed place, what it must be, how it is said."""

    model_config = ConfigDict(extra="forbid")

    of: str = Field(max_length=80)
    say: str = Field(max_length=200)
    below: float | None = None
    above: float | None = None
    equals: str | None = None

    def holds(self, value: float | str) -> bool:
        """Whether the network says what the experiment claims."""
        if self.equals is not None:
            return value == self.equals
        if isinstance(value, str):
            return False
        return (self.below is None or value < self.below) and (
            self.above is None or value > self.above
        )


class Experiment(BaseModel):
    """A belief, a question, what is done, what is measured, why."""

    model_config = ConfigDict(extra="forbid")

    key: str = Field(pattern=r"^[a-z][a-z0-9-]{0,39}$")
    believed: str = Field(max_length=200)
    ask: str = Field(max_length=400)
    options: dict[str, str] = Field(min_length=2, max_length=5)
    right: str
    done: str = Field(max_length=300)
    place: Literal["clean", "pebblewick", "foxglove", "thistle"] = "clean"
    edits: list[dict[str, Any]] = Field(max_length=12)
    circuit: str = Field(max_length=12)
    measures: list[Measure] = Field(min_length=1, max_length=6)
    why: str = Field(max_length=600)
    kind: Literal["experiment"] = "experiment"

    @property
    def is_metric(self) -> bool:
        """Whether its place is one of the metric rule set."""
        return self.place in METRIC_PLACES

    @model_validator(mode="after")
    def _right_is_an_option(self) -> "Experiment":
        if self.right not in self.options:
            raise ValueError("right is one of the options")
        return self


@dataclass(frozen=True)
class Outcome:
    """What happened: the place, each measure in words, whether each is as claimed."""

    site: Installation
    said: tuple[str, ...]
    as_claimed: bool


def read_experiments(text: str) -> tuple[Experiment, ...]:
    """A file of experiments; BadInput names the one that is wrong."""
    if len(text.encode()) > MOST_BYTES:
        raise BadInput(f"A file of experiments is at most {MOST_BYTES // 1000} kB.")
    try:
        data = yaml.safe_load(text)
    except yaml.YAMLError as error:
        raise BadInput(f"That is no YAML file: {error}.") from None
    if not isinstance(data, list):
        raise BadInput("A file of experiments is a list.")
    found = []
    for n, one in enumerate(data, 1):
        try:
            found.append(Experiment.model_validate(one))
        except ValidationError as error:
            first = error.errors()[0]
            where = ".".join(str(p) for p in first["loc"])
            raise BadInput(f"Experiment {n}: {where} {first['msg']}.") from None
    return tuple(found)


@cache
def experiments() -> dict[str, Experiment]:
    """Ours, by key, in the order of the file."""
    text = resources.files(__package__).joinpath("experiments.yaml").read_text("utf-8")
    return {e.key: e for e in read_experiments(text)}


def before(experiment: Experiment) -> Installation:
    """The place that an experiment begins from: the clean one, or the demo's cottage."""
    if experiment.place == "clean":
        return pairs.base()
    example = resources.files("returnpath") / "examples" / f"{experiment.place}.json"
    return loads(example.read_text("utf-8"))


def edits_of_experiment(experiment: Experiment) -> tuple[Edit, ...]:
    """What is done, as edits; BadInput for what is none."""
    return tuple(_edit(one) for one in experiment.edits)


def _edit(one: Mapping[str, Any]) -> Edit:
    if "set" in one:
        return Set(path=str(one["set"]), value=one.get("to"))
    if "joint" in one:
        how = {k: one[k] for k in ("ohm", "open") if k in one}
        return Add(to="joints", facts={"on": str(one["joint"]), **how})
    if "remove" in one:
        return Remove(id=str(one["remove"]))
    raise BadInput(f"An edit sets a fact, loosens a joint or removes a part, not {dict(one)}.")


def outcome(experiment: Experiment) -> Outcome:
    """Do it: the same network as everywhere."""
    site = before(experiment)
    for edit in edits_of_experiment(experiment):
        site = apply(site, edit)
    measured = Measured(site)
    said, right = [], True
    for one in experiment.measures:
        value = measured.value(one.of)
        right = right and one.holds(value)
        said.append(one.say.replace("{value}", _shown(value)))
    return Outcome(site, tuple(said), right)


def _shown(value: float | str) -> str:
    return value if isinstance(value, str) else figures(value) if value >= 0.001 else "0"
