"""Taps: feeders with no device at their start, by the rules of 240.21(B)."""

from collections.abc import Iterator

from ... import tables
from ...conductor import methods
from ...site import Device, Feeder, Set
from ...site.chain import OF_ONE_DEVICE, OPENS_NOTHING, Protected, Protection, opens
from ...sizing.taps import LONG_FT, TapRule, tap_rules
from ...vocabulary import FactPath
from ...working import figures
from ..carrying import USUAL_C, allowed_of, cable_column, carries_a, smallest_for
from ..registry import Evidence, Yielded, check
from .wires import AROUND, GROSS

FAMILY = "protecting"
name = tables.size_name
OUTDOORS = ("wet", "underground")


def taps(s: Evidence) -> Iterator[tuple[Feeder, Protected]]:
    """Feeders that are said to have no device of their own, with the one ahead of them."""
    for feeder in s.filled.feeders:
        size = feeder.line_size
        if size is None or tables.is_metric(size) or not s.known(f"{feeder.id}.line_size"):
            continue
        found = s.protected[feeder.id]
        one_device = s.panels[feeder.source].kind in OF_ONE_DEVICE
        if found.how is Protection.AHEAD and not one_device:
            yield feeder, found


@check(
    "tap-unprotected",
    "fix",
    looks="A feeder with no device at its start that is larger than nothing but a tap may be.",
    why="The device ahead lets through more than the wire carries, for as long as it likes.",
    topic="taps",
    needs=(
        *AROUND,
        "feeders.breaker.kind",
        "feeders.breaker.rating_a",
        "feeders.length_ft",
        "feeders.line_material",
        "feeders.line_size",
        "feeders.method",
        "feeders.route",
        "feeders.sets",
        "feeders.year",
        "panels.kind",
        "panels.main.kind",
        "panels.main.rating_a",
    ),
)
def tap_unprotected(s: Evidence) -> Iterator[Yielded]:
    for feeder, found in taps(s):
        ahead = found.rating_a or 0.0
        column = cable_column(s, feeder)
        if ahead <= allowed_of(s, feeder, column) or not s.known(f"{found.at}.rating_a"):
            continue
        end = s.panels[feeder.to].main
        known = s.known(f"{feeder.id}.length_ft")
        rules = tap_rules(
            carries_a(s, feeder, column),
            ahead,
            feeder.length_ft if known else None,
            end.rating_a if opens(end) else None,
            methods()[feeder.method].steel or feeder.method == "PVC" if feeder.method else False,
            feeder.route in OUTDOORS,
        )
        if any(rule.met for rule in rules):
            continue
        yield _tap(s, feeder, found, rules, known, end)


def _tap(
    s: Evidence,
    feeder: Feeder,
    found: Protected,
    rules: tuple[TapRule, ...],
    known: bool,
    end: Device,
) -> Yielded:
    """The finding: what is asked first, else what the nearest rule lacks."""
    ahead, column = found.rating_a or 0.0, cable_column(s, feeder)
    carries = carries_a(s, feeder, column)
    wire = f"{name(feeder.line_size)} {tables.metal_name(feeder.line_material)}"
    text = f"A tap of {wire} ({figures(carries)} A) behind {ahead:g} A"
    asks = ""
    if end.rating_a is None and end.kind not in OPENS_NOTHING:
        asks = FactPath.of(feeder.to, "main.rating_a")
        text += "; whether it ends in one breaker is not known"
    elif not known and _would_do(s, feeder, found):
        asks = FactPath.of(feeder.id, "length_ft")
        text += f"; permitted up to {LONG_FT:g} ft"
    nearest = min(rules, key=lambda rule: len(rule.lacks))
    needed = smallest_for(s, feeder, ahead, column)
    own = allowed_of(s, feeder, column)
    gross = ahead >= GROSS * own and not opens(end)
    fix = (Set(path=f"{feeder.id}.line_size", value=needed),) if needed and not asks else ()
    return s.found(
        feeder,
        f"{text}.",
        f"A device of {own:g} A at its start, {name(needed) if needed else 'larger'} wire, or"
        f" by {nearest.section}: {'; '.join(nearest.lacks)}.",
        level="check" if asks else "danger" if gross else None,
        asks=asks,
        fix=fix,
        parts=() if asks else (f"{own:g} A breaker",),
    )


def _would_do(s: Evidence, feeder: Feeder, found: Protected) -> bool:
    """Whether some length would make it a tap that may be."""
    end = s.panels[feeder.to].main
    rules = tap_rules(
        carries_a(s, feeder, cable_column(s, feeder) or USUAL_C), found.rating_a or 0.0, 1.0,
        end.rating_a if opens(end) else None, True, False,
    )  # fmt: skip
    return any(rule.met for rule in rules)
