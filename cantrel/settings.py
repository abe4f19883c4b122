"""Settings: one machine, SQLite, nothing loaded from outside."""

import os
import secrets
import sys
from pathlib import Path

from csp.constants import SELF

BASE_DIR = Path(__file__).resolve().parent.parent
VAR = Path(os.environ.get("CANTREL_VAR", BASE_DIR / "var"))
VAR.mkdir(parents=True, exist_ok=True)


def _secret() -> str:
    path = VAR / "secret_key"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(48), encoding="ascii")
    return path.read_text(encoding="ascii")


SECRET_KEY = os.environ.get("CANTREL_SECRET_KEY") or _secret()
DEBUG = False
TESTING = "test" in sys.argv
ALLOWED_HOSTS = os.environ.get("CANTREL_HOSTS", "127.0.0.1,localhost").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django.forms",
    "csp",
    "simple_history",
    "cantrel",
    "apps.crews",
    "apps.species",
    "apps.jobs",
    "apps.site",
    "apps.survey",
    "apps.felling",
    "apps.gear",
    "apps.takedown",
    "apps.briefing",
    "apps.daybook",
    "apps.exchange",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "cantrel.toolarge.TooLargeMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "simple_history.middleware.HistoryRequestMiddleware",
    "csp.middleware.CSPMiddleware",
    "apps.crews.middleware.PersonMiddleware",
]
ROOT_URLCONF = "cantrel.urls"
WSGI_APPLICATION = "cantrel.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "builtins": ["django.templatetags.i18n"],
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ],
        },
    },
]
AUTHENTICATION_BACKENDS = ["apps.crews.backend.CrewBackend"]
FORM_RENDERER = "cantrel.forms.FieldBookRenderer"
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR / "cantrel.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;",
        },
        "CONN_MAX_AGE": 60,
        # A file, so that browser tests and the server they drive have a connection each.
        "TEST": {"NAME": VAR / "test.sqlite3"},
    }
}
TEST_RUNNER = "cantrel.testing.Runner"
AUTH_USER_MODEL = "crews.Person"
if TESTING:  # signing in is tested, not the strength of a hash
    PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [{"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"}]
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "jobs"
LOGOUT_REDIRECT_URL = "sign-in"
LANGUAGE_CODE = "en-gb"
LANGUAGES = [("en-gb", "English"), ("en-us", "English with US terms")]  # the second for those who read US units
FORMAT_MODULE_PATH = ["cantrel.formats"]
LOCALE_PATHS = [BASE_DIR / "cantrel" / "locale"]
TIME_ZONE = os.environ.get("TZ", "Europe/London")
USE_TZ = True
STATIC_URL = "/static/"
STATIC_ROOT = VAR / "static"
MEDIA_ROOT = VAR / "media"
STATIC_ROOT.mkdir(exist_ok=True)
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {
        "BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"
        if TESTING
        else "whitenoise.storage.CompressedManifestStaticFilesStorage"
    },
}
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_HTTPONLY = False  # the bench's script sends it back as a header
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "data:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "object-src": ["'none'"],
        "base-uri": ["'none'"],
        "form-action": [SELF],
        "frame-ancestors": ["'none'"],
    }
}
# Files are looked at in the browser first; what still comes bigger than this is turned away unread.
LARGEST_REQUEST = 40 * 1024 * 1024
DATA_UPLOAD_MAX_NUMBER_FIELDS = 12_000  # refused lines of a list come back as fields
SESSION_ENGINE = "django.contrib.sessions.backends.cached_db"
CACHES = {"default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}}
