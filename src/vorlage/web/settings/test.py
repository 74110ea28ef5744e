"""The tests: fast passwords, files served straight from the sources."""

from .base import *  # noqa: F403
from .base import database

DEBUG = False
SECRET_KEY = "only for the tests, never anywhere else"
ALLOWED_HOSTS = ["*"]
DATABASES = {"default": database("postgresql://vorlage@127.0.0.1:5432/vorlage")}
# whoever is never let in is told so
DATABASES["default"]["OPTIONS"]["options"] += " -c lock_timeout=300s"
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.InMemoryStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
ACCOUNT_RATE_LIMITS = False
# what the tests provoke is no news
LOGGING = {
    "version": 1,
    "loggers": {"vorlage": {"handlers": ["none"]}},
    "handlers": {"none": {"class": "logging.NullHandler"}},
}
CACHES = {"default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}}
