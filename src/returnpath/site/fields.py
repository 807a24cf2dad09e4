"""A field's metadata, the text a person types into it, and how its value is shown."""

import math
import re
from dataclasses import dataclass, field
from enum import Enum
from functools import cache
from typing import Any, get_args

from pydantic import BaseModel

from .. import tables
from ..conductor import raceway_row
from ..errors import BadInput, number_in
from ..vocabulary import Size
from ..vocabulary.units import FEET_PER_METRE
from .base import Part

_NUMBER = re.compile(r"^[+-]?(\d+([.,]\d+)?|[.,]\d+)$")
_UNITS: dict[str, dict[str, float]] = {
    "length": {
        "ft": 1.0,
        "feet": 1.0,
        "foot": 1.0,
        "'": 1.0,
        "′": 1.0,
        "m": FEET_PER_METRE,
        "mtr": FEET_PER_METRE,
        "mtrs": FEET_PER_METRE,
        "metre": FEET_PER_METRE,
        "metres": FEET_PER_METRE,
        "meter": FEET_PER_METRE,
        "meters": FEET_PER_METRE,
    },
    "amps": {"a": 1.0, "amp": 1.0, "amps": 1.0, "ka": 1000.0},
}
#: Of them what a refusal lists.
_NAMED = {"length": ("ft", "feet", "′", "m", "metres"), "amps": ("a", "amps", "ka")}


@dataclass(frozen=True, slots=True)
class FieldInfo:
    """What is known about one field: how to label, ask, check and show it."""

    path: str  # inside its element: "breaker.rating_a"
    label: str
    kind: str
    unit: str = ""
    low: float | None = None
    high: float | None = None
    whole: bool = False
    help: str = ""
    to: str = ""  # the list that a ref's id is in
    rules: str = "both"  # whose fact it is: us, metric or both
    factor: float = 1.0  # of what is shown in another unit: how much one of the stored unit is
    stored: "FieldInfo | None" = None  # the same as it is stored
    choices: dict[str, str] = field(default_factory=dict)
    values: dict[str, Any] = field(default_factory=dict)  # a choice's text → what is stored


@cache
def fields_of(model: type[BaseModel], prefix: str = "") -> tuple[FieldInfo, ...]:
    """The facts of an element, groups flattened, in the order they are declared."""
    found: list[FieldInfo] = []
    for name, info in model.model_fields.items():
        inner = info.annotation
        if isinstance(inner, type) and issubclass(inner, Part):
            found.extend(fields_of(inner, f"{prefix}{name}."))
            continue
        meta = info.json_schema_extra
        if isinstance(meta, dict) and "kind" in meta:
            unit = {"length": "ft", "amps": "A"}.get(str(meta["kind"]), "")
            more: dict[str, Any] = {"unit": unit, **meta}
            if meta["kind"] == "choice":
                more["values"] = _stored(inner, more["choices"])
            found.append(FieldInfo(path=prefix + name, **more))
    return tuple(found)


def _stored(annotation: Any, choices: dict[str, str]) -> dict[str, Any]:
    """What each choice is stored as: a number where the model holds a number, else its text."""
    literals = [v for part in (get_args(annotation) or (annotation,)) for v in _members(part)]
    by_text = {str(v): v for v in literals}
    return {text: by_text.get(text, text) for text in choices}


def _members(part: Any) -> tuple[Any, ...]:
    if isinstance(part, type) and issubclass(part, Enum):
        return tuple(part)
    return get_args(part) or (part,)


@cache
def fields_by_path(model: type[BaseModel]) -> dict[str, FieldInfo]:
    """The facts of an element by their path inside it."""
    return {info.path: info for info in fields_of(model)}


def field_info(element: BaseModel, path: str) -> FieldInfo:
    """The metadata of ``path`` in ``element``; BadInput when there is no such fact."""
    info = fields_by_path(type(element)).get(path)
    if info is None:
        raise BadInput(f"There is no “{path}” here.")
    return info


def parse_text(info: FieldInfo, text: str) -> Any:
    """The value a person typed. Empty text is None: not known. BadInput says what is allowed."""
    text = " ".join("".join(c if c.isprintable() else " " for c in str(text)).split())
    if not text:
        return None
    if info.kind in ("text", "ref"):
        return check_value(info, text)
    if info.kind == "choice":
        return check_value(info, _choice(info, text))
    if info.kind in ("places", "segments"):
        value = check_value(info, text)
        return show_value(info, value) if info.kind == "segments" else value
    if info.kind == "size":
        return check_value(info, Size.typed(text))
    if info.kind == "raceway":
        return check_value(info, re.sub(r"(?i)\s*(in\.?|inch|\")$", "", text))
    number, unit = _split_unit(text)
    if number is None:
        lengths = "26, 26 m or 85 ft" if info.unit == "m" else "85, 85 ft or 26 m"
        example = lengths if info.kind == "length" else "a number"
        raise BadInput(f"{info.label.capitalize()}: “{text}” was not understood; write {example}.")
    scale = _UNITS.get(info.kind, {}).get(unit.lower())
    if scale is None and unit and unit.lower() != info.unit.lower():
        known = ", ".join(_NAMED.get(info.kind, (info.unit,))) or "no unit"
        raise BadInput(
            f"{info.label.capitalize()}: “{unit}” is not a unit here; {known} are known."
        )
    stored = info.stored or info
    if scale is None or (stored is not info and not unit):
        scale = 1 / info.factor
    places = 1 if info.kind == "length" else 4  # a tenth of a foot is the width of a hand
    return check_value(stored, round(number * scale, places))


def _split_unit(text: str) -> tuple[float | None, str]:
    match = re.match(r"^([+-]?[\d.,]+)\s*(.*)$", text)
    if not match:
        return None, ""
    number, unit = match[1], match[2].strip()
    if re.fullmatch(r"\d{1,3}(,\d{3})+(\.\d+)?", number):
        number = number.replace(",", "")  # 9,490
    if not _NUMBER.match(number):
        return None, ""
    value = float(number.replace(",", "."))
    return (value, unit) if math.isfinite(value) else (None, "")


def _choice(info: FieldInfo, text: str) -> str:
    for key, label in info.choices.items():
        if text.lower() in (key.lower(), label.lower()):
            return key
    return text


def check_value(info: FieldInfo, value: Any) -> Any:
    """``value`` if it can exist in this field; BadInput with the field's label if not."""
    label = info.label[:1].upper() + info.label[1:]
    if value is None:
        return None
    if info.kind == "choice":
        if str(value) not in info.choices:
            listed = ", ".join(info.choices.values())
            raise BadInput(f"{label}: “{value}” is not one of {listed}.")
        return info.values[str(value)]
    if info.kind == "size":
        try:
            return tables.known_size(str(value))
        except BadInput as error:
            raise BadInput(f"{label}: {error.sentence}") from None
    if info.kind == "raceway":
        raceway_row("EMT", str(value))
        return str(value)
    if info.kind == "segments":
        return _segments(value)
    if info.kind == "places":
        return _known_places(str(value))
    if info.kind in ("text", "ref"):
        if len(str(value)) > 80:
            raise BadInput(f"{label}: at most 80 characters.")
        return str(value)
    number = number_in(value, label, info.low, info.high, info.unit)
    if info.whole:
        if number != int(number):
            raise BadInput(f"{label} must be a whole number, not {number:g}.")
        return int(number)
    return number


def _known_places(text: str) -> str:
    from .serves import known_places  # what a circuit serves knows the circuit, and this its facts

    return known_places(text)


def _segments(value: Any) -> Any:
    from .segments import checked, read_segments  # a typed segment is read as a circuit is

    return read_segments(value) if isinstance(value, str) else checked(value)


def show_value(info: FieldInfo, value: Any, unit: bool = True) -> str:
    """``value`` as the trade writes it; "" for None."""
    if value is None:
        return ""
    if info.kind == "choice":
        return info.choices.get(str(value), str(value))
    if info.kind == "size":
        return Size(value).name if unit else str(value)
    if info.kind == "segments" and isinstance(value, str):
        return value
    if info.kind == "segments":
        from .segments import show_segments

        return show_segments(value)
    if info.kind in ("text", "raceway", "ref", "places"):
        return f"{value} {info.unit}".strip() if unit else str(value)
    if info.factor != 1.0:
        value = round(float(value) * info.factor, 0 if info.unit == "mm" else 1)
    shown = f"{value:,.3f}".rstrip("0").rstrip(".") if isinstance(value, float) else str(value)
    return f"{shown} {info.unit}".strip() if unit else shown.replace(",", "")
