"""Sessions in the database; where it takes nothing more, in a signed cookie for an hour, so that
signing in goes on with the disk full."""

from typing import Any

from django.contrib.sessions.backends.base import UpdateError
from django.contrib.sessions.backends.db import SessionStore as InDatabase
from django.core import signing
from django.db import DatabaseError

from ..trouble import why_not_kept

MARK = "full:"
LASTS_S = 3600
_SALT = "justloop.session"


class SessionStore(InDatabase):
    """One that is in a cookie cannot be ended from elsewhere: it ends by itself after an hour."""

    def load(self) -> dict[str, Any]:
        """What the session holds."""
        key = self.session_key or ""
        if not key.startswith(MARK):
            return super().load()
        try:
            return dict(signing.loads(key.removeprefix(MARK), salt=_SALT, max_age=LASTS_S))
        except signing.BadSignature:
            self._session_key = None
            return {}

    def exists(self, session_key: str) -> bool:
        """Whether a session of that key is kept."""
        return not session_key.startswith(MARK) and super().exists(session_key)

    def save(self, must_create: bool = False) -> None:
        """Keep it; in its own key where the database takes nothing."""
        if (self.session_key or "").startswith(MARK):
            self._in_cookie()
            return
        try:
            super().save(must_create)
        except (DatabaseError, UpdateError) as error:
            cause = error if isinstance(error, DatabaseError) else error.__context__
            if not isinstance(cause, DatabaseError) or not why_not_kept(cause):
                raise
            self._in_cookie()

    def _in_cookie(self) -> None:
        self._session_key = MARK + signing.dumps(dict(self._get_session()), salt=_SALT)

    def delete(self, session_key: str | None = None) -> None:
        """End it."""
        key = session_key or self.session_key or ""
        if not key.startswith(MARK):
            super().delete(session_key)
