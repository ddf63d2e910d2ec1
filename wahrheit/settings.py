"""Settings, all from the environment, with safe defaults. Numbers of the measures are not settings: see ``assay``."""

import os
import secrets
import sys
from datetime import timedelta
from pathlib import Path

import environ
from csp.constants import NONE, SELF

env = environ.Env()
BASE_DIR = Path(__file__).resolve().parent.parent
TESTING = "test" in sys.argv[1:2]

# What is made here is for this machine's owner alone.
os.umask(0o077)
# Everything that is kept lies under one directory: database, photographs, secret key.
DATA_DIR = Path(env("WAHRHEIT_DATA", default=str(BASE_DIR / "data"))).resolve()
DATA_DIR.mkdir(parents=True, exist_ok=True)
# Where photographs of long closed cases may be moved to (manage.py archive); None: nowhere.
ARCHIVE = env.path("WAHRHEIT_ARCHIVE", default=None) if env.str("WAHRHEIT_ARCHIVE", default="") else None
MEDIA_ROOT = DATA_DIR / ("test-photos" if TESTING else "photos")


def _secret_key() -> str:
    """Made on first start and kept beside the data."""
    kept = DATA_DIR / "secret-key"
    if not kept.exists():
        kept.touch(mode=0o600)
        kept.write_text(secrets.token_urlsafe(48))
    return kept.read_text().strip()


SECRET_KEY = env("WAHRHEIT_SECRET_KEY", default="") or _secret_key()
DEBUG = env.bool("WAHRHEIT_DEBUG", default=False)
ALLOWED_HOSTS = env.list("WAHRHEIT_HOSTS", default=["127.0.0.1", "localhost", "[::1]"])
# The demo offers its unsorted photographs for download.
DEMO = env.bool("DEMO", default=False)
BEHIND_HTTPS = env.bool("WAHRHEIT_HTTPS", default=False)

# Workers that measure, each a process of its own; a case's photographs are shared out among them.
WORKER_GB = env.float("WAHRHEIT_WORKER_GB", default=4.0)  # the most memory that one may ask for
WORKERS = env.int("WAHRHEIT_WORKERS", default=os.cpu_count() or 1)

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "axes",
    "csp",
    "django_htmx",
    "django_otp",
    "django_otp.plugins.otp_totp",
    "django_otp.plugins.otp_static",
    "django_tasks",
    "django_tasks_db",
    "django.forms",
    "wahrheit",
    "demo",
    "library",
    "pairs",
    "guides",
    "casework",
    "reports",
    "drills",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "wahrheit.middleware.StrangersBodyMiddleware",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "wahrheit.middleware.NoStoreMiddleware",
    "wahrheit.middleware.FailureMiddleware",
    "casework.middleware.SignedCaseMiddleware",
    "axes.middleware.AxesMiddleware",
]
# Eight wrong passwords for one name from one address, and the next quarter of an hour is for nobody there.
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AXES_ENABLED = not TESTING
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_TEMPLATE = "locked_out.html"
AXES_RESET_ON_SUCCESS = True
OTP_TOTP_ISSUER = "Wahrheit"
ROOT_URLCONF = "wahrheit.urls"
WSGI_APPLICATION = "wahrheit.wsgi.application"
FORM_RENDERER = "wahrheit.forms.Renderer"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "builtins": ["casework.templatetags.figures"],
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "wahrheit.navigation.navigation",
                *(["demo.context.tour"] if DEMO else []),
            ],
        },
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA_DIR / "wahrheit.sqlite3",
        # IMMEDIATE: two writers wait for each other instead of failing half way. Django keeps foreign keys on.
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            # Recursive: what REPLACE puts out of the way counts as deleted, and triggers see it.
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL; PRAGMA recursive_triggers=ON;",
        },
        "TEST": {"NAME": DATA_DIR / "test.sqlite3"},
    }
}
TEST_RUNNER = "tests.runner.Runner"
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
TASKS = {
    "default": {
        "BACKEND": "django_tasks.backends.immediate.ImmediateBackend" if TESTING else "django_tasks_db.DatabaseBackend"
    }
}

# A counter's day; signing out ends it at once.
SESSION_COOKIE_AGE = 12 * 3600
LOG_DIR = DATA_DIR / "log"
LOG_DIR.mkdir(exist_ok=True)
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "{asctime} {levelname} {name}: {message}", "style": "{"}},
    "handlers": {
        "file": {
            "class": "logging.handlers.RotatingFileHandler",
            "filename": LOG_DIR / "wahrheit.log",
            "maxBytes": 5_000_000,
            "backupCount": 5,
            "delay": True,
            "formatter": "line",
        }
    },
    "loggers": {
        "wahrheit": {"handlers": ["file"], "level": "INFO"},
        # What they say is said by us as well, with names.
        "axes": {"handlers": ["file"], "level": "CRITICAL", "propagate": False},
        "bagit": {"handlers": ["file"], "level": "CRITICAL", "propagate": False},
    },
}
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "counter"
LOGOUT_REDIRECT_URL = "sign-in"
if TESTING:
    # Tests sign in hundreds of times; what they test is not the hash.
    PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in ("UserAttributeSimilarityValidator", "MinimumLengthValidator", "CommonPasswordValidator")
]

LANGUAGE_CODE = "en-gb"
TIME_ZONE = env("WAHRHEIT_TIME_ZONE", default="UTC")
USE_TZ = True
STATIC_URL = "static/"
STATIC_ROOT = DATA_DIR / "static"
STATIC_ROOT.mkdir(exist_ok=True)
STATICFILES_DIRS = [BASE_DIR / "wahrheit" / "static"]
STORAGES = {
    "default": {"BACKEND": "pairs.storage.KeptOrArchived"},
    "staticfiles": {
        "BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"
        if TESTING or DEBUG
        else "whitenoise.storage.CompressedManifestStaticFilesStorage"
    },
}
WHITENOISE_USE_FINDERS = TESTING or DEBUG
DATA_UPLOAD_MAX_MEMORY_SIZE = 2_500_000
FILE_UPLOAD_PERMISSIONS = 0o600

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "data:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = BEHIND_HTTPS
SECURE_HSTS_SECONDS = 31_536_000 if BEHIND_HTTPS else 0
# What other names under its domain do is the shop's to say, not ours.
SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"]
if BEHIND_HTTPS:
    # Set by the proxy in front, see docs/running.md.
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    MIDDLEWARE.insert(0, "wahrheit.middleware.ProxyAddressMiddleware")
CSRF_FAILURE_VIEW = "wahrheit.views.csrf_failure"
