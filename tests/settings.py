"""Settings for the tests: fast hashing, plain static files, folders of their own."""

from __future__ import annotations

import atexit
import os
import shutil
import tempfile

# What passes is in it, too: some tests sweep that as of another day, and other runs go on beside this one.
OWN = tempfile.mkdtemp(prefix="nettlecap-test-")
atexit.register(shutil.rmtree, OWN, ignore_errors=True)
os.environ["TMPDIR"] = tempfile.tempdir = OWN
os.environ.setdefault("NETTLECAP_DATA", tempfile.mkdtemp(prefix="data-"))
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
os.environ.setdefault("SECRET_KEY", "only-for-tests")
os.environ.setdefault("LOG_FORMAT", "plain")

from nettlecap.settings import *  # noqa: E402, F403
from nettlecap.settings import DATA, DATABASES, STORAGES  # noqa: E402

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
