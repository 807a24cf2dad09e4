"""Tests of the computation alone: no Django, no screen."""

import os

from hypothesis import Phase, settings

settings.register_profile("mutants", phases=(Phase.explicit, Phase.generate), derandomize=True)
if os.environ.get("JUSTLOOP_MUTATE"):
    settings.load_profile("mutants")  # what fails need not be made small
