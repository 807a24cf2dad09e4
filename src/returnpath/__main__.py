"""``python -m returnpath``: the command line of ``script/loop``."""

import sys

from .command import main

sys.exit(main())
