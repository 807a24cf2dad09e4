"""Why a word of a typed line was not used, and how to write it."""

import difflib
import re

from .name import KEYWORDS


def why_not(word: str, is_metric: bool = False) -> str:
    """One sentence for a word that is neither a fact nor a name."""
    plain = word.strip(",;:")
    if is_metric and re.fullmatch(r"\d+(?:[.,]\d+)?", plain):
        return f"“{plain}” needs its unit: {plain}mm for a wire, {plain}A for a device, {plain}m."
    if re.fullmatch(r"\d+(?:[.,]\d+)?", plain):
        return f"“{plain}” needs its unit: {plain}A for a breaker, {plain}ft for a length."
    if match := re.match(r"(?i)^#?([1-4]/0|\d{1,4})[/-](\d+)", plain):
        return (
            f"“{plain}” was not understood: a cable is written {match[1]}/2 or {match[1]}/3, its"
            " size and its insulated wires."
        )
    if re.match(r"(?i)^\d+(?:[.,]\d+)?(f|me|\")", plain):
        return f"“{plain}” was not understood: a length is written 85ft or 26m."
    if re.search(r"\d", plain):
        return f"“{plain}” was not understood; see what can be written below the line."
    if re.match(r"(?i)^(un)?(ground|gnd|grd)", plain):
        return (
            f"“{plain}” was not understood: write “ground 12” for its ground wire, “no ground”"
            " where there is none; what is loose or cut is entered at the circuit."
        )
    near = difflib.get_close_matches(plain.lower(), KEYWORDS, 1, 0.8)
    meant = f" Did you mean “{near[0]}”?" if near and near[0] != plain.lower() else ""
    return f"“{plain}” was not used.{meant} Keep it as the name, or leave it out."
