"""Settings; everything that differs between installations comes from the environment (FORTIMETRA_…)."""

import os
from pathlib import Path
from typing import Any

from csp.constants import NONE, SELF
from django.core.exceptions import ImproperlyConfigured

ROOT = Path(__file__).resolve().parent.parent.parent
DATA = Path(os.environ.get("FORTIMETRA_DATA", ROOT / "var" / "data"))
# Where servers count for Prometheus is made as they start; a command before that counts nothing.
if not Path(os.environ.get("PROMETHEUS_MULTIPROC_DIR", ".")).is_dir():
    del os.environ["PROMETHEUS_MULTIPROC_DIR"]


def env(name: str, default: str = "") -> str:
    return os.environ.get(f"FORTIMETRA_{name}", default)


DEBUG = env("DEBUG") == "1"
SECRET_KEY = env("SECRET_KEY", "only-for-commands-that-need-no-secret")
ALLOWED_HOSTS = [host for host in env("HOSTS", "127.0.0.1,localhost").split(",") if host]
CSRF_TRUSTED_ORIGINS = [origin for origin in env("ORIGINS").split(",") if origin]
# nginx stands before this process, alone: it says who asks and by which scheme, and sends out files.
BEHIND_FRONT = env("FRONT") == "1"

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "allauth",
    "allauth.account",
    "allauth.headless",
    "allauth.mfa",
    "allauth.usersessions",
    "csp",
    "apps.people",
    "apps.jobs",
    "apps.guitars",
    "apps.drills",
    "apps.bench",
    "apps.takes",
    "apps.reviews",
    "apps.measuring",
    "apps.plans",
    "apps.reports",
    "apps.archive",
    "apps.demo",
    "apps.keeper",
]
MIDDLEWARE = [
    "config.trace.TraceMiddleware",
    "config.metrics.MetricsMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "config.middleware.CompressMiddleware",
    "config.middleware.LargeRequestMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "allauth.account.middleware.AccountMiddleware",
    "config.middleware.SignInMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
ROOT_URLCONF = "config.urls"
WSGI_APPLICATION = "config.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {"context_processors": ["django.template.context_processors.request"]},
    }
]

# -- data --------------------------------------------------------------------------------------------

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.mysql",
        "HOST": env("DB_HOST", "127.0.0.1"),
        "PORT": env("DB_PORT", "3306"),
        "NAME": env("DB_NAME", "fortimetra"),
        "USER": env("DB_USER", "fortimetra"),
        "PASSWORD": env("DB_PASSWORD"),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {"charset": "utf8mb4", "init_command": "SET sql_mode='STRICT_TRANS_TABLES'"},
        "TEST": {"CHARSET": "utf8mb4", "COLLATION": "utf8mb4_unicode_ci"},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
if env("DB_CA"):
    # A database on another machine: encrypted, and it is the one whose certificate this authority signed.
    DATABASES["default"]["OPTIONS"]["ssl"] = {"ca": env("DB_CA")}  # type: ignore[index]
REDIS_SOCKET = env("REDIS_SOCKET")
# A broker and a cache on another machine: redis://:password@host:6379/0, rediss:// with TLS; a broker also amqps://.
BROKER_URL = env("BROKER_URL") or (f"redis+socket://{REDIS_SOCKET}?virtual_host=0" if REDIS_SOCKET else "")
CACHE_URL = env("CACHE_URL") or (f"unix://{REDIS_SOCKET}?db=0" if REDIS_SOCKET else "")
CACHES: dict[str, Any] = {
    "default": {
        "BACKEND": "config.cache.OpenCache",
        "LOCATION": CACHE_URL,
        "OPTIONS": {
            # What is read back is data: whoever writes to the cache runs nothing here.
            "SERIALIZER": "django_redis.serializers.json.JSONSerializer",
            # A broker that is away or does not answer is an empty cache, soon.
            "IGNORE_EXCEPTIONS": True,
            "SOCKET_TIMEOUT": 0.5,
        },
    }
    if CACHE_URL
    else {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}
}
MEDIA_ROOT = DATA / "media"
STORAGES: dict[str, Any] = {
    "default": {"BACKEND": "config.storage.WholeFiles"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedStaticFilesStorage"},
}
if env("BUCKET"):
    STORAGES["default"] = {
        "BACKEND": "config.bucket.Bucket",
        "OPTIONS": {
            "bucket_name": env("BUCKET"),
            # Of a store that is not Amazon's: https://…
            "endpoint_url": env("BUCKET_ENDPOINT") or None,
            "region_name": env("BUCKET_REGION") or None,
            "access_key": env("BUCKET_KEY") or None,
            "secret_key": env("BUCKET_SECRET") or None,
            "location": env("BUCKET_FOLDER"),
            "file_overwrite": False,
            # Private as the bucket is; what is written is encrypted there.
            "default_acl": None,
            "object_parameters": {"ServerSideEncryption": env("BUCKET_ENCRYPTION", "AES256")},
        },
    }
KEPT_FREE_BYTES = int(env("KEPT_FREE_MB", "300")) * 1_000_000
FILE_UPLOAD_TEMP_DIR = env("UPLOAD_TEMP") or None
FILE_UPLOAD_PERMISSIONS = 0o600

# -- people -------------------------------------------------------------------------------------------

AUTH_USER_MODEL = "people.User"
AUTHENTICATION_BACKENDS = ["allauth.account.auth_backends.AuthenticationBackend"]
# The first is what passwords are stored by; one that is still stored by another is stored anew when it is next typed.
PASSWORD_HASHERS = ["apps.people.passwords.Argon2", "django.contrib.auth.hashers.PBKDF2PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "apps.people.passwords.GuessValidator"},
]
ACCOUNT_LOGIN_METHODS = {"email"}
ACCOUNT_SIGNUP_FIELDS = ["email*", "password1*"]
ACCOUNT_USER_MODEL_USERNAME_FIELD = None
ACCOUNT_EMAIL_VERIFICATION = "none"
ACCOUNT_ADAPTER = "apps.people.adapter.AccountAdapter"
ACCOUNT_PREVENT_ENUMERATION = True
# A class of thirty signs in behind one address; who guesses is held up for one account and address soon, for an account
# from everywhere later (`apps.people.adapter`). A letter with a link always helps.
ACCOUNT_RATE_LIMITS = {
    "login": "120/m/ip",
    "login_failed": "60/m/ip,300/h/ip",
    "login_failed_pair": "5/300s/key",
    "login_failed_account": "100/h/key",
    "reset_password": "60/m/ip,10/h/key",
}
HEADLESS_ONLY = True
HEADLESS_CLIENTS = ("browser",)
HEADLESS_FRONTEND_URLS = {
    "account_reset_password": "/",
    "account_reset_password_from_key": "/reset/{key}",
    "account_signup": "/",
    "account_confirm_email": "/",
}
MFA_SUPPORTED_TYPES = ["totp", "recovery_codes"]
MFA_TOTP_ISSUER = "Fortimetra"
# Addresses are not verified here (a teacher gives the link), so that must not stand in the way of a second factor.
MFA_ALLOW_UNVERIFIED_EMAIL = True
# A phone's clock may be off, and typing takes time: one step either way (RFC 6238, 5.2, allows so much).
MFA_TOTP_TOLERANCE = 1
# Without a mail server letters are put into a folder: links are then shown to the teacher, who passes them on.
EMAIL_HOST = env("MAIL_HOST")
EMAIL_PORT = int(env("MAIL_PORT", "587"))
EMAIL_HOST_USER, EMAIL_HOST_PASSWORD = env("MAIL_USER"), env("MAIL_PASSWORD")
EMAIL_USE_TLS = env("MAIL_TLS", "1") == "1"
EMAIL_TIMEOUT = 10
DEFAULT_FROM_EMAIL = env("MAIL_FROM", "fortimetra@localhost")
MAIL_IS_SET = bool(EMAIL_HOST)
EMAIL_BACKEND = f"django.core.mail.backends.{'smtp' if MAIL_IS_SET else 'filebased'}.EmailBackend"
EMAIL_FILE_PATH = DATA / "mail"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_AGE = 14 * 24 * 3600
CSRF_COOKIE_SAMESITE = "Lax"
# Behind a proxy that speaks HTTPS. The front takes a proxy's word for it only from FORTIMETRA_PROXIES.
HTTPS = env("HTTPS") == "1"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = HTTPS
SECURE_REDIRECT_EXEMPT = [r"^api/v1/health$"]
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if BEHIND_FRONT else None
SECURE_HSTS_SECONDS = 365 * 24 * 3600 if HTTPS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = HTTPS
# Browsers' lists of HTTPS-only domains are the domain's owner's to ask for (the warning would ask for it here).
SILENCED_SYSTEM_CHECKS = ["security.W021"]
ALLAUTH_TRUSTED_PROXY_COUNT = 1 if BEHIND_FRONT else 0
DEMO_EMAIL = "teacher@quayside.example"
DEMO_STUDENT, DEMO_STUDENT_EMAIL = "Oda Vintersee", "oda@quayside.example"
DEMO_PASSWORD = "harbour-light-evening"

# -- pages --------------------------------------------------------------------------------------------

WEB_DIST = ROOT / "web" / "dist"
STATIC_URL = "/static/"
STATIC_ROOT = WEB_DIST
WHITENOISE_USE_FINDERS = False
WHITENOISE_AUTOREFRESH = False
WHITENOISE_IMMUTABLE_FILE_TEST = r"/assets/.+-[0-9A-Za-z_-]{8}\.\w+$"
ARCHIVE_MAX_BYTES = int(env("ARCHIVE_MAX_MB", "2000")) * 1_000_000
CSRF_FAILURE_VIEW = "config.pages.csrf_failure"
X_FRAME_OPTIONS = "DENY"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "script-src": [SELF],
        # Radix positions floating layers with style attributes.
        "style-src": [SELF, "'unsafe-inline'"],
        "img-src": [SELF, "data:"],
        "media-src": [SELF, "blob:"],
        "connect-src": [SELF],
        "font-src": [SELF],
        "object-src": [NONE],
        "base-uri": [SELF],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
    }
}

# -- takes --------------------------------------------------------------------------------------------

UPLOAD_MAX_BYTES = int(env("UPLOAD_MAX_MB", "100")) * 1_000_000
TAKE_MAX_MINUTES = float(env("TAKE_MAX_MINUTES", "15"))
TAKE_ATTEMPTS = 3
# A school uploads an evening's recordings at once; a stuck script uploads for ever. 0: a studio may keep what there is
# room for.
TAKES_AN_HOUR = int(env("TAKES_AN_HOUR", "400"))
GUEST_TAKES_AN_HOUR = int(env("GUEST_TAKES_AN_HOUR", "60"))
STUDIO_MAX_BYTES = int(float(env("STUDIO_MAX_GB", "0")) * 1e9)

CELERY_BROKER_URL = BROKER_URL or "memory://"
CELERY_TASK_IGNORE_RESULT = True
CELERY_TASK_ACKS_LATE = True
CELERY_TASK_REJECT_ON_WORKER_LOST = True
CELERY_WORKER_PREFETCH_MULTIPLIER = 1
CELERY_TASK_SOFT_TIME_LIMIT = 150
CELERY_TASK_TIME_LIMIT = 180
CELERY_WORKER_MAX_MEMORY_PER_CHILD = 1_500_000  # kB: a worker that grew beyond it is replaced after its task
CELERY_WORKER_HIJACK_ROOT_LOGGER = False
CELERY_BROKER_CONNECTION_RETRY_ON_STARTUP = True
CELERY_BROKER_TRANSPORT_OPTIONS = {
    "visibility_timeout": 600,
    # A worker takes from the first of its queues that holds something.
    "queue_order_strategy": "priority",
    # A broker that is away must not hold up an upload: the sweeper queues the take later.
    "socket_connect_timeout": 2,
    "socket_timeout": 5,
}
CELERY_TASK_PUBLISH_RETRY = False
# What somebody sits and waits for does not stand behind thirty takes, and takes not behind ten years of old ones.
QUEUES = ("quick", "measure", "batch")
QUICK = (
    "drills.read_score", "drills.render_preview", "takes.guess_drill", "takes.try", "reports.set_sheet",
    "reports.make_sample", "takes.go_through_order",
)  # fmt: skip
CELERY_TASK_DEFAULT_QUEUE = "measure"
CELERY_TASK_ROUTES = {name: {"queue": "quick"} for name in QUICK} | {"takes.remeasure": {"queue": "batch"}}
CELERY_TIMEZONE = "UTC"
# A quarter of an hour in stereo takes 0.4 GB of memory, and 1 GB in files; this counts those, too.
WORKER_MEMORY_LIMIT_BYTES = 3_000_000_000

# -- the rest -----------------------------------------------------------------------------------------

USE_TZ = True
TIME_ZONE = "UTC"
USE_I18N = False
# Who asks with this reads what is counted at /-/metrics; without one nobody does.
METRICS_TOKEN = env("METRICS_TOKEN")
LOG_FIELDS = "{asctime}{levelname}{name}{message}{request}{job}"
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"traced": {"()": "config.trace.Traced"}},
    "formatters": {
        "line": {"format": "{asctime} {levelname} {name} {message}", "style": "{"},
        "json": {"()": "pythonjsonlogger.json.JsonFormatter", "fmt": LOG_FIELDS, "style": "{"},
    },
    "handlers": {
        "console": {
            "class": "logging.StreamHandler",
            "formatter": "json" if env("LOG") == "json" else "line",
            "filters": ["traced"],
        }
    },
    "root": {"handlers": ["console"], "level": "INFO"},
    "loggers": {"django.request": {"level": "ERROR"}},
}
if SECRET_KEY.startswith("only-for") and BROKER_URL:
    raise ImproperlyConfigured("FORTIMETRA_SECRET_KEY is not set; ./run start sets it.")
