"""Settings of the application. What differs between installations comes from the environment.

NETTLECAP_DATA (folder for the database and the hand-ins), DATABASE_URL, SECRET_KEY, ALLOWED_HOSTS, DEBUG,
HTTPS (1 where a proxy serves it over https), TRUSTED_PROXIES (addresses or networks of proxies in front, by commas),
SITE_URL (the address that letters and other systems are told), LEASE_SECONDS (see takes/worker.py), and EMAIL_URL (a
mail server; without one letters stay in the outbox, where they can be read), EMAIL_FROM.
docs/running.md has those for a school of several machines.
"""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import environ
from csp.constants import NONE, SELF
from django.core.exceptions import ImproperlyConfigured
from django.core.management.utils import get_random_secret_key

from nettlecap import logs

BASE = Path(__file__).resolve().parent.parent
env = environ.Env()
DATA = Path(env.str("NETTLECAP_DATA", default=str(BASE / "var"))).resolve()
# Database, secrets and hand-ins are their owner's alone.
DATA.mkdir(parents=True, exist_ok=True)
if DATA.stat().st_uid == os.getuid():
    DATA.chmod(0o700)


def _secret_key() -> str:
    """The installation's own key, made on first use and kept beside the data."""
    path = DATA / "secret_key"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(get_random_secret_key())
    return path.read_text()


DEBUG = env.bool("DEBUG", default=False)
SECRET_KEY = env.str("SECRET_KEY", default="") or _secret_key()
ALLOWED_HOSTS = env.list("ALLOWED_HOSTS", default=["localhost", "127.0.0.1", "[::1]"])
HTTPS = env.bool("HTTPS", default=False)
# Only what these say of where a request comes from is believed; see guard/address.py.
TRUSTED_PROXIES: list[str] = env.list("TRUSTED_PROXIES", default=["127.0.0.1", "::1"] if HTTPS else [])

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "nettlecap.static_files.StaticFiles",
    "django_htmx",
    "django_tasks",
    "django_tasks_db",
    "csp",
    "nettlecap.classroom",
    "nettlecap.takes",
    "nettlecap.marking",
    "nettlecap.training",
    "nettlecap.school",
    "nettlecap.watch",
    "nettlecap.pages",
]

MIDDLEWARE = [
    "nettlecap.watch.probes.Probes",
    "nettlecap.guard.address.ClientAddress",
    "nettlecap.watch.requests.EachRequest",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "nettlecap.guard.caches.PrivateAnswers",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "nettlecap.guard.bodies.BodyLimits",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "nettlecap.guard.texts.WrittenTexts",
    "nettlecap.guard.storage.StorageTrouble",
    "nettlecap.refusals.RefusalMiddleware",
]

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [BASE / "nettlecap" / "templates"],
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ],
            "loaders": [
                ("django.template.loaders.cached.Loader", ["django.template.loaders.filesystem.Loader"]),
            ],
        },
    }
]

ROOT_URLCONF = "nettlecap.urls"
WSGI_APPLICATION = "nettlecap.wsgi.application"

DATABASE_URL = env.str("DATABASE_URL", default="") or f"sqlite:///{DATA / 'db.sqlite3'}"
DATABASES: dict[str, dict[str, Any]] = {"default": env.db_url_config(DATABASE_URL)}
if DATABASES["default"]["ENGINE"].endswith("postgresql"):
    # A thread keeps its connection, and looks whether it still is one.
    DATABASES["default"] |= {"CONN_MAX_AGE": 60, "CONN_HEALTH_CHECKS": True}
elif DATABASES["default"]["ENGINE"].endswith("sqlite3"):
    DATABASES["default"]["OPTIONS"] = {
        "timeout": 30,
        "transaction_mode": "IMMEDIATE",
        "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL; PRAGMA foreign_keys=ON;",
    }
else:
    raise ImproperlyConfigured(
        "DATABASE_URL begins with sqlite:/// or postgres://; Nettlecap works on no other database."
    )

AUTH_USER_MODEL = "classroom.Person"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 8}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
PASSWORD_RESET_TIMEOUT = 7 * 86_400
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "start"
LOGOUT_REDIRECT_URL = "sign-in"

LANGUAGE_CODE = "en-gb"
TIME_ZONE = env.str("TIME_ZONE", default="UTC")
USE_TZ = True

STATIC_URL = "static/"
STATIC_ROOT = DATA / "static"
STATICFILES_DIRS = [BASE / "nettlecap" / "static"]
STORAGES: dict[str, dict[str, Any]] = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "nettlecap.static_files.ModuleStorage"},
}
MEDIA_ROOT = DATA / "media"

# Where several machines share their files: any storage that speaks S3; see files/shelf.py.
FILES_BUCKET = env.str("FILES_BUCKET", default="")
if FILES_BUCKET:
    from botocore.config import Config

    STORAGES["shared"] = {
        "BACKEND": "storages.backends.s3.S3Storage",
        "OPTIONS": {
            "bucket_name": FILES_BUCKET,
            "endpoint_url": env.str("FILES_ENDPOINT", default="") or None,
            "region_name": env.str("FILES_REGION", default="us-east-1"),
            "location": env.str("FILES_PREFIX", default=""),
            "default_acl": None,
            "file_overwrite": True,
            "client_config": Config(
                connect_timeout=3, read_timeout=60, retries={"max_attempts": 3, "mode": "standard"}
            ),
            # What is larger goes through the disk.
            "max_memory_size": 1_000_000,
        },
    }

SITE_URL = env.str("SITE_URL", default="http://127.0.0.1:8000")
MAIL_SERVER = bool(env.str("EMAIL_URL", default=""))
DEFAULT_FROM_EMAIL = env.str("EMAIL_FROM", default="nettlecap@localhost")
if MAIL_SERVER:
    vars().update(env.email("EMAIL_URL"))

# Drawings that nobody has looked at for so long are thinned out: they are made again from the clip, which stays.
DRAWINGS_DAYS = env.float("DRAWINGS_DAYS", default=45.0)

# What a course may take up unless the school gives it another measure, and how often one person sends something.
COURSE_BYTES = env.int("COURSE_BYTES", default=20_000_000_000)
COURSE_WAITING = env.int("COURSE_WAITING", default=600)
UPLOADS_AN_HOUR = env.int("UPLOADS_AN_HOUR", default=60)
CHECKS_AN_HOUR = env.int("CHECKS_AN_HOUR", default=30)
INVITATIONS_AN_HOUR = env.int("INVITATIONS_AN_HOUR", default=40)

# Where the demo's simulated school system answers.
SCHOOL_PORT = env.int("SCHOOL_PORT", default=8801)

# What goes out (letters, marks, files of a class) has a queue and a worker of its own: no hand-in waits for it.
QUEUE_OUT = "out"
TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend", "QUEUES": ["default", QUEUE_OUT]}}

# So long the work of a process that gives no sign of life is left to it.
LEASE_SECONDS = env.float("LEASE_SECONDS", default=30.0)

# Checked in full in takes/file_check.py; these only bound what a request may hold.
DATA_UPLOAD_MAX_NUMBER_FILES = 1300
DATA_UPLOAD_MAX_MEMORY_SIZE = 2_000_000

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "data:", "blob:"],
        "font-src": [SELF],
        "media-src": ["blob:"],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = HTTPS
SECURE_HSTS_SECONDS = 31_536_000 if HTTPS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = HTTPS
if HTTPS:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")

LOG_FORMAT = env.str("LOG_FORMAT", default=logs.JSON)
LOGGING = logs.configured(LOG_FORMAT)

# Who scrapes numbers from /metrics sends this as a bearer token; without one only this machine itself may.
METRICS_TOKEN = env.str("METRICS_TOKEN", default="")
