"""Settings for tests: a throw-away data folder, quick hashing, the demo button on."""

import os
import tempfile

os.environ["CALMTIN_DATA"] = tempfile.mkdtemp(prefix="calmtin-test-")
os.environ["CALMTIN_DEMO"] = "1"

from calmtin.config.settings import *  # noqa: E402, F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
AXES_ENABLED = False
LOGGING["root"]["level"] = "CRITICAL"  # noqa: F405
