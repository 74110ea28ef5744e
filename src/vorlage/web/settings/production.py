"""A school's server, behind a reverse proxy that ends TLS; see ``docs/running.md``."""

from pathlib import Path

from .base import *  # noqa: F403
from .base import database, env

DEBUG = False
SECRET_KEY = env("VORLAGE_SECRET_KEY")
SECRET_KEY_FALLBACKS = env.list("VORLAGE_OLD_SECRET_KEYS", default=[])
ALLOWED_HOSTS = env.list("VORLAGE_HOSTS")
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]
DATABASES = {"default": database(CONN_MAX_AGE=600, CONN_HEALTH_CHECKS=True)}
STATIC_ROOT = Path(env("VORLAGE_STATIC"))

SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
SECURE_SSL_REDIRECT = True
SECURE_HSTS_SECONDS = 31_536_000
# For this host itself: what else runs below the school's domain is not ours to decide, unless it is asked for.
SECURE_HSTS_INCLUDE_SUBDOMAINS = env.bool("VORLAGE_HSTS_SUBDOMAINS", False)
SECURE_HSTS_PRELOAD = env.bool("VORLAGE_HSTS_PRELOAD", False)
SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"]
ALLAUTH_TRUSTED_PROXY_COUNT = env.int("VORLAGE_PROXIES", 1)
SESSION_COOKIE_SECURE = True
CSRF_COOKIE_SECURE = True
# no other application of the host can set or read them
SESSION_COOKIE_NAME = "__Host-vorlage"
CSRF_COOKIE_NAME = "__Host-vorlage-form"

# Mail, where it is set up: faults go to whoever looks after the server.
vars().update(env.email("VORLAGE_MAIL", default="consolemail://"))
MAIL_IS_SET_UP = "VORLAGE_MAIL" in env.ENVIRON
ADMINS = [("", address) for address in env.list("VORLAGE_MAIL_TO", default=[])]
SERVER_EMAIL = DEFAULT_FROM_EMAIL = env("VORLAGE_MAIL_FROM", default="vorlage@localhost")
