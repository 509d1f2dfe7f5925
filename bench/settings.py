"""Settings. Everything a run writes lies in one folder (CONTOUR_VAR, by default var/ beside the project)."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
VAR = Path(os.environ.get("CONTOUR_VAR", ROOT / "var"))
VAR.mkdir(parents=True, exist_ok=True)


def _secret() -> str:
    path = VAR / "secret"
    if not path.exists():
        path.write_text(secrets.token_urlsafe(50))
        path.chmod(0o600)
    return path.read_text()


SECRET_KEY = _secret()
DEBUG = False
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "testserver"]
ROOT_URLCONF = "bench.urls"
WSGI_APPLICATION = "bench.wsgi.application"
INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
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
]
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR / "contour.sqlite3",
        "OPTIONS": {
            "timeout": 20,
            "transaction_mode": "IMMEDIATE",
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;",
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_PASSWORD_VALIDATORS = [{"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"}]
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]
USE_TZ = True
SESSION_COOKIE_SAMESITE = "Lax"
STATIC_URL = "/assets/"
# Whitenoise serves the built front end's hashed files; index.html goes through a view without caching.
WEB_DIST = Path(os.environ.get("CONTOUR_WEB", ROOT / "web" / "dist"))
WHITENOISE_ROOT = WEB_DIST if WEB_DIST.is_dir() else None
WHITENOISE_INDEX_FILE = False
DATA_UPLOAD_MAX_MEMORY_SIZE = 16 * 2**20  # a lasso over some millions of facets
FILE_UPLOAD_HANDLERS = ["django.core.files.uploadhandler.TemporaryFileUploadHandler"]
FILE_UPLOAD_TEMP_DIR = VAR / "uploads"
FILE_UPLOAD_TEMP_DIR.mkdir(exist_ok=True)

STORE = VAR / "store"
DELIVERIES = VAR / "deliveries"
THUMBNAILS = VAR / "thumbnails"
PRODUCT_CACHE_BYTES = 8 * 2**30
DEMO = os.environ.get("CONTOUR_DEMO") == "1"

INSTALLED_APPS += ["ninja"]
HUEY = {
    "huey_class": "huey.SqliteHuey",
    "name": "contour",
    "filename": str(VAR / "queue.sqlite3"),
    "immediate": False,
    "consumer": {"workers": 3, "worker_type": "thread", "initial_delay": 0.05, "max_delay": 0.1, "periodic": False},
}
