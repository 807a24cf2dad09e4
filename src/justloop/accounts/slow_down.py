"""The slow-down at signing in, where the database may take nothing: it never stops a sign-in that
is right, and a wrong one that cannot be counted waits."""

import logging
import time

from axes.handlers.database import AxesDatabaseHandler
from django.db import DatabaseError

logger = logging.getLogger(__name__)
WAIT_S = 2.0


class SlowDown(AxesDatabaseHandler):
    """Axes' own, without its writes being needed."""

    def user_logged_in(self, *args, **kwargs):
        """Forget the failures before."""
        try:
            super().user_logged_in(*args, **kwargs)
        except DatabaseError:
            logger.warning("The failures before a sign-in could not be forgotten.")

    def user_logged_out(self, *args, **kwargs):
        """Note it."""
        try:
            super().user_logged_out(*args, **kwargs)
        except DatabaseError:
            logger.warning("A sign-out could not be noted.")

    def user_login_failed(self, *args, **kwargs):
        """Count it; where that cannot be, wait."""
        try:
            super().user_login_failed(*args, **kwargs)
        except DatabaseError:
            logger.warning("A failed sign-in could not be counted.")
            time.sleep(WAIT_S)
