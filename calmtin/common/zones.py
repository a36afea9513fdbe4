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
    return found if found in known() else str(settings.TIME_ZONE)


@cache
def known() -> frozenset[str]:
    """Return the names of all zones: finding them reads some six hundred files."""
    return frozenset(available_timezones())


def zone_of(name: str) -> ZoneInfo:
    """Return a zone by its name, or this machine's."""
    return ZoneInfo(name if name in known() else this_zone())


@cache
def zones() -> list[tuple[str, str]]:
    """Return the zones of the world's places, by name."""
    return [(name, name.replace("_", " ")) for name in sorted(known()) if "/" in name]
