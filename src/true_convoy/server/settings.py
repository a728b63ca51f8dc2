"""Settings. Everything that differs between machines comes from the environment; secrets are made below ``var/``."""

import os
import secrets
from pathlib import Path

ROOT = Path(__file__).resolve().parents[3]
VAR = Path(os.environ.get("CONVOY_VAR", ROOT / "var"))


def _secret(name: str) -> str:
    """A secret from the environment, or one made once and kept below ``var/secrets`` with mode 600."""
    if given := os.environ.get(f"CONVOY_{name.upper()}"):
        return given
    path = VAR / "secrets" / name
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
            file.write(secrets.token_urlsafe(48))
    return path.read_text().strip()


SECRET_KEY = _secret("secret_key")
DEBUG = False
ALLOWED_HOSTS = os.environ.get("CONVOY_HOSTS", "127.0.0.1,localhost").split(",")
ROOT_URLCONF = "true_convoy.server.urls"
APPEND_SLASH = False
ASGI_APPLICATION = "true_convoy.server.asgi.application"
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True
TIME_ZONE = "UTC"

INSTALLED_APPS = [
    "django.contrib.contenttypes",
    "django.contrib.auth",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.postgres",
    "allauth",
    "allauth.account",
    "allauth.headless",
    "rest_framework",
    "drf_spectacular",
    "procrastinate.contrib.django",
    "true_convoy.server.accounts",
    "true_convoy.server.jobs",
    "true_convoy.server.files",
    "true_convoy.server.catalogue",
    "true_convoy.server.packs",
    "true_convoy.server.releases",
    "true_convoy.server.rigs",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "true_convoy.server.policy.content_policy",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    # Refuses requests for other host names, so that no page elsewhere can speak to a server on loopback by a name.
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "allauth.account.middleware.AccountMiddleware",
]
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True, "OPTIONS": {}}]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "HOST": os.environ.get("CONVOY_DB_HOST", str(VAR / "run")),
        "PORT": os.environ.get("CONVOY_DB_PORT", "5432"),
        "NAME": os.environ.get("CONVOY_DB_NAME", "convoy"),
        "USER": os.environ.get("CONVOY_DB_USER", "convoy"),
        "PASSWORD": os.environ.get("CONVOY_DB_PASSWORD", ""),
        # The worker and single commands hold one connection; the server shares a few among its requests.
        "OPTIONS": {"pool": {"min_size": 1, "max_size": 12}} if os.environ.get("CONVOY_DB_POOL") == "1" else {},
    }
}
CACHES = {"default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}}

# Files that curators brought, named by checksum. Another storage may take their place, such as an S3-compatible one.
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage", "OPTIONS": {"location": VAR / "media"}},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
    "blobs": {
        "BACKEND": "django.core.files.storage.FileSystemStorage",
        "OPTIONS": {"location": os.environ.get("CONVOY_BLOBS", VAR / "blobs"), "file_permissions_mode": 0o600},
    },
}
# Uploads on their way in; where there are several servers, a folder they share.
UPLOADS = os.environ.get("CONVOY_UPLOADS", VAR / "uploads")

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = ["allauth.account.auth_backends.AuthenticationBackend"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in ("UserAttributeSimilarityValidator", "MinimumLengthValidator", "CommonPasswordValidator")
]
ACCOUNT_ADAPTER = "true_convoy.server.accounts.adapter.Adapter"
ACCOUNT_USER_MODEL_USERNAME_FIELD = None
ACCOUNT_LOGIN_METHODS = {"email"}
ACCOUNT_SIGNUP_FIELDS = ["email*", "password1*"]
ACCOUNT_SIGNUP_FORM_CLASS = "true_convoy.server.accounts.forms.SignUpForm"
ACCOUNT_EMAIL_VERIFICATION = "none"
HEADLESS_ONLY = True
HEADLESS_CLIENTS = ("browser",)
HEADLESS_FRONTEND_URLS = {
    "account_reset_password_from_key": "/account/{key}",
    "account_signup": "/sign-up",
}
SESSION_COOKIE_NAME = "convoy_session"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_NAME = "convoy_csrf"
CSRF_COOKIE_SAMESITE = "Lax"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"

WEB_DIST = Path(os.environ.get("CONVOY_WEB_DIST", ROOT / "web" / "dist"))
# The members' command as a wheel, packed by bin/start and handed out by the join page.
AGENT_DIST = Path(os.environ.get("CONVOY_AGENT_DIST", ROOT / "var" / "agent"))
STATIC_URL = "/static/"
WHITENOISE_ROOT = WEB_DIST if WEB_DIST.is_dir() else None

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": [
        "true_convoy.server.access.RigAuthentication",
        "rest_framework.authentication.SessionAuthentication",
    ],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_PARSER_CLASSES": ["rest_framework.parsers.JSONParser"],
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "EXCEPTION_HANDLER": "true_convoy.server.frame.answer_error",
    "UNAUTHENTICATED_USER": "django.contrib.auth.models.AnonymousUser",
    "DEFAULT_THROTTLE_RATES": {"codes": os.environ.get("CONVOY_CODE_RATE", "60/min")},
}
SPECTACULAR_SETTINGS = {
    "TITLE": "True Convoy",
    "DESCRIPTION": "Packs, their releases and the rigs that follow them.",
    "VERSION": "1",
    "OAS_VERSION": "3.1.0",
    "SERVE_INCLUDE_SCHEMA": False,
    "POSTPROCESSING_HOOKS": ["true_convoy.server.frame.add_components"],
}
DATA_UPLOAD_MAX_MEMORY_SIZE = 64 * 1024 * 1024
PUBLIC_ADDRESS = os.environ.get("CONVOY_PUBLIC_ADDRESS", "")
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": os.environ.get("CONVOY_LOG_LEVEL", "WARNING")},
}
