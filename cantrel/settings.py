"""Settings: one machine, SQLite, nothing loaded from outside."""

import os
import secrets
import sys
from pathlib import Path

from csp.constants import SELF

from cantrel.surroundings import mail, said, switched_on, whole, words

BASE_DIR = Path(__file__).resolve().parent.parent
VAR = Path(os.environ.get("CANTREL_VAR", BASE_DIR / "var"))
os.umask(0o077)  # what is written is for the one who serves, and for nobody else on the machine
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
ALLOWED_HOSTS = words("HOSTS", "127.0.0.1,localhost")
CSRF_TRUSTED_ORIGINS = words("ORIGINS")
TLS = switched_on("TLS")  # people come by https, through a proxy that speaks it
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = TLS
SECURE_HSTS_SECONDS = whole("HSTS", 0) if TLS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = SECURE_HSTS_SECONDS > 0 and switched_on("HSTS_SUBDOMAINS")

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
    "apps.day",
    "apps.briefing",
    "apps.daybook",
    "apps.phone",
    "apps.lessons",
    "apps.exchange",
    "apps.keeping",
]
MIDDLEWARE = [
    "cantrel.requestlog.RequestLogMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "cantrel.health.HealthMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "cantrel.errorpages.ErrorPagesMiddleware",
    "cantrel.toolarge.TooLargeMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "apps.crews.middleware.SignedInMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "simple_history.middleware.HistoryRequestMiddleware",
    "apps.crews.middleware.PersonMiddleware",
]
ROOT_URLCONF = "cantrel.urls"
WSGI_APPLICATION = "cantrel.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "builtins": ["django.templatetags.i18n", "cantrel.templatetags.shapes", "cantrel.templatetags.glyphs"],
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "apps.crews.context.may",
            ],
        },
    },
]
AUTHENTICATION_BACKENDS = ["apps.crews.backend.CrewBackend"]
FORM_RENDERER = "cantrel.forms.FieldBookRenderer"
# Every commit reaches the disk before anybody is told it is saved: a power cut loses nothing acknowledged. And it moves
# from the log into the main file as soon as nobody reads: whoever copies that file alone loses little or nothing.
_SYNC = "OFF" if TESTING else "FULL"
_PRAGMAS = f"PRAGMA journal_mode=WAL; PRAGMA synchronous={_SYNC}; PRAGMA wal_autocheckpoint=1;"
DATABASES = {
    "default": {
        "ENGINE": "cantrel.sqlite",
        "NAME": VAR / "cantrel.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "init_command": _PRAGMAS,
            "timeout": 20,
        },
        "CONN_MAX_AGE": 60,
        # A file, so that browser tests and the server they drive have a connection each.
        "TEST": {"NAME": VAR / "test.sqlite3"},
    }
}
TEST_RUNNER = "cantrel.testing.Runner"
AUTH_USER_MODEL = "crews.Person"
# Scrypt wants memory rather than time: as hard to guess, a tenth of the wait. Older hashes are made anew at sign-in.
_HASHERS = ("ScryptPasswordHasher", "PBKDF2PasswordHasher")
if TESTING:  # signing in is tested, not the strength of a hash
    _HASHERS = ("MD5PasswordHasher",)
PASSWORD_HASHERS = [f"django.contrib.auth.hashers.{name}" for name in _HASHERS]
_VALIDATORS = ("UserAttributeSimilarity", "MinimumLength", "CommonPassword", "NumericPassword")
AUTH_PASSWORD_VALIDATORS = [{"NAME": f"django.contrib.auth.password_validation.{v}Validator"} for v in _VALIDATORS]
PASSWORD_RESET_TIMEOUT = 3 * 24 * 3600
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
SESSION_ENGINE = "django.contrib.sessions.backends.db"  # one that ended is over in every process
SESSION_COOKIE_AGE = 14 * 24 * 3600
CACHES = {
    "default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}
    if TESTING
    else {"BACKEND": "django.core.cache.backends.filebased.FileBasedCache", "LOCATION": VAR / "cache"}
}
CSRF_FAILURE_VIEW = "cantrel.errorpages.csrf"
vars().update(mail())
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"whose": {"()": "cantrel.requestlog.Whose"}},
    "formatters": {"line": {"format": "%(asctime)s %(levelname)s %(reference)s %(person)s %(message)s"}},
    "handlers": {"out": {"class": "logging.StreamHandler", "formatter": "line", "filters": ["whose"]}},
    "root": {"handlers": ["out"], "level": "WARNING"},
    "loggers": {
        "cantrel": {"level": "WARNING" if TESTING else said("LOG", "INFO").upper()},
        # Refusals are told by our own line; what went wrong in the program comes with its traceback.
        "django": {"handlers": ["out"], "level": "ERROR", "propagate": False},
        "django.request": {"level": "CRITICAL" if TESTING else "ERROR"},
    },
}
if not TLS:  # what only makes sense with TLS in front; ``cantrel.deploychecks`` warns where others can reach it without
    SILENCED_SYSTEM_CHECKS = ["security.W004", "security.W008", "security.W012", "security.W016"]
elif not (SECURE_HSTS_SECONDS and SECURE_HSTS_INCLUDE_SUBDOMAINS):  # said by the yard, for its own name
    SILENCED_SYSTEM_CHECKS = ["security.W004", "security.W005", "security.W021"]
