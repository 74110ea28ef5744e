"""A school's server, behind a reverse proxy that ends TLS; see ``docs/running.md``."""

from pathlib import Path

from .base import *  # noqa: F403
from .base import env

DEBUG = False
SECRET_KEY = env("VORLAGE_SECRET_KEY")
ALLOWED_HOSTS = env.list("VORLAGE_HOSTS")
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]
DATABASES = {"default": env.db_url("VORLAGE_DATABASE") | {"CONN_MAX_AGE": 600, "CONN_HEALTH_CHECKS": True}}
STATIC_ROOT = Path(env("VORLAGE_STATIC"))

SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
SECURE_SSL_REDIRECT = True
SECURE_HSTS_SECONDS = 31_536_000
SECURE_HSTS_INCLUDE_SUBDOMAINS = True
SECURE_HSTS_PRELOAD = True
SESSION_COOKIE_SECURE = True
CSRF_COOKIE_SECURE = True
