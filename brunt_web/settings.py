"""Settings, all of them from the environment that ``./brunt`` prepares."""

from pathlib import Path

import environ
from csp.constants import NONE, SELF

env = environ.Env()
ROOT = Path(__file__).resolve().parent.parent
STATE = Path(env("BRUNT_STATE", default=str(ROOT / ".brunt")))

SECRET_KEY = env("BRUNT_SECRET_KEY")
DEBUG = env.bool("BRUNT_DEBUG", default=False)
DEMO = env.bool("BRUNT_DEMO", default=False)
TESTING = env.bool("BRUNT_TESTING", default=False)
# Tests provoke errors on purpose and keep quiet about them; the bench and the long run tell theirs.
LOUD = env.bool("BRUNT_LOUD", default=False)
ALLOWED_HOSTS = env.list("BRUNT_HOSTS", default=["127.0.0.1", "localhost", "testserver"])
SILENCED_SYSTEM_CHECKS = ["axes.W003"]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django.contrib.postgres",
    "axes",
    "csp",
    "procrastinate.contrib.django",
    "brunt_web.interface",
    "brunt_web.people",
    "brunt_web.changes",
    "brunt_web.jobs",
    "brunt_web.library",
    "brunt_web.campaigns",
    "brunt_web.printing",
    "brunt_web.results",
    "brunt_web.testing",
    "brunt_web.treatments",
    "brunt_web.days",
    "brunt_web.feedstock",
    "brunt_web.checks",
    "brunt_web.decisions",
    "brunt_web.packages",
    "brunt_web.publishing",
    "brunt_web.notebooks",
    "brunt_web.help",
    "brunt_web.rack",
    "brunt_web.asking",
    "brunt_web.comparison",
    "brunt_web.exchange",
    "brunt_web.demonstration",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "brunt_web.people.middleware.SeatMiddleware",
    "brunt_web.people.ways.WaysMiddleware",
    "brunt_web.people.middleware.SignInFirstMiddleware",
    "brunt_web.people.middleware.RoleMiddleware",
    "brunt_web.changes.middleware.WorkerMiddleware",
    "brunt_web.days.middleware.ZoneMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "brunt_web.interface.middleware.NotKeptMiddleware",
    "brunt_web.interface.middleware.ServerTimingMiddleware",
    "brunt_web.interface.middleware.OpenedMiddleware",
    "brunt_web.interface.middleware.CleanInputMiddleware",
    "axes.middleware.AxesMiddleware",
]

# What stands around a view when the jobs' worker calls it: who and where are known already.
AROUND_JOBS = [
    "brunt_web.people.middleware.SeatMiddleware",
    "brunt_web.people.ways.WaysMiddleware",
    "brunt_web.changes.middleware.WorkerMiddleware",
    "brunt_web.days.middleware.ZoneMiddleware",
]
# The most memory one job may have, in MB; 0 for no bound.
JOB_MEMORY_MB = env.int("BRUNT_JOB_MEMORY_MB", default=1500)

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "NAME": "django",
        "OPTIONS": {
            "loaders": [
                ("django.template.loaders.cached.Loader", ["brunt_web.interface.loaders.Loader"])
            ],
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.messages.context_processors.messages",
                "brunt_web.interface.context.surroundings",
            ],
            "builtins": ["brunt_web.interface.templatetags.brunt"],
        },
    }
]

_PREPARE = env.int("BRUNT_PREPARE_AFTER", default=2)
# Pages read a few rows of large tables: the planner is told that a random page costs little more than
# the next one, as on any solid-state disk; to start no helpers for them; and not to go through an index
# from its start to where the other side begins, past every older campaign (a merge join).
_PLANNER = (
    "random_page_cost=1.1",
    "jit=off",
    "max_parallel_workers_per_gather=0",
    "enable_mergejoin=off",
)
DATABASES = {
    "default": {
        **env.db("DATABASE_URL"),
        "CONN_MAX_AGE": 600,
        "CONN_HEALTH_CHECKS": True,
        "ATOMIC_REQUESTS": False,
        "TEST": {"TEMPLATE": env("BRUNT_TEST_TEMPLATE", default=None)},
        # A pooler that shares connections between clients needs BRUNT_PREPARE_AFTER=0.
        "OPTIONS": {
            "server_side_binding": True,
            "prepare_threshold": _PREPARE or None,
            **({"options": " ".join(f"-c {name}" for name in _PLANNER)} if _PREPARE else {}),
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
ROOT_URLCONF = "brunt_web.urls"
WSGI_APPLICATION = "brunt_web.wsgi.application"

AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "brunt_web.people.backend.SeatBackend",
]
_VALIDATION = "django.contrib.auth.password_validation"
if TESTING:
    # A password is made and checked hundreds of times; that it is slow to guess is not what they look at.
    PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "brunt_web.people.passwords.LengthValidator"},
    {"NAME": f"{_VALIDATION}.CommonPasswordValidator"},
    {"NAME": f"{_VALIDATION}.UserAttributeSimilarityValidator"},
    {"NAME": f"{_VALIDATION}.NumericPasswordValidator"},
]
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "start"
LOGOUT_REDIRECT_URL = "sign-in"
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = 0.25
# The door closes for an account from an address: not for a whole workshop behind one router, and not for
# an owner because somebody elsewhere guesses at their name.
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_TEMPLATE = "people/locked.html"
AXES_VERBOSE = False

LANGUAGE_CODE = "en-gb"
TIME_ZONE = env("TZ", default="UTC") or "UTC"
USE_TZ = True
USE_I18N = False

STATIC_URL = "/static/"
STATIC_ROOT = STATE / "static"
# Names carry a hash of what is in them, so a browser may keep a file for a year; compressed once.
# Tests and development serve the files as they lie.
GATHERED = not (DEBUG or TESTING)
STORAGES = {
    # Several hosts share a folder (BRUNT_MEDIA), or name another storage and its options as JSON.
    "default": {
        "BACKEND": env("BRUNT_STORAGE", default="django.core.files.storage.FileSystemStorage"),
        "OPTIONS": env.json("BRUNT_STORAGE_OPTIONS", default={}),
    },
    "staticfiles": {
        "BACKEND": "brunt_web.interface.files.HashedFiles"
        if GATHERED
        else "django.contrib.staticfiles.storage.StaticFilesStorage"
    },
}
WHITENOISE_USE_FINDERS = not GATHERED
WHITENOISE_MAX_AGE = 0
# Where files, secrets and backups lie; empty where only the tests run.
KEPT = env("BRUNT_KEPT", default="")
MEDIA_ROOT = Path(env("BRUNT_MEDIA", default=str(STATE / "media")))

# Behind a proxy that ends TLS: one setting turns on secure cookies, HSTS and the way to https.
HTTPS = env.bool("BRUNT_HTTPS", default=False)
if HTTPS:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_SSL_REDIRECT = True
    SECURE_REDIRECT_EXEMPT = [r"^health/$"]
    # None for a local certificate, past whose warning a person may still want to go.
    SECURE_HSTS_SECONDS = env.int("BRUNT_HSTS", default=31_536_000)
    SECURE_HSTS_INCLUDE_SUBDOMAINS = False
    CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS if host not in ("*", "")]
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
CSRF_FAILURE_VIEW = "brunt_web.interface.views.stale_form"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
# The bridge to live instruments answers at a port of its own on the same host.
BRIDGE_PORT = env.int("BRUNT_BRIDGE_PORT", default=0)
# Where a proxy that ends TLS shows it: a path of the same host, or an address. A page over https may open no other.
BRIDGE_AT = env("BRUNT_BRIDGE_AT", default="").rstrip("/")
_BRIDGES = (
    [BRIDGE_AT]
    if "://" in BRIDGE_AT
    else [f"http://{host}:{BRIDGE_PORT}" for host in ALLOWED_HOSTS if host != "*"]
    if BRIDGE_PORT and not BRIDGE_AT
    else []
)
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "font-src": [SELF],
        "img-src": [SELF, "data:", "blob:"],
        "connect-src": [SELF, *_BRIDGES],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
        "manifest-src": [SELF],
    }
}

# Whether other hosts may work on the same database: then they must share secret and storage.
SHARED = env.bool("BRUNT_SHARED", default=False)

TEST_RUNNER = "tests.support.runner.Runner"
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "loggers": {
        "django.request": {
            "handlers": ["console"],
            "propagate": False,
            "level": "CRITICAL" if TESTING and not LOUD else "ERROR",
        },
        "django.security": {
            "handlers": ["console"],
            "propagate": False,
            "level": "CRITICAL" if TESTING and not LOUD else "WARNING",
        },
        "axes": {"level": "CRITICAL"},
    },
}
