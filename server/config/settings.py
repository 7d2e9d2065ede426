"""Everything that differs between machines comes from the environment; `bin/demo` and `bin/test`
set it.
"""

from pathlib import Path

import environ

env = environ.Env()
REPO = Path(__file__).resolve().parent.parent.parent

SECRET_KEY = env("ZWEIBLICK_SECRET_KEY")
DEBUG = env.bool("ZWEIBLICK_DEBUG", default=False)
ALLOWED_HOSTS = env.list("ZWEIBLICK_HOSTS", default=["127.0.0.1", "localhost"])
CSRF_TRUSTED_ORIGINS = env.list("ZWEIBLICK_ORIGINS", default=[])

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "rest_framework",
    "django_filters",
    "drf_spectacular",
    "people",
    "jobs",
    "images",
    "regions",
    "attempts",
    "checks",
    "verdicts",
    "looks",
    "slips",
    "arrivals",
    "work",
    "history",
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
ROOT_URLCONF = "config.urls"
WSGI_APPLICATION = "config.wsgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.mysql",
        "NAME": env("ZWEIBLICK_DB_NAME", default="zweiblick"),
        "USER": env("ZWEIBLICK_DB_USER", default="zweiblick"),
        "PASSWORD": env("ZWEIBLICK_DB_PASSWORD", default=""),
        "HOST": env("ZWEIBLICK_DB_HOST", default="127.0.0.1"),
        "PORT": env("ZWEIBLICK_DB_PORT", default="3306"),
        "OPTIONS": {
            "charset": "utf8mb4",
            "isolation_level": "read committed",
            "init_command": "SET sql_mode='STRICT_TRANS_TABLES'",
        },
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        "TEST": {"NAME": "test_zweiblick", "CHARSET": "utf8mb4", "COLLATION": "utf8mb4_unicode_ci"},
    }
}
# What a process remembers for seconds: nothing in here is asked of another process, so nothing more
# has to run.
CACHES = {
    "default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"},
    "grants": {
        "BACKEND": "django.core.cache.backends.locmem.LocMemCache",
        "LOCATION": "grants",
        "OPTIONS": {"MAX_ENTRIES": 20_000},
    },
}
TILES_GRANTED = env.float("ZWEIBLICK_TILES_GRANTED", default=5.0)
# MariaDB has no conditional unique constraints; none is used.
SILENCED_SYSTEM_CHECKS = ["models.W036"]

AUTH_USER_MODEL = "people.Person"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"}
]
SESSION_COOKIE_NAME = "zweiblick_session"
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = env.bool("ZWEIBLICK_SECURE_COOKIES", default=False)
CSRF_COOKIE_NAME = "zweiblick_csrf"

LANGUAGE_CODE = "en-gb"
USE_TZ = True
TIME_ZONE = "UTC"

STATIC_URL = "/static/"
WEB_DIST = Path(env("ZWEIBLICK_WEB", default=str(REPO / "web" / "dist")))
WHITENOISE_ROOT = WEB_DIST if WEB_DIST.is_dir() else None
# Vite puts a hash into every file's name.
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/.+\.[\w-]{6,}\.\w+$|^/assets/.+-[\w-]{8,}\.\w+$"

# Where blobs and derived pictures live; S3-compatible storage is another backend here.
STORE = Path(env("ZWEIBLICK_STORE", default=str(REPO / ".run" / "store")))
STORAGES = {
    "default": {
        "BACKEND": "django.core.files.storage.FileSystemStorage",
        "OPTIONS": {"location": STORE / "blobs", "file_permissions_mode": 0o444},
    },
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
DERIVED = STORE / "derived"
MOST_PIXELS = env.int("ZWEIBLICK_MOST_PIXELS", default=250_000_000)

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["people.authentication.SessionSignIn"],
    "DEFAULT_PERMISSION_CLASSES": ["rest_framework.permissions.IsAuthenticated"],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_PARSER_CLASSES": [
        "rest_framework.parsers.JSONParser",
        "rest_framework.parsers.MultiPartParser",
    ],
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "DEFAULT_FILTER_BACKENDS": ["django_filters.rest_framework.DjangoFilterBackend"],
    "DEFAULT_THROTTLE_RATES": {"sign-in": env("ZWEIBLICK_SIGN_IN_RATE", default="20/min")},
    "EXCEPTION_HANDLER": "api.errors.handler",
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Zweiblick",
    "VERSION": "0.1.0",
    "SERVE_INCLUDE_SCHEMA": False,
    "COMPONENT_SPLIT_REQUEST": True,
    "DESCRIPTION": "Judging removals of things from photographs. Every list holds only what the signed-in person may see.",
    "ENUM_NAME_OVERRIDES": {
        "RulingEnum": "verdicts.models.Verdict.Ruling",
        "AnswerEnum": "checks.models.FindingRuling.Answer",
        "RoleEnum": "jobs.models.Membership.Role",
    },
}

CELERY_BROKER_URL = env("ZWEIBLICK_BROKER_URL", default="redis://127.0.0.1:6379/0")
CELERY_TASK_ACKS_LATE = True
CELERY_TASK_REJECT_ON_WORKER_LOST = True
CELERY_WORKER_PREFETCH_MULTIPLIER = 1
CELERY_TASK_IGNORE_RESULT = True
CELERY_WORKER_HIJACK_ROOT_LOGGER = False
CELERY_BROKER_CONNECTION_RETRY_ON_STARTUP = True
CELERY_BROKER_TRANSPORT_OPTIONS = {"visibility_timeout": 3600}
#: Seconds that a worker may be silent before its work is given to another, and how often that is
#: looked for.
WORK_LEASE = env.float("ZWEIBLICK_WORK_LEASE", default=20.0)
WORK_SWEEP = env.float("ZWEIBLICK_WORK_SWEEP", default=5.0)
WORK_TRIES = 4
CELERY_BEAT_SCHEDULE = {
    "sweep": {
        "task": "work.tasks.sweep",
        "schedule": WORK_SWEEP,
        "options": {"expires": WORK_SWEEP * 2},
    }
}

# The retoucher's desk that slips without a named retoucher go to; none if empty.
DESK_URL = env("ZWEIBLICK_DESK_URL", default="")
DESK_KEY = env("ZWEIBLICK_DESK_KEY", default="")

# Files that arrived and are not brought in yet; forgotten after so many hours.
ARRIVALS = STORE / "arrivals"
ARRIVALS_KEPT = env.float("ZWEIBLICK_ARRIVALS_KEPT", default=48.0)
MOST_BYTES = env.int("ZWEIBLICK_MOST_BYTES", default=1_000_000_000)
DATA_UPLOAD_MAX_MEMORY_SIZE = 10_000_000
FILE_UPLOAD_MAX_MEMORY_SIZE = 2_000_000

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"plain": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "plain"}},
    "root": {"handlers": ["console"], "level": env("ZWEIBLICK_LOG", default="WARNING")},
}
