"""Django settings; everything that differs between installations comes from the environment."""

import os
from datetime import timedelta
from pathlib import Path

import dj_database_url
import dj_email_url

WEB = Path(__file__).resolve().parent
VAR = WEB.parents[2] / "var"

SECRET_KEY = os.environ.get("VELAMEN_SECRET_KEY", "")
DEBUG = False
HOSTS = [one.strip() for one in os.environ.get("VELAMEN_HOST", "").split(",") if one.strip()]
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "testserver", *HOSTS]

# TLS is done by a server in front, which tells the address and the scheme that were asked for (docs/operating.md).
TLS = os.environ.get("VELAMEN_TLS") == "1"
SECURE_SSL_REDIRECT = SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = TLS
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if TLS else None
SECURE_HSTS_SECONDS = 31_536_000 if TLS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = TLS
SECURE_REDIRECT_EXEMPT = [r"^healthz$"]
CSRF_TRUSTED_ORIGINS = [f"https://{one}" for one in HOSTS] if TLS else []

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django_htmx",
    "axes",
    "crispy_forms",
    "crispy_bootstrap5",
    "velamen.web.accounts",
    "velamen.web.library",
    "velamen.web.jobs",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "velamen.web.accounts.middleware.SignInMiddleware",
    "velamen.web.accounts.middleware.ShopMiddleware",
    "velamen.web.work.middleware.AskerMiddleware",
    "velamen.web.library.typefaces.ShelfMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "velamen.web.stages.errors.SentenceMiddleware",
    "velamen.web.stages.room.RoomMiddleware",
    "axes.middleware.AxesMiddleware",
]
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]

# A name tried from one address too often waits; others at that address, and that person elsewhere, do not.
AXES_FAILURE_LIMIT = 6
AXES_COOLOFF_TIME = timedelta(minutes=10)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_CALLABLE = "velamen.web.accounts.views.locked_out"
AXES_RESET_ON_SUCCESS = True
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False
AXES_CLIENT_IP_CALLABLE = "velamen.web.accounts.sessions.address_of"
AXES_DISABLE_ACCESS_LOG = True
AXES_VERBOSE = False

ROOT_URLCONF = "velamen.web.urls"
WSGI_APPLICATION = "velamen.web.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [WEB / "templates"],
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

DATABASES = {"default": dj_database_url.config("VELAMEN_DATABASE_URL", conn_max_age=300, conn_health_checks=True)}
if DATABASES["default"]:
    DATABASES["default"].setdefault("OPTIONS", {}).update({
        "init_command": "SET sql_mode='STRICT_ALL_TABLES'",
        # seconds, so that a server that hangs holds nobody for ever
        "connect_timeout": 5, "read_timeout": 10, "write_timeout": 10,
    })  # fmt: skip
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "board"
LOGOUT_REDIRECT_URL = "sign-in"
PASSWORD_RESET_TIMEOUT = 3 * 3600  # seconds that a link to set a new password holds
SIGN_UP = os.environ.get("VELAMEN_SIGN_UP", "1") == "1"  # whether anybody may begin a shop
vars().update(dj_email_url.config("VELAMEN_MAIL_URL", default=f"file:///{VAR / 'mail'}"))
EMAIL_TIMEOUT = 10  # seconds
DEFAULT_FROM_EMAIL = os.environ.get("VELAMEN_MAIL_FROM", "Velamen <velamen@localhost>")
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
SESSION_ENGINE = "velamen.web.accounts.sessions"  # any worker answers any request, and a restart loses none
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_HTTPONLY = False
CSRF_FAILURE_VIEW = "velamen.web.stages.errors.csrf_failure"
X_FRAME_OPTIONS = "DENY"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'none'"],
        "script-src": ["'self'"],
        "style-src": ["'self'"],
        "img-src": ["'self'", "data:"],
        "font-src": ["'self'"],
        "connect-src": ["'self'"],
        "form-action": ["'self'"],
        "base-uri": ["'none'"],
        "frame-ancestors": ["'none'"],
    }
}

# Uploads beyond the parser's limit are refused with a sentence; beyond this, unread.
FILE_UPLOAD_MAX_MEMORY_SIZE = 2_500_000
DATA_UPLOAD_MAX_MEMORY_SIZE = 12_000_000  # shapes copied out of the largest artwork
DATA_UPLOAD_MAX_NUMBER_FIELDS = 400

WORK_OUTSIDE = os.environ.get("VELAMEN_WORK_OUTSIDE", "1") == "1"  # what can run long, by processes of its own
KEPT_FOLDER = Path(os.environ.get("VELAMEN_KEPT", VAR / "kept"))
KEPT_SIZE = 512_000_000  # bytes of builds kept

LANGUAGE_CODE = "en-gb"
TIME_ZONE = "UTC"
USE_TZ = True

STATIC_URL = "/static/"
STATICFILES_DIRS = [WEB / "static"]
STATIC_ROOT = VAR / "static"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {
        "BACKEND": os.environ.get("VELAMEN_STATIC_STORAGE", "whitenoise.storage.CompressedManifestStaticFilesStorage")
    },
}
WHITENOISE_USE_FINDERS = "VELAMEN_STATIC_STORAGE" in os.environ
CRISPY_ALLOWED_TEMPLATE_PACKS = "bootstrap5"
CRISPY_TEMPLATE_PACK = "bootstrap5"

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
