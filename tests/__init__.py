"""The tests: ``core`` (the computation alone), ``web`` (Django's client), ``browser`` (Chromium).

Any of them runs alone by name: ``python -m unittest tests.core.test_nets``.
"""

import sys
from pathlib import Path

_SRC = str(Path(__file__).resolve().parents[1] / "src")
if _SRC not in sys.path:
    sys.path.insert(0, _SRC)
