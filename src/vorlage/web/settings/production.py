"""A school's server, behind a reverse proxy that ends TLS; see ``docs/running.md``."""

import os
from pathlib import Path

from .base import *  # noqa: F403
from .base import database

DEBUG = False
SECRET_KEY = os.environ["VORLAGE_SECRET_KEY"]
ALLOWED_HOSTS = os.environ["VORLAGE_HOSTS"].split(",")
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]
DATABASES = {"default": database(os.environ["VORLAGE_DATABASE"]) | {"CONN_MAX_AGE": 600, "CONN_HEALTH_CHECKS": True}}
STATIC_ROOT = Path(os.environ["VORLAGE_STATIC"])

SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
SECURE_SSL_REDIRECT = True
SECURE_HSTS_SECONDS = 31_536_000
SECURE_HSTS_INCLUDE_SUBDOMAINS = True
SECURE_HSTS_PRELOAD = True
SESSION_COOKIE_SECURE = True
CSRF_COOKIE_SECURE = True
