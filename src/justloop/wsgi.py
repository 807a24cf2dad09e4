"""The WSGI application that waitress serves."""

import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "justloop.settings")
application = get_wsgi_application()


def calm_collector() -> None:
    """Let the collector leave alone what lives as long as the process, and look seldom.

    A solved site is a hundred thousand objects without cycles: looking through all that are kept
    cost up to half a second every few changes (``script/bench``).
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 1000)


calm_collector()
