"""No figure moves unseen: those of the examples and of random places are kept."""

import json
import unittest

from returnpath import ENGINE_VERSION
from script.figures import KEPT, figures_now, moved


class Figures(unittest.TestCase):
    def test_no_figure_moves_without_the_engines_number(self):
        kept = json.loads(KEPT.read_text("utf-8"))
        changed = moved(kept["figures"], figures_now())
        if changed:
            self.assertNotEqual(
                kept["engine"], ENGINE_VERSION,
                f"raise ENGINE_VERSION, run script/figures: {changed[:5]}",
            )  # fmt: skip
        self.assertEqual(kept["engine"], ENGINE_VERSION, "run script/figures")
