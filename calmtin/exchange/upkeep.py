"""Daily upkeep of the server: a backup, and clearing expired rows."""

from __future__ import annotations

import logging
import threading
from datetime import timedelta

from axes.handlers.proxy import AxesProxyHandler
from django.contrib.sessions.backends.db import SessionStore
from django.db import connection, connections
from django.utils import timezone

from calmtin.accounts.models import User
from calmtin.checks.queries.calibration import lesson_of
from calmtin.common.models import Sent
from calmtin.exchange.backups import copy_if_due
from calmtin.exchange.records.import_holder import dismiss_forgotten
from calmtin.pours.services.closing import keep_missing_closings

log = logging.getLogger("calmtin")
EVERY_S = 600.0
KEPT_FOR = timedelta(days=90)


def study_book() -> None:
    """Let the database count its rows, so that it asks its tables in an order that suits a grown bench.

    Takes some 30 ms with 2,000 pours. Without it a list of formulas reads every pour for each formula.
    """
    with connection.cursor() as cursor:
        cursor.execute("ANALYZE")


def upkeep() -> None:
    """Back up the book if today's backup is missing; clear expired sessions, logs, keys and holders."""
    study_book()
    dismiss_forgotten()
    keep_missing_closings()  # of pours that came in with a file of 1.0
    if written := copy_if_due():
        SessionStore.clear_expired()
        AxesProxyHandler.reset_logs(age_days=KEPT_FOR.days)
        AxesProxyHandler.reset_failure_logs(age_days=KEPT_FOR.days)
        Sent.objects.filter(at__lt=timezone.now() - KEPT_FOR).delete()
        log.warning("copied the book to %s", written.name)


def learn_ahead() -> None:
    """Learn from each maker's log ahead of time, so that no page waits for it after a start."""
    for maker in User.objects.exclude(log_state=0):
        lesson_of(maker)


def start_upkeep() -> threading.Event:
    """Run the upkeep in the background until the returned event is set."""
    stop = threading.Event()

    def run() -> None:
        while True:
            try:
                upkeep()
                learn_ahead()
            except Exception:
                log.exception("the daily copy or learning ahead failed; it is tried again in ten minutes")
            finally:
                connections.close_all()
            if stop.wait(EVERY_S):
                return

    threading.Thread(target=run, name="upkeep", daemon=True).start()
    return stop
