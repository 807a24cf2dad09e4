"""Tables and sizes: questions made from the rules, their answers computed, with the working."""

import random
from collections.abc import Callable
from dataclasses import dataclass

from .. import sizing
from ..site.arrangement import Arrangement
from ..tables import is_metric, metric_conductors, size_name, sizes
from ..vocabulary.sizes import METRIC
from ..working import Working
from .outbuildings import ANSWERS, outbuilding

EDITION = 2023
BUILDING = "building"


@dataclass(frozen=True)
class SizeQuestion:
    """A question of one seed: its topic, the options, the right one, the working."""

    topic: str
    ask: str
    options: tuple[str, ...]
    right: str
    working: tuple[str, ...]


def question(topic: str, seed: int) -> SizeQuestion:
    """The same for the same topic and seed. KeyError for a topic that is none."""
    rng = random.Random(f"{topic} {seed}")  # noqa: S311 - a game's dice
    if topic == BUILDING:
        told = outbuilding(rng)
        return SizeQuestion(topic, told.ask, ANSWERS, told.right, told.working)
    ask, found = _TOPICS[topic][1](rng)
    right = str(found.value)
    return SizeQuestion(topic, ask, _options(right, rng), size_name(right),
                        tuple(s.text for s in found.steps()))  # fmt: skip


def topics() -> dict[str, str]:
    """Each topic with its words."""
    return {key: words for key, (words, _) in _TOPICS.items()} | {
        BUILDING: "A separate building (250.32)"
    }


def _options(right: str, rng: random.Random) -> tuple[str, ...]:
    """The right one among its neighbours of the table, smallest first."""
    ladder = list(metric_conductors() if is_metric(right) else sizes())
    at = ladder.index(right)
    near = [n for n in range(at - 3, at + 4) if 0 <= n < len(ladder) and n != at]
    chosen = sorted([at, *rng.sample(near, 3)])
    return tuple(size_name(ladder[n]) for n in chosen)


def _egc(rng: random.Random) -> tuple[str, Working]:
    amps = rng.choice((15, 20, 30, 40, 60, 100, 200, 300, 400))
    return f"Copper EGC behind a {amps} A breaker?", sizing.smallest_egc(amps)


def _gec(rng: random.Random) -> tuple[str, Working]:
    line = rng.choice(("4", "2", "1/0", "2/0", "3/0", "4/0", "350"))
    return (f"Copper electrode conductor to the water pipe, service of {size_name(line)} copper?",
            sizing.smallest_gec(line, "copper", edition=EDITION))  # fmt: skip


def _cap(rng: random.Random) -> tuple[str, Working]:
    kind, words = rng.choice((("rod", "a rod"), ("concrete", "footing steel")))
    line = rng.choice(("3/0", "4/0", "250", "350"))
    return (f"Copper electrode conductor to {words} only, service of {size_name(line)} copper?",
            sizing.smallest_gec(line, "copper", electrode=kind, edition=EDITION))  # fmt: skip


def _jumper(rng: random.Random) -> tuple[str, Working]:
    line = rng.choice(("4", "2", "2/0", "4/0", "350"))
    return (f"Copper main bonding jumper, service of {size_name(line)} copper?",
            sizing.main_bonding_jumper(line, "copper", edition=EDITION))  # fmt: skip


def _line(rng: random.Random) -> tuple[str, Working]:
    amps, column = rng.choice((15, 20, 30, 40, 50, 60, 70, 100)), rng.choice((60, 75))
    return (f"Copper wire for {amps} A in the {column} °C column?",
            sizing.smallest_line(amps, "copper", column))  # fmt: skip


def _neutral(rng: random.Random) -> tuple[str, Working]:
    line = rng.choice(("2", "1/0", "2/0", "4/0"))
    return (f"Least copper neutral of a service of {size_name(line)} copper?",
            sizing.smallest_neutral(line, "copper", edition=EDITION))  # fmt: skip


def _building_gec(rng: random.Random) -> tuple[str, Working]:
    line = rng.choice(("6", "4", "2", "1/0", "2/0"))
    return (f"Copper electrode conductor to the footing steel of a building whose feeder is"
            f" {size_name(line)} copper?",
            sizing.building_gec(line, "copper", electrode="concrete",
                                edition=EDITION))  # fmt: skip


def _upsized(rng: random.Random) -> tuple[str, Working]:
    amps, line = rng.choice(((20, "10"), (20, "8"), (30, "8"), (30, "6"), (60, "2"), (40, "4")))
    return (f"Copper EGC behind a {amps} A breaker whose hot wires were upsized to"
            f" {size_name(line)}?", sizing.smallest_egc(amps, line=line))  # fmt: skip


def _mm2(*sizes_mm2: str) -> tuple[str, ...]:
    return tuple(f"{mm2}{METRIC}" for mm2 in sizes_mm2)


def _protective(rng: random.Random) -> tuple[str, Working]:
    line = rng.choice(_mm2("2.5", "4", "6", "10", "16", "25", "35", "50", "70", "95"))
    return (f"Protective conductor by the table, lines of {size_name(line)} copper?",
            sizing.protective_by_table(line))  # fmt: skip


def _earthing(rng: random.Random) -> tuple[str, Working]:
    line = rng.choice(_mm2("10", "16", "25", "35", "50"))
    return (f"Earthing conductor, above ground and protected, tails of {size_name(line)} copper?",
            sizing.earthing_conductor(line))  # fmt: skip


def _main_bonding(rng: random.Random) -> tuple[str, Working]:
    neutral = rng.choice(_mm2("16", "25", "35", "50", "70"))
    return (f"Main bonding on TN-C-S, supply neutral of {size_name(neutral)} copper?",
            sizing.main_bonding(Arrangement.TN_C_S, neutral, neutral))  # fmt: skip


def _metric_line(rng: random.Random) -> tuple[str, Working]:
    amps = rng.choice((6, 10, 16, 20, 25, 32, 40, 50, 63))
    return (f"Copper twin cable clipped direct for a {amps} A device, nothing beside it?",
            sizing.smallest_metric_line(amps))  # fmt: skip


#: Topics of the metric rule set.
METRIC_TOPICS = ("protective", "earthing", "main-bonding", "metric-line")
_TOPICS: dict[str, tuple[str, Callable[[random.Random], tuple[str, Working]]]] = {
    "egc": ("Equipment grounding conductor", _egc),
    "egc-upsized": ("EGC of an upsized run", _upsized),
    "gec": ("Electrode conductor", _gec),
    "gec-cap": ("Electrode conductor, capped", _cap),
    "building-gec": ("Electrode conductor of a building", _building_gec),
    "jumper": ("Main bonding jumper", _jumper),
    "line": ("Wire by its column", _line),
    "neutral": ("Service neutral", _neutral),
    "protective": ("Protective conductor", _protective),
    "earthing": ("Earthing conductor", _earthing),
    "main-bonding": ("Main bonding", _main_bonding),
    "metric-line": ("Line conductor by its current-carrying capacity", _metric_line),
}
