"""Settings. Everything a run writes lies in one folder (CONTOUR_VAR, by default var/ beside the project)."""

from __future__ import annotations

import contextlib
import hashlib
import os
import secrets
from datetime import timedelta
from pathlib import Path

from csp.constants import NONE, SELF, UNSAFE_INLINE

ROOT = Path(__file__).resolve().parent.parent
VAR = Path(os.environ.get("CONTOUR_VAR", ROOT / "var"))
# Whatever is written here is its owner's alone: sessions, the secret, everybody's scans.
os.umask(0o077)
VAR.mkdir(parents=True, exist_ok=True)


def _secret() -> str:
    path = VAR / "secret"
    if not path.exists() or not path.read_text():
        draft = VAR / f"secret.{os.getpid()}"
        draft.write_text(secrets.token_urlsafe(50))
        with contextlib.suppress(FileExistsError):
            os.link(draft, path)  # the first of several processes wins
        draft.unlink()
    path.chmod(0o600)
    return path.read_text()


def _cookie(what: str) -> str:
    """Cookies know hosts but no ports: servers of several folders on one host must not meet."""
    return f"contour-{what}-{hashlib.sha256(str(VAR.resolve()).encode()).hexdigest()[:8]}"


SECRET_KEY = _secret()
DEBUG = False
# Behind a proxy (docs/running.md): the names it passes on, whether it speaks TLS, and how many of them stand before us.
HOSTS = [h.strip() for h in os.environ.get("CONTOUR_HOSTS", "").split(",") if h.strip()]
HTTPS = os.environ.get("CONTOUR_HTTPS") == "1"
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "testserver", *HOSTS]
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
CSRF_TRUSTED_ORIGINS = [f"https://{h}" for h in HOSTS] if HTTPS else []
PROXIES = int(os.environ.get("CONTOUR_PROXIES", "0"))
ROOT_URLCONF = "bench.urls"
WSGI_APPLICATION = "bench.wsgi.application"
INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "axes",
    "csp",
    "huey.contrib.djhuey",
    "bench",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "csp.middleware.CSPMiddleware",
    "axes.middleware.AxesMiddleware",
    "bench.turns.fair_turns",
]
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
# Guessing: after eight wrong tries a name is closed to that address for a while, the right password included.
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = timedelta(minutes=10)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False
AXES_LOCKOUT_CALLABLE = "bench.api.locked_out"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "script-src": [SELF],
        "worker-src": [SELF, "blob:"],
        "style-src": [SELF, UNSAFE_INLINE],  # the component library writes its styles into the page
        "img-src": [SELF, "data:", "blob:"],
        "font-src": [SELF, "data:"],
        "connect-src": [SELF, "blob:", "data:"],
        "object-src": [NONE],
        "base-uri": [SELF],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
    }
}
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR / "contour.sqlite3",
        "CONN_MAX_AGE": 60,  # opening it and setting it up takes as long as asking it
        "OPTIONS": {
            "timeout": 20,
            "transaction_mode": "IMMEDIATE",
            # FULL: what an edit was answered with is on the disk, whatever happens to the power a moment later.
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;",
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_PASSWORD_VALIDATORS = [{"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"}]
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]
USE_TZ = True
SESSION_ENGINE = "django.contrib.sessions.backends.cached_db"
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_NAME = _cookie("session")
CSRF_COOKIE_NAME = _cookie("csrf")
CSRF_FAILURE_VIEW = "bench.api.no_cross_site"
STATIC_URL = "/assets/"
# Whitenoise serves the built front end's hashed files; index.html goes through a view without caching.
WEB_DIST = Path(os.environ.get("CONTOUR_WEB", ROOT / "web" / "dist"))
WHITENOISE_ROOT = WEB_DIST if WEB_DIST.is_dir() else None
WHITENOISE_INDEX_FILE = False
DATA_UPLOAD_MAX_MEMORY_SIZE = 16 * 2**20  # a lasso over some millions of facets
FILE_UPLOAD_HANDLERS = ["django.core.files.uploadhandler.TemporaryFileUploadHandler"]
FILE_UPLOAD_TEMP_DIR = VAR / "uploads"
FILE_UPLOAD_TEMP_DIR.mkdir(exist_ok=True)

# With Redis, workers run on any machine that has the shared folder (docs/running.md); only the web machine has the database.
REDIS = os.environ.get("CONTOUR_REDIS", "")
SHARED = Path(os.environ.get("CONTOUR_SHARED", VAR))
REMOTE = os.environ.get("CONTOUR_ROLE") == "remote"
STORE = SHARED / "store"
DELIVERIES = SHARED / "deliveries"
THUMBNAILS = SHARED / "thumbnails"
if REMOTE:
    DATABASES = {"default": {"ENGINE": "django.db.backends.dummy"}}
PRODUCT_CACHE_BYTES = 8 * 2**30
# What one account may bring in: a person does not reach these.
UPLOADS_PER_HOUR = 300
UPLOAD_BYTES_PER_DAY = 20 * 2**30
DEMO = os.environ.get("CONTOUR_DEMO") == "1"

INSTALLED_APPS += ["ninja"]
HUEY = {
    "name": "contour",
    **(
        {"huey_class": "huey.RedisHuey", "url": REDIS}
        if REDIS
        else {"huey_class": "huey.SqliteHuey", "filename": str(VAR / "queue.sqlite3")}
    ),
    "immediate": False,
    "consumer": {"workers": 3, "worker_type": "thread", "initial_delay": 0.05, "max_delay": 0.1, "periodic": False},
}

# Tracebacks go to a file of each process, so that none of them turns over another's; people get a report code.
LOGS = VAR / "log"
LOGS.mkdir(exist_ok=True)
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"plain": {"format": "{asctime} {levelname} {name}: {message}", "style": "{"}},
    "handlers": {
        "file": {
            "class": "logging.handlers.RotatingFileHandler",
            "filename": str(LOGS / f"{os.environ.get('CONTOUR_ROLE', 'command')}.log"),
            "maxBytes": 5 * 2**20,
            "backupCount": 4,
            "formatter": "plain",
            "delay": True,
        }
    },
    "root": {"handlers": ["file"], "level": "WARNING"},
    # Refusals are answers, not news; what is news says so itself.
    "loggers": {"django.request": {"level": "CRITICAL"}, "axes": {"level": "ERROR"}, "huey": {"level": "ERROR"}},
}
