"""The one shape of every command's ``--json`` (docs/command-line.md).

    {"value": 0.025, "unit": "s", "working": [{"kind", "text", "source"}], "assumptions": [...]}

One figure stands under ``value``; anything larger under ``result``, with ``value`` null.
"""

import json
import math
from typing import Any

from ..working import Working


def of(
    result: Any, unit: str, working: list[dict] | None = None, assumptions: list | None = None
) -> dict[str, Any]:
    """The envelope of a result that is more than one figure."""
    body = {
        "value": None,
        "result": result,
        "unit": unit,
        "working": working or [],
        "assumptions": assumptions or [],
    }
    # The keys of a result also stand beside it, as before engine 4: they go with engine 5.
    return (result if isinstance(result, dict) else {}) | body


def of_figure(answer: Working, **more: Any) -> dict[str, Any]:
    """The envelope of one figure; ``more`` of what belongs to it under ``result``."""
    body = answer.as_dict()
    assumed = [s["text"] for s in body["working"] if s["kind"] == "assumption"]
    result = {k: _plain(v) for k, v in more.items()}
    return result | {
        "title": body["title"],
        "value": body["value"],
        "result": result,
        "unit": body["unit"],
        "working": body["working"],
        "assumptions": assumed,
    }


def _plain(value: Any) -> Any:
    is_endless = isinstance(value, float) and not math.isfinite(value)
    return None if is_endless else value


def show(body: dict[str, Any]) -> None:
    """Print an envelope."""
    print(json.dumps(body, ensure_ascii=False, indent=1, allow_nan=False))
