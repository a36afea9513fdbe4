"""The checks and deadlines of a bench as a calendar file."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from datetime import datetime, timedelta

from django.urls import reverse
from django.utils.translation import gettext
from icalendar import Alarm, Calendar, Event

from calmtin.checks.queries.due import Due
from calmtin.core.messages import said
from calmtin.core.packing.deadlines import Step
from calmtin.packing.queries.deadlines import NeedView
from calmtin.pours.models import Pour

LOOK_TAKES = timedelta(minutes=10)


def calendar_of(
    looks: Iterable[tuple[Due, Pour]],
    needs: Iterable[NeedView],
    now: datetime,
    address: Callable[[str], str],
) -> bytes:
    """Return the looks as iCalendar (RFC 5545), each with a bell; one that is overdue stands at `now`.

    The steps that are still to do for what has to be ready are whole days.

    The same look has the same UID each time, so that a calendar that reads it again doubles nothing.
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Calm Tin//looks//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", gettext("Calm Tin: checks and deadlines"))
    for due, pour in looks:
        begins = now if due.is_due else due.at
        event = Event()
        event.add("uid", f"look-{pour.pk}-{due.look.slug}@calmtin")
        event.add("dtstamp", now)
        event.add("dtstart", begins)
        event.add("dtend", begins + LOOK_TAKES)
        event.add("summary", f"{due.look.name}: {pour.version.formula.name}, {pour.code}")
        event.add("url", address(reverse("checks:check", args=[pour.pk]) + f"?look={due.look.slug}"))
        event.add(
            "description",
            gettext("Press it with your thumb, note the temperature and look for signs of trouble."),
        )
        bell = Alarm()
        bell.add("action", "DISPLAY")
        bell.add("description", due.look.name)
        bell.add("trigger", timedelta(0))
        event.add_component(bell)
        calendar.add_component(event)
    for view in needs:
        for step in view.way.steps:
            if step.slug not in view.done:
                calendar.add_component(_day_of(view, step, now, address))
    return calendar.to_ical()


def _day_of(view: NeedView, step: Step, now: datetime, address: Callable[[str], str]) -> Event:
    need = view.need
    event = Event()
    event.add("uid", f"need-{need.pk}-{step.slug}@calmtin")
    event.add("dtstamp", now)
    event.add("dtstart", step.on)
    event.add("dtend", step.on + timedelta(days=1))
    event.add(
        "summary",
        said(
            "{name}: {name2}, {count} for {what_for}",
            name=step.name,
            name2=need.formula.name,
            count=need.count,
            what_for=need.what_for,
        ),
    )
    event.add("url", address(reverse("packing:deadlines")))
    return event
