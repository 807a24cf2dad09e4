"""The WSGI application that waitress serves."""

import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "justloop.settings")
application = get_wsgi_application()

from . import running  # noqa: E402 - the models must be loaded first

running.hold()

# What was loaded lives as long as the process: the collector need not walk it. Solved sites hold
# no rings of objects (``tests/web/test_together.py``), so it has little to find; it looks at the
# young ones less often, and is otherwise Python's own.
gc.collect()
gc.freeze()
gc.set_threshold(50_000, 20, 10)
