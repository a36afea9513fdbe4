"""Settings for tests: a throw-away data folder, quick hashing, the demo button on."""

import os
import tempfile

os.environ["CALMTIN_DATA"] = tempfile.mkdtemp(prefix="calmtin-test-")
os.environ["CALMTIN_DEMO"] = "1"

from calmtin.config.settings import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
AXES_ENABLED = False
LOGGING["loggers"] = {"django.request": {"level": "CRITICAL"}}  # noqa: F405
DATABASES["default"]["TEST"] = {"NAME": DATA_DIR / "test.sqlite3"}  # noqa: F405
# Playwright's own event loop makes Django think that the tests are asynchronous.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
