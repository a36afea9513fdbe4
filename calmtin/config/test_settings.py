"""Settings for tests: a throw-away data folder, quick hashing, the demo button on."""

import os
import tempfile

# In memory where the machine has such a place: tests that flush the database wait for no disk.
FAST = "/dev/shm" if os.access("/dev/shm", os.W_OK) else None
# A process that a test starts reads the folder of the test.
os.environ["CALMTIN_TEST_DATA"] = os.environ.get("CALMTIN_TEST_DATA") or tempfile.mkdtemp(
    prefix="calmtin-test-", dir=FAST
)
os.environ["CALMTIN_DATA"] = os.environ["CALMTIN_TEST_DATA"]
os.environ["CALMTIN_DEMO"] = "1"

from calmtin.config.settings import *  # noqa: E402, F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
AXES_ENABLED = False
# Pages are tested as they stand on disk; tests/config serves the hashed ones.
STORAGES["staticfiles"] = {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}  # noqa: F405
WHITENOISE_USE_FINDERS = True
STATIC_ROOT.mkdir(parents=True, exist_ok=True)  # noqa: F405
LOGGING |= {"loggers": {"django.request": {"level": "CRITICAL"}}}  # noqa: F405
DATABASES["default"]["OPTIONS"]["init_command"] = "PRAGMA journal_mode=WAL; PRAGMA synchronous=OFF;"  # noqa: F405
DATABASES["default"]["TEST"] = {"NAME": DATA_DIR / "test.sqlite3"}  # noqa: F405
# Playwright's own event loop makes Django think that the tests are asynchronous.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"

# Whatever zone this machine is in, the tests are in UTC.
TIME_ZONE_SET = True
