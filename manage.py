#!/usr/bin/env python
"""Django's command line, with Calm Tin's settings."""

import os
import sys

from django.core.management import execute_from_command_line

if __name__ == "__main__":
    os.umask(0o077)  # the book is nobody else's to read
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmtin.config.settings")
    execute_from_command_line(sys.argv)
