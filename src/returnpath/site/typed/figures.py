"""Figures in a line: sizes, lengths' units, breakers' ratings; one read into its field's range."""

from ...errors import BadInput
from ..circuits import Circuit
from ..fields import field_info, parse_text
from .line import Line

SZ = r"(?:[1-4]/0|\d{1,4})"
UNIT = r"(?:ft\b\.?|feet\b|foot\b|'(?!')|m\b|meters?\b|metres?\b|mtrs?\b)"
STANDARD = "15|20|25|30|35|40|45|50|60|70|80|90|100|110|125|150|175|200|225|250|300|350|400"


def checked(line: Line, path: str, text: str, word: str):
    """A figure in its field's range; None with a sentence where it is not."""
    try:
        return parse_text(field_info(Circuit(id="c1"), path), text)
    except BadInput as error:
        line.problems.append(f"“{word.strip()}”: {error.sentence}")
        return None
