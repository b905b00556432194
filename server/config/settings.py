"""Settings, all from the environment that the launcher sets."""

import os
import secrets
import sys
from datetime import timedelta
from pathlib import Path

from lens.reporting import new_key, new_pdf_key
from server.config.kept import kept, public_half, published

ROOT = Path(__file__).resolve().parent.parent.parent
VAR = Path(os.environ.get("CLEAR_LENS_VAR") or ROOT / "var")
DIST = ROOT / "web" / "dist"
SECRET_KEY = os.environ.get("CLEAR_LENS_SECRET_KEY") or kept(VAR, "django.secret", lambda: secrets.token_urlsafe(48))
SHOP_KEY = kept(VAR, "shop.key", new_key)  # signs the reports; its public half may be given to anybody
SHOP_PUBLIC_KEY = published(VAR, "shop.pub", public_half(SHOP_KEY, VAR / "shop.key"))
PDF_KEY = kept(VAR, "pdf.key", new_pdf_key)  # signs the PDF reports; each report names it in what the shop's key signs
DEBUG = False
TESTING = "test" in sys.argv[1:2]
DEMO = bool(os.environ.get("CLEAR_LENS_DEMO"))
LAN = bool(os.environ.get("CLEAR_LENS_LAN"))
TLS = bool(os.environ.get("CLEAR_LENS_TLS"))
PUBLIC_URL = os.environ.get("CLEAR_LENS_PUBLIC_URL", "http://127.0.0.1:8600")
# names and addresses of this machine, as the launcher found them and as --name gave them
_NAMES = [name for name in os.environ.get("CLEAR_LENS_HOSTS", "127.0.0.1,localhost,::1").split(",") if name]
ALLOWED_HOSTS = [f"[{name}]" if ":" in name else name for name in _NAMES] + (["testserver"] if TESTING else [])
CSRF_TRUSTED_ORIGINS = [PUBLIC_URL]
OWN_CERTIFICATE = bool(os.environ.get("CLEAR_LENS_OWN_CERT"))
FINGERPRINT = os.environ.get("CLEAR_LENS_FINGERPRINT", "")
# what browsers remember for a year is only said of a certificate that the shop answers for
SECURE_HSTS_SECONDS = 31_536_000 if OWN_CERTIFICATE else 0
SECURE_CROSS_ORIGIN_OPENER_POLICY = "same-origin"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = TLS
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_HTTPONLY = True
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
CSRF_FAILURE_VIEW = "server.common.errors.forbidden"

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "django.contrib.postgres",
    "procrastinate.contrib.django",
    "axes",
    "server.common",
    "server.accounts",
    "server.profiles",
    "server.shop",
    "server.jobs",
    "server.inspections",
    "server.parts",
    "server.handchecks",
    "server.readings",
    "server.purchasing",
    "server.fitting",
    "server.proving",
    "server.incoming",
    "server.reports",
    "server.touch",
    "server.bench",
    "server.simbench",
    "server.upkeep",
    "server.jobfiles",
]
MIDDLEWARE = [
    "server.common.request_id.RequestId",
    "server.common.middleware.SecurityHeaders",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "server.shop.middleware.ShopZone",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]
ROOT_URLCONF = "server.config.urls"
ASGI_APPLICATION = "server.config.asgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "DIRS": [], "APP_DIRS": True}]

DATABASES: dict[str, dict[str, object]]
if os.environ.get("CLEAR_LENS_NO_DATABASE"):
    DATABASES = {"default": {"ENGINE": "django.db.backends.dummy"}}
else:
    DATABASES = {
        "default": {
            "ENGINE": "django.db.backends.postgresql",
            "HOST": os.environ.get("CLEAR_LENS_DB_HOST", "127.0.0.1"),
            "PORT": os.environ.get("CLEAR_LENS_DB_PORT", "5432"),
            "NAME": os.environ.get("CLEAR_LENS_DB_NAME", "clear_lens"),
            "USER": os.environ.get("CLEAR_LENS_DB_USER", "app"),
            "PASSWORD": os.environ.get("CLEAR_LENS_DB_PASSWORD", ""),
            "CONN_HEALTH_CHECKS": True,
            "OPTIONS": {
                # nobody waits for ever: neither for a lock nor for an answer; long work of commands says so by itself
                "options": ""
                if os.environ.get("CLEAR_LENS_PATIENT")
                else "-c lock_timeout=8s -c statement_timeout=30s -c idle_in_transaction_session_timeout=120s",
                "connect_timeout": 5,
                **{
                    name: value
                    for name in ("sslmode", "sslrootcert")
                    if (value := os.environ.get(f"CLEAR_LENS_DB_{name.upper()}"))
                },
                **({} if TESTING else {"pool": {"min_size": 1, "max_size": 12, "timeout": 5, "reconnect_timeout": 3}}),
            },
        }
    }

_RULES = "django.contrib.auth.password_validation"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"{_RULES}.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": f"{_RULES}.UserAttributeSimilarityValidator"},
    {"NAME": f"{_RULES}.CommonPasswordValidator"},
    {"NAME": f"{_RULES}.NumericPasswordValidator"},
]
# what was stored by earlier versions is stored anew at the next sign-in
PASSWORD_HASHERS = ["server.accounts.hashers.Argon2", "django.contrib.auth.hashers.PBKDF2PasswordHasher"]
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AXES_HANDLER = "server.accounts.throttle.Throttle"
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"], "ip_address"]  # in this order: the handler counts on it
AXES_FAILURE_LIMIT, MOST_FAILURES_AN_ADDRESS = 10, 60
AXES_COOLOFF_TIME = timedelta(minutes=5)
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False
AXES_RESET_ON_SUCCESS = True
AXES_CLIENT_IP_CALLABLE = "server.accounts.throttle.address_of"
AXES_LOCKOUT_CALLABLE = "server.accounts.throttle.locked"
AXES_DISABLE_ACCESS_LOG, AXES_ENABLE_ADMIN, AXES_VERBOSE = True, False, False
LANGUAGE_CODE = "en"
TIME_ZONE = "UTC"
USE_TZ = True
STATIC_URL = "/static/"
STATICFILES_DIRS = [DIST] if DIST.exists() else []
WHITENOISE_USE_FINDERS = True
WHITENOISE_AUTOREFRESH = False
WHITENOISE_IMMUTABLE_FILE_TEST = r"^.+[.-][0-9a-zA-Z_-]{8,}\..+$"
MEDIA_ROOT = Path(os.environ.get("CLEAR_LENS_MEDIA", VAR / "media"))
S3_BUCKET = os.environ.get("CLEAR_LENS_S3_BUCKET", "")
_S3 = {
    "bucket_name": S3_BUCKET,
    "endpoint_url": os.environ.get("CLEAR_LENS_S3_ENDPOINT") or None,
    "region_name": os.environ.get("CLEAR_LENS_S3_REGION"),
    "addressing_style": "path",
    "default_acl": None,
    "file_overwrite": True,
}  # names are hashes: what is written over is the same, or broken
STORAGES = {
    "default": {"BACKEND": "storages.backends.s3.S3Storage", "OPTIONS": _S3}
    if S3_BUCKET
    else {"BACKEND": "server.common.files.SafeStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
FILE_UPLOAD_PERMISSIONS, FILE_UPLOAD_DIRECTORY_PERMISSIONS = 0o600, 0o700
# photos leave this much of the disk to the database, which must be able to go on writing
LEAST_FREE_BYTES = int(os.environ.get("CLEAR_LENS_LEAST_FREE_BYTES", 200 * 1024 * 1024))
# from here on the bench warns
LOW_DISK_SHARE, LOW_DISK_BYTES = 0.10, 2 * 1024**3
DATA_UPLOAD_MAX_MEMORY_SIZE = 2 * 1024 * 1024
FILE_UPLOAD_MAX_MEMORY_SIZE = 8 * 1024 * 1024
# decoders see every upload, so bodies are bounded before they are read (a photo may have 60 MB)
MAX_BODY_BYTES = 62 * 1024 * 1024
CODE_LIFETIME_HOURS = 12

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"request_id": {"()": "server.common.request_id.WithRequestId"}},
    "formatters": {"lines": {"format": "%(asctime)s %(levelname)s %(name)s [%(request_id)s] %(message)s"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "filters": ["request_id"], "formatter": "lines"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    # who sends wrong input is told so; the log is for what is wrong here
    "loggers": {
        name: {"level": level}
        for name, level in (("axes", "ERROR"), ("django.request", "ERROR"), ("django.security", "CRITICAL"))
    },
}
