"""Settings for the tests: fast hashing, plain static files, a data folder of their own."""

from __future__ import annotations

import os
import tempfile

os.environ.setdefault("NETTLECAP_DATA", tempfile.mkdtemp(prefix="nettlecap-test-"))
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
os.environ.setdefault("SECRET_KEY", "only-for-tests")
os.environ.setdefault("LOG_FORMAT", "plain")

from nettlecap.settings import *  # noqa: F403
from nettlecap.settings import DATA, DATABASES, STORAGES

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {**STORAGES, "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
if DATABASES["default"]["ENGINE"].endswith("sqlite3"):
    # In a file, since the worker's tests run it as another process; nothing waits for the disk, where nothing has to
    # last.
    DATABASES["default"]["TEST"] = {"NAME": str(DATA / "test.sqlite3")}
    DATABASES["default"]["OPTIONS"]["init_command"] += "PRAGMA synchronous=OFF;"
TEST_RUNNER = "tests.runner.Runner"
WHITENOISE_AUTOREFRESH = True
DATABASES["default"]["CONN_MAX_AGE"] = 0
LOGGING = {"version": 1, "disable_existing_loggers": True}
