"""Everything that differs between machines comes from the environment; `bin/demo` and `bin/test`
set it.
"""

from datetime import timedelta
from decimal import Decimal
from pathlib import Path

import environ
from csp.constants import NONCE, NONE, SELF

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
    "axes",
    "csp",
    "store",
    "people",
    "jobs",
    "images",
    "regions",
    "attempts",
    "checks",
    "runs",
    "desk",
    "siblings",
    "verdicts",
    "looks",
    "trials",
    "outside",
    "signing",
    "crew",
    "slips",
    "arrivals",
    "shots",
    "ledger",
    "upkeep",
    "work",
    "history",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "config.limits.BodyLimits",
    "config.limits.ApiHeaders",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
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
            "init_command": "SET sql_mode='STRICT_TRANS_TABLES', time_zone='+00:00'",
        },
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        "TEST": {"NAME": "test_zweiblick", "CHARSET": "utf8mb4", "COLLATION": "utf8mb4_unicode_ci"},
    }
}
# Counters that all processes share lie in the database; what a process remembers for seconds, in the
# process.
CACHES = {
    "default": {
        "BACKEND": "django.core.cache.backends.db.DatabaseCache",
        "LOCATION": "shared_cache",
    },
    "grants": {
        "BACKEND": "django.core.cache.backends.locmem.LocMemCache",
        "LOCATION": "grants",
        "OPTIONS": {"MAX_ENTRIES": 20_000},
    },
}
TILES_GRANTED = env.float("ZWEIBLICK_TILES_GRANTED", default=5.0)
# MariaDB has no conditional unique constraints; none is used. Wrong passwords are counted by name:
# addresses have a rate of their own (`sign-in` below), whatever a browser says of itself.
SILENCED_SYSTEM_CHECKS = ["models.W036", "axes.W006"]

AUTH_USER_MODEL = "people.Person"
_VALIDATION = "django.contrib.auth.password_validation"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"{_VALIDATION}.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": f"{_VALIDATION}.UserAttributeSimilarityValidator"},
    {"NAME": f"{_VALIDATION}.CommonPasswordValidator"},
    {"NAME": f"{_VALIDATION}.NumericPasswordValidator"},
]
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
# Proxies in front whose word about the sender is believed: none unless it is said.
PROXIES = env.int("ZWEIBLICK_PROXIES", default=0)
# Wrong passwords for one name, from wherever: then it waits. Counted in the database.
AXES_FAILURE_LIMIT = env.int("ZWEIBLICK_WRONG_PASSWORDS", default=10)
AXES_COOLOFF_TIME = timedelta(minutes=5)
AXES_LOCKOUT_PARAMETERS = ["username"]
AXES_RESET_ON_SUCCESS = True
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False
AXES_LOCKOUT_CALLABLE = "people.authentication.locked_out"
AXES_CLIENT_IP_CALLABLE = "config.proxies.client_address"
AXES_DISABLE_ACCESS_LOG = True
AXES_VERBOSE = False

# Said once that TLS stands in front: cookies, HSTS and redirects follow.
TLS = env.bool("ZWEIBLICK_TLS", default=False)
SESSION_COOKIE_NAME = "zweiblick_session"
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = TLS
CSRF_COOKIE_NAME = "zweiblick_csrf"
SECURE_HSTS_SECONDS = 365 * 86_400 if TLS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = TLS
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if TLS and PROXIES else None
SECURE_SSL_REDIRECT = TLS and bool(PROXIES)
SECURE_REFERRER_POLICY = "same-origin"
# Scripts, styles and fonts ship with the app; nothing inline runs but what carries the page's nonce.
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF, NONCE],
        "img-src": [SELF, "data:", "blob:"],
        "font-src": [SELF, "data:"],
        "connect-src": [SELF],
        "worker-src": [SELF, "blob:"],
        "base-uri": [NONE],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
    }
}

LANGUAGE_CODE = "en-gb"
USE_TZ = True
TIME_ZONE = "UTC"

STATIC_URL = "/static/"
WEB_DIST = Path(env("ZWEIBLICK_WEB", default=str(REPO / "web" / "dist")))
WHITENOISE_ROOT = WEB_DIST if WEB_DIST.is_dir() else None
# Vite puts a hash into every file's name.
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/.+\.[\w-]{6,}\.\w+$|^/assets/.+-[\w-]{8,}\.\w+$"

# Where files live, through one storage class (`store.durable`): whole or not there.
STORE = Path(env("ZWEIBLICK_STORE", default=str(REPO / ".run" / "store")))
_DURABLE = "store.durable.DurableStorage"
STORAGES = {
    "default": {
        "BACKEND": _DURABLE,
        "OPTIONS": {"location": STORE / "blobs", "file_permissions_mode": 0o444},
    },
    "derived": {"BACKEND": _DURABLE, "OPTIONS": {"location": STORE / "derived"}},
    "arrivals": {"BACKEND": _DURABLE, "OPTIONS": {"location": STORE / "arrivals"}},
    "deliveries": {"BACKEND": _DURABLE, "OPTIONS": {"location": STORE / "deliveries"}},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
# Crops and half-drawn aids that nobody asked for in so long are drawn again, seconds.
DERIVED_KEPT = env.float("ZWEIBLICK_DERIVED_KEPT", default=30 * 86_400.0)
# An invitation into a job can be used so long, days.
INVITATION_DAYS = env.float("ZWEIBLICK_INVITATION_DAYS", default=7.0)
# A delivery's zip is kept so long, seconds; it can be built again.
DELIVERIES_KEPT = env.float("ZWEIBLICK_DELIVERIES_KEPT", default=14 * 86_400.0)
# The one limit on a picture's pixels, for uploads and everything after.
MOST_PIXELS = env.int("ZWEIBLICK_MOST_PIXELS", default=250_000_000)
# Decoded pictures that a worker keeps for what comes next; pictures from this size on are decoded
# one at a time on a machine.
KEPT_PIXELS = env.int("ZWEIBLICK_KEPT_PIXELS", default=120_000_000)
LARGE_PIXELS = env.int("ZWEIBLICK_LARGE_PIXELS", default=80_000_000)

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["people.authentication.SessionSignIn"],
    "DEFAULT_PERMISSION_CLASSES": ["rest_framework.permissions.IsAuthenticated"],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_PARSER_CLASSES": ["api.parsers.PlainJSON"],
    "NUM_PROXIES": PROXIES,
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "DEFAULT_FILTER_BACKENDS": ["django_filters.rest_framework.DjangoFilterBackend"],
    "DEFAULT_THROTTLE_RATES": {"sign-in": env("ZWEIBLICK_SIGN_IN_RATE", default="20/min")},
    "EXCEPTION_HANDLER": "api.errors.handler",
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Zweiblick",
    "VERSION": "0.1.0",
    "SERVE_INCLUDE_SCHEMA": False,
    "SERVE_PERMISSIONS": ["rest_framework.permissions.IsAuthenticated"],
    "COMPONENT_SPLIT_REQUEST": True,
    "DESCRIPTION": "Judging removals of things from photographs. Every list holds only what the signed-in person may see.",
    "ENUM_NAME_OVERRIDES": {
        "RulingEnum": "verdicts.models.Verdict.Ruling",
        "RuledEnum": "api.serializers.RULINGS",
        "AnswerEnum": "checks.models.FindingRuling.Answer",
        "OutsideAnswerEnum": "checks.models.OutsideRuling.Answer",
        "RoleEnum": "jobs.models.Membership.Role",
        "RunStateEnum": "api.trial_serializers.RUN_STATES",
        "DeliveryStateEnum": "api.signing_serializers.DELIVERY_STATES",
        "ShotStateEnum": "zweiblick_core.rules.shots.STATES",
        "ShotRulingEnum": "zweiblick_core.rules.shots.RULINGS",
        "ShotSlipStateEnum": "api.shot_slip_serializers.STATES",
        "ShotSlipEventEnum": "api.shot_slip_serializers.EVENTS",
        "FootageStateEnum": "api.shot_serializers.FOOTAGE_STATES",
        "BackdropEnum": "zweiblick_core.rules.backdrops.BACKDROPS",
    },
}

CELERY_BROKER_URL = env("ZWEIBLICK_BROKER_URL", default="redis://127.0.0.1:6379/0")
CELERY_TASK_ACKS_LATE = True
CELERY_TASK_REJECT_ON_WORKER_LOST = True
CELERY_WORKER_PREFETCH_MULTIPLIER = 1
CELERY_TASK_IGNORE_RESULT = True
CELERY_WORKER_HIJACK_ROOT_LOGGER = False
CELERY_BROKER_CONNECTION_RETRY_ON_STARTUP = True
# A worker takes from its queues in the order in which they are named to it.
CELERY_BROKER_TRANSPORT_OPTIONS = {
    "visibility_timeout": 3600,
    "queue_order_strategy": "priority",
}
#: Seconds that a worker may be silent before its work is given to another, and how often that is
#: looked for.
WORK_LEASE = env.float("ZWEIBLICK_WORK_LEASE", default=20.0)
WORK_SWEEP = env.float("ZWEIBLICK_WORK_SWEEP", default=5.0)
WORK_TRIES = 4
# Done work is kept for so long, failed work three times that, days.
WORK_KEPT = env.float("ZWEIBLICK_WORK_KEPT", default=14.0)
CELERY_TASK_DEFAULT_QUEUE = "upkeep"
CELERY_BEAT_SCHEDULE = {
    "tidy": {
        "task": "work.tasks.tidy",
        "schedule": env.float("ZWEIBLICK_TIDY", default=900.0),
        "options": {"expires": 600.0},
    },
    "outside account": {
        "task": "outside.tasks.refresh",
        "schedule": 10.0,
        "options": {"expires": 10.0},
    },
    "sweep": {
        "task": "work.tasks.sweep",
        "schedule": WORK_SWEEP,
        "options": {"expires": WORK_SWEEP * 2},
    },
}

# The retoucher's desk that slips without a named retoucher go to; none if empty.
DESK_URL = env("ZWEIBLICK_DESK_URL", default="")
DESK_KEY = env("ZWEIBLICK_DESK_KEY", default="")

# The outside removal service; none if its address is empty. What a credit costs, and how many a job
# may spend unless a supervisor says otherwise.
REMOVAL_NAME = env("ZWEIBLICK_REMOVAL_NAME", default="Fortnimm")
REMOVAL_URL = env("ZWEIBLICK_REMOVAL_URL", default="")
REMOVAL_KEY = env("ZWEIBLICK_REMOVAL_KEY", default="")
REMOVAL_PRICE = Decimal(env("ZWEIBLICK_REMOVAL_PRICE", default="0.40"))
REMOVAL_CREDITS = env.int("ZWEIBLICK_REMOVAL_CREDITS", default=40)

# Files that arrived and are not brought in yet; forgotten after so many hours.
ARRIVALS_KEPT = env.float("ZWEIBLICK_ARRIVALS_KEPT", default=48.0)
MOST_BYTES = env.int("ZWEIBLICK_MOST_BYTES", default=1_000_000_000)
# Frames of one shot.
MOST_FRAMES = env.int("ZWEIBLICK_MOST_FRAMES", default=20_000)
DATA_UPLOAD_MAX_MEMORY_SIZE = 2_500_000
# A body must come at this many bytes a second once these seconds are over, and never pause longer.
BODY_PACE = env.float("ZWEIBLICK_BODY_PACE", default=8_000.0)
BODY_PATIENCE = env.float("ZWEIBLICK_BODY_PATIENCE", default=20.0)
FILE_UPLOAD_MAX_MEMORY_SIZE = 2_000_000

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"plain": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "plain"}},
    "root": {"handlers": ["console"], "level": env("ZWEIBLICK_LOG", default="WARNING")},
}
