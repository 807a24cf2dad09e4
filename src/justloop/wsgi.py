"""The WSGI application that waitress serves."""

import gc
import os
import threading

from django.core.signals import request_finished
from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "justloop.settings")
application = get_wsgi_application()


YOUNG = 20_000  # objects made since the last look
PAUSE_S = 0.05  # the answer is on its way by then, and nobody asks again so soon


def calm_collector() -> None:
    """Let the collector leave alone what lives as long as the process, and look between requests.

    A solved site is a hundred thousand objects without cycles: looking through all that are kept
    cost up to half a second every few changes, and through the young alone a quarter of a change
    (``script/bench``). So it looks when an answer has gone out.
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(20 * YOUNG, 20, 1000)
    request_finished.connect(_look_soon, dispatch_uid="collector")


def _look_soon(**_signal) -> None:
    if gc.get_count()[0] > YOUNG:
        look = threading.Timer(PAUSE_S, gc.collect, (1,))
        look.daemon = True
        look.start()


calm_collector()
