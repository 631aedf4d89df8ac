"""Django settings, all of them from the environment; ``./start`` and ``./test`` set it up.

HAME_VAR      folder of the installation's own files: secret key, uploads (``.hame``)
HAME_DEMO     1: the sign-in page offers the demo accounts
HAME_MEDIA    folder of uploads, to be shared by machines that serve one studio
HAME_HOSTS    comma-separated host names that are served besides loopback
HAME_ORIGIN   where people reach it behind a proxy: https://desk.example; with https, cookies are sent over TLS only
HAME_PROXY    addresses of the proxy whose word about the client's address and scheme is taken; nobody's otherwise
HAME_DB_*     NAME, USER, PASSWORD, HOST, PORT of MariaDB; with a HOST, ``./start`` begins no database of its own
HAME_SECRET_KEY  what sessions are signed with, the same on all machines that serve one studio; else made in HAME_VAR
REDIS_URL     announcements between several server processes go through it
"""

from __future__ import annotations

import os
import secrets
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

BASE_DIR = Path(__file__).resolve().parent.parent
VAR = Path(os.environ.get("HAME_VAR", BASE_DIR / ".hame"))
VAR.mkdir(parents=True, exist_ok=True)


def _secret_key() -> str:
    """The installation's secret, made once and kept outside the repository, readable by its owner only."""
    path = VAR / "secret-key"
    if not path.exists():
        made = path.with_suffix(f".{os.getpid()}")
        made.touch(mode=0o600)
        made.write_text(secrets.token_urlsafe(50))
        made.replace(path)
    return path.read_text().strip()


SECRET_KEY = os.environ.get("HAME_SECRET_KEY") or _secret_key()
DEBUG = False
DEMO = os.environ.get("HAME_DEMO") == "1"
ORIGIN = os.environ.get("HAME_ORIGIN", "").rstrip("/")
CSRF_TRUSTED_ORIGINS = [ORIGIN] if ORIGIN else []
ALLOWED_HOSTS = [
    *([urlsplit(ORIGIN).hostname or ""] if ORIGIN else []),
    "127.0.0.1",
    "localhost",
    "[::1]",
    *filter(None, os.environ.get("HAME_HOSTS", "").split(",")),
]

INSTALLED_APPS = [
    "django.contrib.admin",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.messages",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "channels",
    "django_tasks",
    "django_tasks_db",
    "server.jobs",
    "server.keeping",
    "server.productions",
    "server.characters",
    "server.shots",
    "server.demo",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "server.security.content_security_policy",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]

# What takes long is a job (server.jobs): queued in the database, done by `manage.py work`.
TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}}

ROOT_URLCONF = "server.urls"
ASGI_APPLICATION = "server.asgi.application"
TEMPLATES: list[dict[str, Any]] = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ]
        },
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.mysql",
        "NAME": os.environ.get("HAME_DB_NAME", "hame"),
        "USER": os.environ.get("HAME_DB_USER", "hame"),
        "PASSWORD": os.environ.get("HAME_DB_PASSWORD", ""),
        "HOST": os.environ.get("HAME_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("HAME_DB_PORT", "33306"),
        "OPTIONS": {"charset": "utf8mb4", "isolation_level": "read committed"},
        "TEST": {"CHARSET": "utf8mb4", "COLLATION": "utf8mb4_unicode_ci"},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTHENTICATION_BACKENDS = ["server.accounts.backends.SlowedBackend"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]

CHANNEL_LAYERS: dict[str, Any] = {"default": {"BACKEND": "channels.layers.InMemoryChannelLayer"}}
if os.environ.get("REDIS_URL"):
    CHANNEL_LAYERS["default"] = {
        "BACKEND": "channels_redis.core.RedisChannelLayer",
        # Channels waits 5 seconds for a message at a time; redis-py gives a read up after as long by itself, which
        # makes every quiet socket deaf.
        "CONFIG": {"hosts": [{"address": os.environ["REDIS_URL"], "socket_timeout": 30}]},
    }

# Counts of tries and requests. With several processes they have to share it, as they share announcements.
# Room for many: what is pushed out of a small cache would be counted anew.
CACHES: dict[str, Any] = {
    "default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache", "OPTIONS": {"MAX_ENTRIES": 200_000}}
}
if os.environ.get("REDIS_URL"):
    CACHES["default"] = {"BACKEND": "django.core.cache.backends.redis.RedisCache", "LOCATION": os.environ["REDIS_URL"]}

LANGUAGE_CODE = "en"
TIME_ZONE = "UTC"
USE_TZ = True

STATIC_URL = "static/"
STATIC_ROOT = VAR / "static"
STATIC_ROOT.mkdir(exist_ok=True)
WEB_DIST = BASE_DIR / "web" / "dist"
WHITENOISE_ROOT = WEB_DIST if WEB_DIST.exists() else None
WHITENOISE_USE_FINDERS = True  # the admin's styles, without a step that collects them
TEST_RUNNER = "tests.runner.Runner"
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/"

MEDIA_ROOT = Path(os.environ.get("HAME_MEDIA", VAR / "media"))
DATA_UPLOAD_MAX_MEMORY_SIZE = 12 * 1024 * 1024
FILE_UPLOAD_MAX_MEMORY_SIZE = 4 * 1024 * 1024
UPLOAD_LIMIT = 64 * 1024 * 1024

SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_HTTPONLY = True
BEHIND_TLS = ORIGIN.startswith("https://")
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = BEHIND_TLS
SECURE_HSTS_SECONDS = 31_536_000 if BEHIND_TLS else 0
if os.environ.get("HAME_PROXY"):
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
SECURE_CONTENT_TYPE_NOSNIFF = True
X_FRAME_OPTIONS = "DENY"

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": os.environ.get("HAME_LOG", "WARNING")},
    "loggers": {"django.request": {"level": os.environ.get("HAME_LOG", "ERROR")}},
}
