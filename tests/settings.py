"""Settings of the web and browser tests: the demo's, with plain static files and quick hashes."""

import os
import tempfile

os.environ.setdefault("JUSTLOOP_DATA", tempfile.mkdtemp(prefix="justloop-test-"))
os.environ["JUSTLOOP_DEMO"] = "1"

from justloop.settings import *  # noqa: F403
from justloop.settings import STATIC_ROOT, STORAGES

# Refusals are what many tests ask for: only what is broken is worth a line.
LOGGING = {
    "version": 1,
    "handlers": {"nowhere": {"class": "logging.NullHandler"}},
    "root": {"handlers": ["nowhere"], "level": "ERROR"},
}
STATIC_ROOT.mkdir(parents=True, exist_ok=True)

STORAGES = STORAGES | {
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}
}
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
ALLOWED_HOSTS = ["*"]
