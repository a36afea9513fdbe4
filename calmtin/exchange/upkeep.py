"""What the server does by itself once a day: a copy of the book, and clearing what is stale."""

from __future__ import annotations

import logging
import threading
from datetime import timedelta

from axes.handlers.proxy import AxesProxyHandler
from django.contrib.sessions.backends.db import SessionStore
from django.db import connections
from django.utils import timezone

from calmtin.common.models import Sent
from calmtin.exchange.backups import copy_if_due

log = logging.getLogger("calmtin")
EVERY_S = 600.0
KEPT_FOR = timedelta(days=90)


def upkeep() -> None:
    """Copy the book if today's copy is missing; clear old sessions, sign-in logs and form keys."""
    if written := copy_if_due():
        SessionStore.clear_expired()
        AxesProxyHandler.reset_logs(age_days=KEPT_FOR.days)
        AxesProxyHandler.reset_failure_logs(age_days=KEPT_FOR.days)
        Sent.objects.filter(at__lt=timezone.now() - KEPT_FOR).delete()
        log.warning("copied the book to %s", written.name)


def start_upkeep() -> threading.Event:
    """Look after the book in the background until the returned event is set."""
    stop = threading.Event()

    def run() -> None:
        while True:
            try:
                upkeep()
            except Exception:
                log.exception("the daily copy failed; it is tried again in ten minutes")
            finally:
                connections.close_all()
            if stop.wait(EVERY_S):
                return

    threading.Thread(target=run, name="upkeep", daemon=True).start()
    return stop
