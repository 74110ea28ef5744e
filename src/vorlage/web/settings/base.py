"""What every installation shares."""

from pathlib import Path
from typing import Any

import environ
from csp.constants import NONE, SELF

# What an installation says of itself stands in its environment.
env = environ.Env()
WEB = Path(__file__).resolve().parent.parent


def database(default: str | None = None, **more: object) -> dict[str, Any]:
    """The database of an installation. Pages ask for little at a time: compiling a query, or sharing it out to several
    processes, takes longer than most of them."""
    given: dict[str, Any] = env.db_url("VORLAGE_DATABASE", default) if default else env.db_url("VORLAGE_DATABASE")
    return given | {"OPTIONS": {"options": "-c jit=off -c max_parallel_workers_per_gather=0"}} | more


INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.postgres",
    "django.contrib.staticfiles",
    "django_htmx",
    "procrastinate.contrib.django",
    "allauth",
    "allauth.account",
    "allauth.mfa",
    "rules.apps.AutodiscoverRulesConfig",
    "vorlage.web.design",
    "vorlage.web.once",
    "vorlage.web.files",
    "vorlage.web.jobs",
    "vorlage.web.people",
    "vorlage.web.classes",
    "vorlage.web.bank",
    "vorlage.web.desk",
    "vorlage.web.exchange",
    "vorlage.web.plans",
    "vorlage.web.forms",
    "vorlage.web.seating",
    "vorlage.web.sittings",
    "vorlage.web.marking",
    "vorlage.web.find",
]

MIDDLEWARE = [
    "vorlage.web.watch.middleware.HealthMiddleware",
    "vorlage.web.watch.middleware.SlowMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "vorlage.web.watch.middleware.PrivateMiddleware",
    "csp.middleware.CSPMiddleware",
    "vorlage.web.design.security.PermissionsPolicyMiddleware",
    "vorlage.web.design.security.NullByteMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "allauth.account.middleware.AccountMiddleware",
    "vorlage.web.people.middleware.MembershipMiddleware",
    "vorlage.web.design.budget.BudgetMiddleware",
]

ROOT_URLCONF = "vorlage.web.urls"
WSGI_APPLICATION = "vorlage.web.wsgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "vorlage.web.design.context.frame",
            ],
        },
    },
]

AUTH_USER_MODEL = "people.User"
AUTHENTICATION_BACKENDS = ["allauth.account.auth_backends.AuthenticationBackend"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.NumericPasswordValidator"},
]
ACCOUNT_USER_MODEL_USERNAME_FIELD = "sign_in_name"
# students without an address sign in with a name
ACCOUNT_LOGIN_METHODS = {"email", "username"}
ACCOUNT_SIGNUP_FIELDS = ["email*", "password1*"]
ACCOUNT_EMAIL_VERIFICATION = "none"
# A school is one address on the network: a whole year group signs in within a minute, and many mistype. What keeps
# guessers out is the limit of the account.
ACCOUNT_RATE_LIMITS: dict[str, str] | bool = {
    "login": "600/m/ip", "login_failed": "200/5m/ip,5/5m/key",
    "change_password": "5/m/user", "reset_password_from_key": "20/m/ip",
}  # fmt: skip
# How many proxies stand before the application; the address before them is the visitor's.
ALLAUTH_TRUSTED_PROXY_COUNT = 0
ACCOUNT_ADAPTER = "vorlage.web.people.forms.AccountAdapter"
ACCOUNT_FORMS = {"login": "vorlage.web.people.forms.SignInForm"}
MFA_ADAPTER = "vorlage.web.people.second_step.Adapter"
MFA_SUPPORTED_TYPES = ["totp", "recovery_codes"]
MFA_TOTP_ISSUER = "Vorlage"
# an address is that of the account, made by whoever looks after the installation
MFA_ALLOW_UNVERIFIED_EMAIL = True
PASSWORD_RESET_TIMEOUT = 24 * 3600
MAIL_IS_SET_UP = False
LOGIN_URL = "account_login"
LOGIN_REDIRECT_URL = "home"
ACCOUNT_LOGOUT_REDIRECT_URL = "account_login"

# In the database: what is counted there is counted for all processes and machines.
CACHES = {"default": {"BACKEND": "django.core.cache.backends.db.DatabaseCache", "LOCATION": "vorlage_cache"}}

STATIC_URL = "static/"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.InMemoryStorage"},
    "staticfiles": {"BACKEND": "vorlage.web.design.storage.Storage"},
}

LANGUAGE_CODE = "en-gb"
TIME_ZONE = "UTC"
USE_TZ = True
USE_I18N = False
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

# A question with everything in it fits many times over; anything larger is not a form that was filled in.
DATA_UPLOAD_MAX_MEMORY_SIZE = 1_000_000
DATA_UPLOAD_MAX_NUMBER_FIELDS = 2_000

# Everything from the application itself, nothing inline.
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        # Bootstrap's small drawings are data: pictures inside its style sheet
        "img-src": [SELF, "data:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
        "base-uri": [NONE],
        "manifest-src": [SELF],
    }
}
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_HTTPONLY = True
CSRF_COOKIE_SAMESITE = "Lax"

# One JSON object a line on standard error, where systemd or a container keeps it.
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"lines": {"()": "vorlage.web.watch.lines.Lines"}},
    "handlers": {
        "lines": {"class": "logging.StreamHandler", "formatter": "lines"},
        "mail": {"()": "vorlage.web.watch.lines.Mail", "level": "ERROR", "formatter": "lines"},
    },
    "loggers": {
        "django": {"handlers": ["lines"], "level": "WARNING", "propagate": False},
        "django.request": {"handlers": ["lines", "mail"], "level": "ERROR", "propagate": False},
        "django.security": {"handlers": ["lines"], "level": "WARNING", "propagate": False},
        "procrastinate": {"handlers": ["lines"], "level": "WARNING", "propagate": False},
        "vorlage": {"handlers": ["lines", "mail"], "level": "INFO", "propagate": False},
    },
}

PROCRASTINATE_ON_APP_READY = None
