"""The demo: one machine, loopback only, its own database cluster; started by ``./vorlage demo``."""

from pathlib import Path

from .base import *  # noqa: F403
from .base import database, env

DEBUG = False
SECRET_KEY = env("VORLAGE_SECRET_KEY")
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
DATABASES = {"default": database(CONN_MAX_AGE=600, CONN_HEALTH_CHECKS=True)}
STATIC_ROOT = Path(env("VORLAGE_STATIC"))
# cookies know no ports: two demos on one machine have cookies of their own
SESSION_COOKIE_NAME = f"vorlage-{env('VORLAGE_DEMO', default='demo')}"
CSRF_COOKIE_NAME = f"{SESSION_COOKIE_NAME}-form"
