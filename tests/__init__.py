"""The tests: ``core`` (the computation alone), ``web`` (Django's client), ``browser`` (Chromium).

Any of them runs alone by name: ``python -m unittest tests.core.test_nets``.
"""

import os
import sys
from pathlib import Path

from hypothesis import settings

_SRC = str(Path(__file__).resolve().parents[1] / "src")
if _SRC not in sys.path:
    sys.path.insert(0, _SRC)

# The same examples at every run, so that a change fails by its own fault; FRESH=1 for new ones.
settings.register_profile("fixed", derandomize=True, database=None)
if not os.environ.get("FRESH"):
    settings.load_profile("fixed")
