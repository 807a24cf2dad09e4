"""Taps: conductors with no device of their own at their start (240.21(B), ``taps.csv``)."""

from dataclasses import dataclass

from .. import tables

SHORT_FT, LONG_FT = 10.0, 25.0
SHORT_SHARE, LONG_SHARE = 10.0, 3.0  # of the device ahead: a tenth, a third


@dataclass(frozen=True)
class TapRule:
    """One way a tap may be made: its section, whether it is met, and what it lacks."""

    section: str
    met: bool
    lacks: tuple[str, ...]


def tap_rules(
    ampacity_a: float,
    ahead_a: float,
    feet: float | None,
    end_a: float | None,
    in_raceway: bool,
    outdoors: bool,
) -> tuple[TapRule, ...]:
    """The ways 240.21(B) has for a tap, the shortest first.

    ``ampacity_a`` of the tap; ``ahead_a`` the device ahead of it; ``feet`` its length, None where
    nobody knows; ``end_a`` the one device it ends in, None where it has none. No rounding up.
    """

    def rule(section: str, *wants: tuple[bool, str]) -> TapRule:
        lacks = tuple(words for met, words in wants if not met)
        return TapRule(section, not lacks, lacks)

    ends = end_a is not None
    fits = end_a is not None and ampacity_a >= end_a
    short = (
        feet is not None and feet <= SHORT_FT,
        f"no longer than {SHORT_FT:g} ft",
    )
    long = (feet is not None and feet <= LONG_FT, f"no longer than {LONG_FT:g} ft")
    in_one = (ends, "one breaker or set of fuses at its end")
    end_fits = (not ends or fits, f"at its end a device of {ampacity_a:g} A at most")
    tenth = (ampacity_a * SHORT_SHARE >= ahead_a, f"an ampacity of {ahead_a / SHORT_SHARE:g} A")
    third = (ampacity_a * LONG_SHARE >= ahead_a, f"an ampacity of {ahead_a / LONG_SHARE:.0f} A")
    return (
        rule("240.21(B)(1)", short, tenth, in_one, end_fits, (in_raceway, "raceway all the way")),
        rule("240.21(B)(2)", long, third, in_one, end_fits),
        rule("240.21(B)(5)", (outdoors, "a run outdoors"), in_one, end_fits),
    )


def rules_of_table() -> tuple[dict[str, str], ...]:
    """The rows of the table, with how sure each is."""
    return tables.rows("taps")
