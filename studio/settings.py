"""Settings of the studio. What differs between installations comes from the environment:

MELLOW_GLASS_DATA        folder of the database, originals and caches (default ``var``)
MELLOW_GLASS_HOSTS       further host names it answers to, separated by commas
MELLOW_GLASS_PRODUCTION  1: served over HTTPS, secure cookies, strict transport security
MELLOW_GLASS_SIGN_UP     1: people can make their own account
MELLOW_GLASS_DEMO        1: visitors from this machine are signed in as the demo user
MELLOW_GLASS_CERTIFICATE  PEM chain that signs content credentials, and its key in
MELLOW_GLASS_CERTIFICATE_KEY; without both a test certificate signs
MELLOW_GLASS_SCHEDULER    Dask scheduler (tcp://…) whose workers carry out runs; without it this machine does
MELLOW_GLASS_WORKERS      processes for runs on this machine at most (default: what fits)
MELLOW_GLASS_MEMORY_MB   memory for all that is kept: pictures, rendered parts (default 2048)
MELLOW_GLASS_UPLOAD_MB    the largest photograph's file that is taken in (default 600)
MELLOW_GLASS_QUOTA_GB     what a user's originals may take in all (default: no limit)
MELLOW_GLASS_PROXY        address of the web server in front, whose words on who asks are believed (with
                          MELLOW_GLASS_PRODUCTION 127.0.0.1, else none)
"""

from __future__ import annotations

import os
from contextlib import suppress
from pathlib import Path

from studio.secret import secret_key

BASE_DIR = Path(__file__).resolve().parent.parent


def _on(name: str) -> bool:
    return os.environ.get(name, "") in ("1", "true", "yes", "on")


# Photographs of people: nobody else on this machine may look at what is written here.
os.umask(0o077)

DATA_DIR = Path(os.environ.get("MELLOW_GLASS_DATA") or BASE_DIR / "var").resolve()
ORIGINALS_DIR = DATA_DIR / "originals"
CACHE_DIR = DATA_DIR / "cache"
# Analyses of faces: made again when they are missing.
ANALYSES_DIR = DATA_DIR / "analyses"
DEMO = _on("MELLOW_GLASS_DEMO")
SIGN_UP_OPEN = _on("MELLOW_GLASS_SIGN_UP")
PRODUCTION = _on("MELLOW_GLASS_PRODUCTION")
# Who signs content credentials: the paths of a chain and its key, or nothing.
CERTIFICATE = os.environ.get("MELLOW_GLASS_CERTIFICATE", "")
CERTIFICATE_KEY = os.environ.get("MELLOW_GLASS_CERTIFICATE_KEY", "")
SCHEDULER = os.environ.get("MELLOW_GLASS_SCHEDULER", "")
WORKERS = int(os.environ.get("MELLOW_GLASS_WORKERS") or 0) or None
MEMORY_BYTES = int(os.environ.get("MELLOW_GLASS_MEMORY_MB", "2048")) * 1024 * 1024
DISK_CACHE_BYTES = 512 * 1024 * 1024
# Delivered files are kept up to this, so that those of a whole run are there when they are fetched.
DELIVERIES_BYTES = 20 * 1024**3
TRASH_DAYS = 30
UPLOAD_BYTES = int(os.environ.get("MELLOW_GLASS_UPLOAD_MB") or 600) * 1_000_000
QUOTA_BYTES = int(float(os.environ.get("MELLOW_GLASS_QUOTA_GB") or 0) * 1_000_000_000) or None
PROXY = os.environ.get("MELLOW_GLASS_PROXY", "127.0.0.1" if PRODUCTION else "")

DEBUG = False
SECRET_KEY = secret_key(DATA_DIR)
with suppress(OSError):
    DATA_DIR.chmod(0o700)
# Loopback names only, so that no foreign page can reach the studio by rebinding a name.
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"] + [
    h.strip() for h in os.environ.get("MELLOW_GLASS_HOSTS", "").split(",") if h.strip()
]
CSRF_TRUSTED_ORIGINS = [f"https://{h}" for h in ALLOWED_HOSTS[3:]]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "axes",
    "studio.accounts",
    "studio.portraits",
    "studio.runs",
    "studio.clients",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "studio.accounts.middleware.ContentSecurity",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "studio.accounts.middleware.Sessions",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "studio.accounts.middleware.DemoSignIn",
]
ROOT_URLCONF = "studio.urls"
WSGI_APPLICATION = "studio.wsgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "DIRS": []}]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA_DIR / "mellow-glass.sqlite3",
        "OPTIONS": {
            "timeout": 20,
            "transaction_mode": "IMMEDIATE",
            # FULL: a gesture that was acknowledged survives a power cut.
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;"
            " PRAGMA foreign_keys=ON;",
        },
        # Threads keep their connections: closing the last one would fold the log back each time.
        "CONN_MAX_AGE": None,
        # A file, not memory: with one shared in-memory connection, threads of a live server
        # would commit and roll back each other's transactions.
        "TEST": {"NAME": BASE_DIR / "test.sqlite3"},
    }
}
# In memory, as one process serves all; Django's usual three hundred entries would be too few for sessions and counts.
CACHES = {
    "default": {
        "BACKEND": "django.core.cache.backends.locmem.LocMemCache",
        "OPTIONS": {"MAX_ENTRIES": 20_000},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
PASSWORD_HASHERS = ["studio.accounts.tries.QuietHasher"]
# Wrong tries are counted by name and by address (studio/accounts/tries.py).
AXES_LOCKOUT_PARAMETERS = ["username", "ip_address"]
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = "studio.accounts.tries.waiting_time"
AXES_RESET_ON_SUCCESS = True
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False
AXES_ENABLE_ACCESS_FAILURE_LOG = True
AXES_DISABLE_ACCESS_LOG = True
AXES_VERBOSE = False
AXES_ENABLE_ADMIN = False
# Who has to wait is told by the API, in words.
SILENCED_SYSTEM_CHECKS = ["axes.W002"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in (
        "UserAttributeSimilarityValidator",
        "MinimumLengthValidator",
        "CommonPasswordValidator",
        "NumericPasswordValidator",
    )
]

LANGUAGE_CODE = "en"
TIME_ZONE = "UTC"
USE_TZ = True

STATIC_URL = "/static/"
WEB_DIST = BASE_DIR / "web" / "dist"
WHITENOISE_ROOT = WEB_DIST if WEB_DIST.is_dir() else None
WHITENOISE_INDEX_FILE = False

# Read from memory, written to the database too: one process serves all.
SESSION_ENGINE = "django.contrib.sessions.backends.cached_db"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
X_FRAME_OPTIONS = "DENY"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
if PRODUCTION:
    SECURE_SSL_REDIRECT = True
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SESSION_COOKIE_SECURE = True
    CSRF_COOKIE_SECURE = True
    SECURE_HSTS_SECONDS = 31_536_000
    SECURE_HSTS_INCLUDE_SUBDOMAINS = True
    SECURE_HSTS_PRELOAD = True

# Photographs go to disk while they arrive; the largest is refused by the reader, not half-way.
FILE_UPLOAD_MAX_MEMORY_SIZE = 4 * 1024 * 1024
DATA_UPLOAD_MAX_MEMORY_SIZE = 8 * 1024 * 1024
FILE_UPLOAD_TEMP_DIR = None

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    # Refusals are told to whoever asked; the log is for what went wrong on this side.
    "loggers": {
        "django.request": {"level": "CRITICAL"},
        "django.security.DisallowedHost": {"level": "CRITICAL"},
        # Who went away before the answer came; of the server that tests use.
        "django.server": {"level": "ERROR"},
        "axes": {"level": "ERROR"},
    },
}
