"""The looks of a bench as a calendar file."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from datetime import datetime, timedelta

from django.urls import reverse
from icalendar import Alarm, Calendar, Event

from calmtin.pours.queries.looks import Due

LOOK_TAKES = timedelta(minutes=10)


def calendar_of(looks: Iterable[Due], now: datetime, address: Callable[[str], str]) -> bytes:
    """Return the looks as iCalendar (RFC 5545), each with a bell; one that is overdue stands at `now`.

    The same look has the same UID each time, so that a calendar that reads it again doubles nothing.
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Calm Tin//looks//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", "Calm Tin: looks")
    for due in looks:
        pour = due.pour
        begins = now if due.is_due else due.at
        event = Event()
        event.add("uid", f"look-{pour.pk}-{due.look.slug}@calmtin")
        event.add("dtstamp", now)
        event.add("dtstart", begins)
        event.add("dtend", begins + LOOK_TAKES)
        event.add("summary", f"{due.look.name}: {pour.version.formula.name}, {pour.code}")
        event.add("url", address(reverse("pours:check", args=[pour.pk]) + f"?look={due.look.slug}"))
        event.add("description", "Press with a thumb, note the temperature, and look for what is asked.")
        bell = Alarm()
        bell.add("action", "DISPLAY")
        bell.add("description", due.look.name)
        bell.add("trigger", timedelta(0))
        event.add_component(bell)
        calendar.add_component(event)
    return calendar.to_ical()
