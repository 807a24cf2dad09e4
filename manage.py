#!/usr/bin/env python
"""Django's command line for Just Loop."""

import sys
from pathlib import Path

if __name__ == "__main__":
    sys.path.insert(0, str(Path(__file__).resolve().parent / "src"))
    from justloop.__main__ import main

    main()
