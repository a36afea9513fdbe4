"""Settings. What a maker may set comes from the environment; docs/architecture.md lists it."""

import os
import re
import tempfile
from pathlib import Path
from typing import Any

from csp.constants import NONE, SELF
from django.core.exceptions import ImproperlyConfigured
from django.core.management.utils import get_random_secret_key

from calmtin.config.folder import data_folder

BASE_DIR = Path(__file__).resolve().parent.parent
DATA_DIR = data_folder()
DEMO = os.environ.get("CALMTIN_DEMO") == "1"
HTTPS = os.environ.get("CALMTIN_HTTPS") == "1"
# For whoever works on the code: pages and styles as they stand on disk, errors in the browser.
DEV = os.environ.get("CALMTIN_DEV") == "1"
DEBUG = DEV
# Host names as they stand in the browser's address, with a port where there is one.
HOSTS = os.environ.get("CALMTIN_HOSTS", "").split()
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]", *(re.sub(r":[0-9]+$", "", host) for host in HOSTS)]
# Where a phone finds this bench while it is served on the local network (config/phone.py); else empty.
PHONE_ADDRESS = ""
PHONE_FOLDER = DATA_DIR / "phone"
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in HOSTS]
# Whose word about the client is believed: the proxy's address, and the headers that it sets itself.
TRUSTED_PROXY = os.environ.get("CALMTIN_PROXY") or ("127.0.0.1" if HTTPS else "")
TRUSTED_PROXY_HEADERS = {
    header.strip().lower()
    for header in os.environ.get(
        "CALMTIN_PROXY_HEADERS", "x-forwarded-for x-forwarded-proto x-forwarded-host x-forwarded-port"
    ).split()
}


def secret_key() -> str:
    """Return this installation's own key, made on first use and kept in its data folder."""
    file = DATA_DIR / "secret_key"
    if file.exists():
        kept = file.read_text().strip()
        if len(kept) < 40:
            raise ImproperlyConfigured(
                f"{file} holds no key: the disk was full when it was written. Free some space, delete that "
                "file and start again. Nothing of the book is lost; everyone signs in anew."
            )
        return kept
    key = get_random_secret_key()
    try:
        DATA_DIR.mkdir(mode=0o700, parents=True, exist_ok=True)
        with tempfile.NamedTemporaryFile("w", dir=DATA_DIR, prefix=".key-") as handle:
            handle.write(key)
            handle.flush()
            os.fsync(handle.fileno())
            # Whole or not at all, and the first of two that start together wins.
            os.link(handle.name, file)
    except FileExistsError:
        return file.read_text().strip()
    except OSError:
        pass  # a read-only place: commands that need no database still work
    return key


SECRET_KEY = secret_key()

INSTALLED_APPS = [
    "calmtin.accounts",
    "calmtin.common",
    "calmtin.pictures",
    "calmtin.devices",
    "calmtin.pantry",
    "calmtin.formulas",
    "calmtin.overview",
    "calmtin.packing",
    "calmtin.checks",
    "calmtin.pours",
    "calmtin.plans",
    "calmtin.exchange",
    "calmtin.help",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django.forms",
    "django_htmx",
    "csp",
    "axes",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "calmtin.common.middleware.NotTooLarge",
    "calmtin.common.middleware.FriendlyErrors",
    "calmtin.common.middleware.SignInFirst",
    "calmtin.accounts.middleware.BenchNotation",
    "calmtin.accounts.middleware.BenchTime",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "calmtin.config.urls"
WSGI_APPLICATION = "calmtin.config.wsgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [BASE_DIR / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "calmtin.accounts.context.bench",
            ],
            "builtins": ["django.templatetags.i18n", "calmtin.common.templatetags.calm"],
        },
    }
]

DATABASES: dict[str, Any] = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA_DIR / "calmtin.sqlite3",
        "OPTIONS": {
            # Writers queue up instead of failing half-way, and readers never wait for them.
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;",
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

FORM_RENDERER = "calmtin.common.fields.Renderer"

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "calmtin.accounts.login_throttling.KnockingBackend",
    "django.contrib.auth.backends.ModelBackend",
]
PASSWORD_HASHERS = ["calmtin.accounts.hashers.OneAtATimePBKDF2"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}", "OPTIONS": options}
    for name, options in (
        ("UserAttributeSimilarityValidator", {}),
        ("MinimumLengthValidator", {"min_length": 10}),
        ("CommonPasswordValidator", {}),
        ("NumericPasswordValidator", {}),
    )
]
LOGIN_URL = "accounts:sign_in"
LOGIN_REDIRECT_URL = "overview:today"
LOGOUT_REDIRECT_URL = "accounts:sign_in"
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = 0.25  # hours
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_TEMPLATE = "accounts/locked_out.html"

LANGUAGE_CODE = "en-gb"
TIME_ZONE_SET = bool(os.environ.get("CALMTIN_TIME_ZONE"))
TIME_ZONE = os.environ.get("CALMTIN_TIME_ZONE") or "UTC"
USE_I18N = True
LOCALE_PATHS = [BASE_DIR / "locale"]
USE_TZ = True

MEDIA_ROOT = DATA_DIR / "media"
DATA_UPLOAD_MAX_MEMORY_SIZE = 2_500_000  # text in forms; files have a bound of their own
DATA_UPLOAD_MAX_NUMBER_FIELDS = 2000
DATA_UPLOAD_MAX_NUMBER_FILES = 10

STATIC_URL = "static/"
STATICFILES_DIRS = [BASE_DIR / "static"]
# The server gathers these on its way up; each name carries a hash, so a browser keeps it for good.
STATIC_ROOT = DATA_DIR / "static"
WHITENOISE_USE_FINDERS = WHITENOISE_AUTOREFRESH = DEV
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "calmtin.common.static.HashedFiles"},
}

# Read from memory, written to the book: one server process answers for all makers.
SESSION_ENGINE = "django.contrib.sessions.backends.cached_db"
MESSAGE_STORAGE = "django.contrib.messages.storage.session.SessionStorage"
PASSWORD_RESET_TIMEOUT = 300  # seconds that a link for a phone holds; no password is reset by mail
SESSION_COOKIE_AGE = 60 * 60 * 24 * 30
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Strict"
CSRF_FAILURE_VIEW = "calmtin.common.views.csrf_failure"
CSRF_COOKIE_HTTPONLY = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
# Over plain http on 127.0.0.1 a browser would drop secure cookies; behind https they are on.
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
SECURE_HSTS_SECONDS = 31_536_000 if HTTPS else 0
SECURE_SSL_REDIRECT = HTTPS
# Other hosts under the maker's domain are none of our business, and preloading is theirs to ask for.
SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"]

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "data:"],
        "manifest-src": [SELF],
        "font-src": [SELF],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {
        "lines": {"()": "calmtin.common.logs.Lines"},
        "plain": {"format": "{message}", "style": "{"},
    },
    "handlers": {
        "console": {"class": "logging.StreamHandler", "formatter": "plain" if DEV else "lines"},
    },
    "root": {"handlers": ["console"], "level": "WARNING"},
}
