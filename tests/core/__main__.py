"""Run the core tests with Django and justloop made impossible to import."""

import sys
import unittest
from pathlib import Path

BARRED = ("django", "justloop")


class Barrier:
    """An import hook that refuses the web application and its framework."""

    def find_spec(self, name, path=None, target=None):
        if name.split(".")[0] in BARRED:
            raise ModuleNotFoundError(f"{name} is barred from the core's tests", name=name)
        return None


if __name__ == "__main__":
    sys.meta_path.insert(0, Barrier())
    here = Path(__file__).resolve().parent
    suite = unittest.defaultTestLoader.discover(str(here), top_level_dir=str(here.parents[1]))
    result = unittest.TextTestRunner(verbosity=1).run(suite)
    sys.exit(not result.wasSuccessful())
