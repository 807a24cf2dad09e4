"""Quick questions of the chain: ampacity where it is warm or crowded, bundles, fill, boxes, motors,
taps, torque, since when a rule holds."""

import re
from collections.abc import Callable
from typing import Any

from .. import sizing, tables
from ..errors import BadInput
from ..sizing.fill import box_fill, fill_limit, raceway_fill, read_wires
from ..sizing.motors import full_load_a, largest_motor_device, motor_wire_a
from ..sizing.surroundings import HELD_TO, bundle_conductors, corrected_ampacity
from ..sizing.taps import tap_rules
from ..working import figures, given, note
from .shape import Quick, Supposed

#: How a question of this kind is told, and how it is written.
CARRY_EXAMPLES = (
    "ampacity 12 cu 130F 8 wires", "bundle 5 cables 12", "fill 3/4 emt 9 #12",
    "box 4 #12, 2 #12 ground, 1 device, clamps", "motor 3 hp 240V", "tap 3 cu 200A 20ft 100A main",
    "torque #4 hex", "neutral counts 208 wye", "since gfci garage",
)  # fmt: skip
#: The words that only open such a question.
OPENING = r"^ (?:ampacity|derat\w*|bundled?|fill)\b"
USUAL_METAL = "copper"
_DEGREES = r"(?<![\d.])(-?\d{2,3})\s*(?:°\s*|deg(?:rees)?\s*)?f\b"
_WIRES = r"(?<![\d.#/])(\d{1,3})\s*(?:current[- ]carrying\s*)?(?:wires?|conductors?|carrying|ccc)\b"


def ampacity(asked: Any, text: str) -> Quick:
    """A wire's ampacity in heat and company."""
    words = asked.words
    degrees, wires = words.has(_DEGREES), words.has(_WIRES)
    roof = words.has(r"(?:roof\w*\s+)?(\d+(?:\.\d+)?)\s*(?:in|\")\s*(?:above\s+(?:the\s+)?)?roof\w*"
                     r"|roof\w*\s+(\d+(?:\.\d+)?)\s*(?:in|\")")  # fmt: skip
    cable = words.has(r"\b(nm-?b?|uf-?b?)\b")
    said = words.has(r"\b(60|75|90)\s*c\b")
    words.has(r"\battic\b|\bair\b|\btogether\b|\braceway\b|\bconduit\b|\bbundled\b")
    sized = words.sized()
    if sized is None:
        raise BadInput("Say the wire: ampacity 12 cu 130F 8 wires.")
    column = 60 if cable else int(said[1]) if said else 75
    if not cable and not said:
        asked.assumed.append(Supposed("75 °C terminals", f"{words.text} 60c", "60 °C"))
    if degrees is None:
        asked.assumed.append(Supposed("86 °F around it", f"{words.text} 120f", "120 °F"))
    if wires is None:
        asked.assumed.append(Supposed("three wires or fewer", f"{words.text} 6 wires", "6 wires"))
    asked.assumed.append(Supposed("90 °C insulation (NM-B, THHN, XHHW-2)", "", ""))
    made = corrected_ampacity(
        sized[1], asked.metal(USUAL_METAL), column, 90,
        float(degrees[1]) if degrees else None, int(wires[1]) if wires else None,
        float(roof[1] or roof[2]) if roof else None, asked.edition(),
    )  # fmt: skip
    words.done()
    return Quick(text, made.title, f"{figures(made.number)} A",
                 "The next standard rating up may protect it, but not of several receptacles, and"
                 " never over the limit of small conductors.",
                 steps=tuple(made.steps()), assumed=tuple(asked.assumed))  # fmt: skip


def bundle(asked: Any, text: str) -> Quick:
    """NM cables together: what each carries (334.80)."""
    words = asked.words
    count = words.has(r"(?<![\d.#/])(\d{1,2})\s*(?:nm-?b?\s*)?(?:cables?|runs?)\b")
    words.has(r"\bnm-?b?\b|\btogether\b|\bfoam\w*\b|\bhole\b|\bsealed\b|\bin insulation\b")
    sized = words.sized()
    if count is None:
        raise BadInput("Say how many cables: bundle 5 cables 12.")
    size = sized[1] if sized else "12"
    if sized is None:
        asked.assumed.append(Supposed("12 AWG", f"{words.text} 14", "14 AWG"))
    number = bundle_conductors(int(count[1]))
    edition = asked.edition()
    counts = int(count[1]) > 2
    made = corrected_ampacity(size, "copper", 60, 90, None, number if counts else None, None,
                              edition)  # fmt: skip
    words.done()
    says = (
        "Unspaced in one opening that is sealed or foamed, or in insulation: more than two count."
        if counts
        else "Two count only where they are bundled for more than 24 in."
    )
    return Quick(text, f"{count[1]} NM cables of {tables.size_name(size)}",
                 f"{figures(made.number)} A each", says, steps=tuple(made.steps()),
                 assumed=tuple(asked.assumed))  # fmt: skip


def fill(asked: Any, text: str) -> Quick:
    """A raceway's fill."""
    words = asked.words
    kind = words.has(r"\b(emt|imc|rmc|pvc(?:-?(?:40|80))?|fmc|lfmc|ent)\b")
    trade = words.has(r"(?<![\d#/x-])([1-4]-1/[24]|[1-4]|1/2|3/4|3/8)\s*(?:in\b|inch\b|\")?(?=\s)")
    nipple = words.has(r"\bnipple\b")
    insulation = words.has(r"\b(thhn|thwn|xhhw|thw)\b")
    if kind is None or trade is None:
        raise BadInput("Say the raceway and what is in it: fill 3/4 emt 9 #12.")
    held = words.left.strip(" ,:")
    method = kind[1].upper().replace("PVC40", "PVC-40").replace("PVC80", "PVC-80")
    feet = 2.0 if nipple else None
    made = raceway_fill(method, trade[1], held, insulation[1] if insulation else "thhn", feet)
    limit = fill_limit(sum(b.count for b in read_wires(held)), feet)
    verdict = "within" if made.number <= limit else "over"
    assumed = () if insulation else (Supposed("THHN or THWN-2", f"{words.text} xhhw", "XHHW"),)
    return Quick(text, made.title, f"{figures(made.number)} %",
                 f"{verdict.capitalize()} the {limit:g} % it may have.",
                 steps=tuple(made.steps()), assumed=assumed)  # fmt: skip


def box(asked: Any, text: str) -> Quick:
    """What a box needs."""
    words = asked.words
    words.has(r"\bbox(?:es)?\b")
    words.has(r"\bfill\b")
    edition = asked.edition()
    marked = words.has(r"(?<![\d.#/])(\d{1,3}(?:\.\d+)?)\s*(?:in3|in³|cu(?:bic)? ?in\w*|cubic)")
    made = box_fill(words.left.strip(" ,:?"), edition)
    needed = made.number
    says = ""
    if marked:
        fits = float(marked[1]) >= needed
        says = f"A box of {marked[1]} in³ {'holds it' if fits else 'is too small'}."
    return Quick(text, made.title, f"{figures(needed)} in³", says, steps=tuple(made.steps()),
                 assumed=tuple(asked.assumed))  # fmt: skip


def motor(asked: Any, text: str) -> Quick:
    """A motor's current, wire and largest breaker by its horsepower."""
    words = asked.words
    typed = words.has(r"(?<![\d./])(\d{1,2}(?:\.\d+)?|\d{1,2}-1/2|[1-3]/[2346])\s*hp\b")
    words.has(r"\bmotor\b|\bpump\b|\bcompressor\b")
    volts = words.number(r"volts?|v")
    if typed is None:
        raise BadInput("Say its horsepower: motor 3 hp 240V.")
    if volts is None:
        volts = 240.0
        asked.assumed.append(Supposed("240 V", f"{words.text} 120v", "120 V"))
    words.done()
    hp = _horsepower(typed[1])
    amps, wire = full_load_a(hp, volts), motor_wire_a(hp, volts)
    device = largest_motor_device(hp, volts)
    rows = (
        ("Wire carries at least", f"{figures(wire.number)} A"),
        ("Largest breaker", f"{device.number:g} A"),
        ("Largest time-delay fuse", f"{largest_motor_device(hp, volts, 'fuse').number:g} A"),
    )
    steps = (*wire.steps(), *device.steps()[1:])
    says = "By the table, not the nameplate; overload protection by the nameplate."
    return Quick(text, f"Motor of {hp:g} hp at {volts:g} V", f"{figures(amps)} A", says, rows,
                 steps, tuple(asked.assumed))  # fmt: skip


def _horsepower(text: str) -> float:
    whole, _, part = text.partition("-") if "-" in text else ("", "", text)
    top, _, bottom = part.partition("/")
    return float(whole or 0) + float(top) / float(bottom or 1)


def tap(asked: Any, text: str) -> Quick:
    """A feeder tap by 240.21(B)."""
    words = asked.words
    words.has(r"\btap\b")
    end = words.has(r"(\d{2,3})\s*a?\s*main\b|\bends? (?:in|at)\s+(\d{2,3})\s*a?\b")
    ahead, feet = words.amps(), words.feet()
    outdoors = bool(words.has(r"\boutdoors?\b|\boutside\b|\bunderground\b"))
    raceway = not words.has(r"\bcable\b|\bopen\b")
    sized = words.sized()
    if ahead is None or sized is None or feet is None:
        raise BadInput("Say wire, device ahead and length: tap 3 cu 200A 20ft 100A main.")
    metal = asked.metal(USUAL_METAL)
    words.has(r"\bbehind\b|\boff\b|\bfrom\b|\bahead\b|\bbreaker\b|\bfeeder\b|\bwith\b|\braceway\b")
    words.done()
    carries = sizing.ampacity(sized[1], metal)
    end_a = float(end[1] or end[2]) if end else None
    rules = tap_rules(carries, ahead, feet, end_a, raceway, outdoors)
    met = next((r for r in rules if r.met), None)
    nearest = min(rules, key=lambda r: len(r.lacks))
    says = f"By {met.section}." if met else f"Nearest {nearest.section}; it lacks: " + "; ".join(
        nearest.lacks) + "."  # fmt: skip
    steps = (
        given(f"{tables.size_name(sized[1])} {tables.metal_name(metal)}: {carries:g} A at 75 °C"),
        *(note(f"{r.section}: {'met' if r.met else 'lacks ' + '; '.join(r.lacks)}") for r in rules),
        note("no next rating up for a tap; no tap of a tap"),
    )
    assumed = (
        () if end else (Supposed("no single device at its end", f"{text} 60A main", "60 A main"),)
    )
    shown = "permitted" if met else "not permitted"
    return Quick(text, f"Tap of {feet:g} ft behind {ahead:g} A", shown, says, steps=steps,
                 assumed=(*asked.assumed, *assumed))  # fmt: skip


#: The screws of the default table, by the words a person has for them.
SCREWS = {
    r"split[- ]?bolt": "split-bolt", r"hex\w*|lugs?": "other lugs",
    r"wide slot|slot(?:ted)?": "over 0.047",
}  # fmt: skip


def torque(asked: Any, text: str) -> Quick:
    """The default torque where no label says one."""
    words = asked.words
    words.has(r"\btorque\b")
    kind = next((name for pattern, name in SCREWS.items() if words.has(rf"\b(?:{pattern})\b")), "")
    sized = words.sized()
    asked.metal(USUAL_METAL)
    if sized is None:
        raise BadInput("Say the wire and the screw: torque #4 hex, torque #4 slotted.")
    words.has(r"\bscrew\b|\bterminal\b|\bhead\b")
    words.done()
    order = list(tables.conductors())
    found = []
    for row in tables.rows("torque_default"):
        low, high = row["from_size"] or "18", row["to_size"]
        if not high or high not in order or (kind and kind not in row["screw"]):
            continue
        first = order.index(low) if low in order else 0
        if row["screw"].startswith(("hex", "slotted")) and first <= order.index(sized[1]) <= (
            order.index(high)
        ):
            found.append((row["screw"], row["default_torque_in_lb_where_no_label"]))
    if not found:
        raise BadInput("The table of default torques has no row for that: read the label.")
    rows = tuple((screw.capitalize(), f"{inch} in-lb") for screw, inch in found)
    figure = f"{found[0][1]} in-lb" if len({t for _, t in found}) == 1 else "by its screw"
    return Quick(text, f"Default torque, {tables.size_name(sized[1])}", figure,
                 "Only where no label or instruction says one: the label comes first (110.14(D)).",
                 rows)  # fmt: skip


def neutral_counts(asked: Any, text: str) -> Quick:
    """Whether a neutral counts as current-carrying."""
    words = asked.words
    words.has(r"\b(?:does )?(?:the )?neutral\b")
    words.has(r"\bcounts?(?:ed)?\b")
    wye = words.has(r"120/208|208y/120|\b208\b|\bwye\b")
    words.has(r"120/240|\bwye\b|\b208\b|\b120\b|\b240\b|\bsingle[- ]phase\b|\b3[- ]wire\b")
    electronic = words.has(r"\belectronic\w*\b|\bnon-?linear\b|\bleds?\b|\bcomputers?\b")
    two = words.has(r"\btwo[- ]wire\b|\b2[- ]wire\b")
    words.has(r"\band\b|\bof\b|\bfour[- ]wire\b|\b4[- ]wire\b|\btwo lines\b")
    words.done()
    rows = [r for r in tables.rows("adjustment") if r["kind"] == "count"]
    counts = bool(wye or electronic or two)
    if two:
        rule = next(r for r in rows if "two-wire" in r["rule"])
    elif electronic and wye:
        rule = next(r for r in rows if "non-linear" in r["rule"])
    elif wye:
        rule = next(r for r in rows if "common conductor" in r["rule"])
    else:
        rule = next(r for r in rows if "unbalance" in r["rule"])
    says = rule["rule"][:1].upper() + rule["rule"][1:] + "."
    return Quick(text, "Does its neutral count?", "yes" if counts else "no", says,
                 steps=(note(rule["source"]),))  # fmt: skip


def since(asked: Any, text: str) -> Quick:
    """Since which edition a rule holds, and what changed."""
    words = asked.words
    words.has(r"\bsince(?: when)?\b|\bwhen was\b|\bwhat year\b")
    wanted = [w for w in re.findall(r"[a-z0-9]+", words.left) if w not in ("is", "the", "a", "of")]
    if not wanted:
        raise BadInput("Say what: since gfci garage.")
    scored = []
    for row in tables.rows("editions_rules"):
        said = f"{row['rule_id']} {row['topic']} {row['rule']}".lower().replace(".", " ")
        if all(_says(word, said) for word in wanted):
            scored.append(row)
    if not scored:
        raise BadInput(f"No rule kept here speaks of “{' '.join(wanted)[:60]}”.")
    first = scored[0]
    rows = tuple((f"{r['first_edition']}–{_to(r)}{_sure(r)}", _rule(r)) for r in scored[:6])
    known = first["first_edition"].replace("before", "before ")
    return Quick(text, first["topic"], " ".join(known.split()),
                 f"{_rule(first)}{_sure(first)} Kept to {HELD_TO}; the local office decides.",
                 rows)  # fmt: skip


def _says(word: str, text: str) -> bool:
    return bool(re.search(rf"\b{re.escape(word.rstrip('s'))}", text))


def _to(row: dict[str, str]) -> str:
    return "today" if row["last_edition"] == "open" else row["last_edition"]


def _sure(row: dict[str, str]) -> str:
    return "" if row["sure"] == "yes" else " (unconfirmed)"


def _rule(row: dict[str, str]) -> str:
    text = row["rule"]
    return f"{text[:1].upper()}{text[1:]} ({row['source']})."


CARRY_KINDS: tuple[tuple[str, Callable[[Any, str], Quick]], ...] = (
    (r"^ since\b|\bwhen was\b|\bsince when\b", since),
    (r"\btorque\b", torque),
    (r"\bneutral counts?\b|\bcount (?:the )?neutral\b|\bdoes the neutral count\b", neutral_counts),
    (r"\bampacity\b|\bderat\w*\b", ampacity),
    (r"\bbundled?\b", bundle),
    (r"^ fill\b|\b(?:conduit|raceway) fill\b", fill),
    (r"^ box\b|\bbox fill\b", box),
    (r"\btap\b", tap),
    (r"\bhp\b", motor),
)
