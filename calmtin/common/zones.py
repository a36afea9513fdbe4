"""Time zones: that of this machine, and those to choose from."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from zoneinfo import ZoneInfo, available_timezones

from django.conf import settings

LOCALTIME = Path("/etc/localtime")


@cache
def this_zone() -> str:
    """Return the zone that is in force where a bench names none: the one set, else the machine's own."""
    if settings.TIME_ZONE_SET:
        return str(settings.TIME_ZONE)
    try:
        found = str(LOCALTIME.resolve(strict=True)).partition("zoneinfo/")[2]
    except OSError:
        return str(settings.TIME_ZONE)
    return found if found in available_timezones() else str(settings.TIME_ZONE)


def zone_of(name: str) -> ZoneInfo:
    """Return a zone by its name, or this machine's."""
    return ZoneInfo(name if name in available_timezones() else this_zone())


@cache
def zones() -> list[tuple[str, str]]:
    """Return the zones of the world's places, by name."""
    return [(name, name.replace("_", " ")) for name in sorted(available_timezones()) if "/" in name]
