"""Where a maker is signed in: listed by device, and ended."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from hashlib import sha256
from importlib import import_module
from typing import Any

from django.conf import settings
from django.contrib.auth import SESSION_KEY
from django.contrib.sessions.models import Session
from django.http import HttpRequest
from django.utils import timezone

SINCE, DEVICE = "signed_in_at", "device"
# The first of these that a browser names itself by; Chrome's name stands in all of its kin.
_BROWSERS = {"Edg": "Edge", "OPR": "Opera", "SamsungBrowser": "Samsung Internet", "Firefox": "Firefox",
             "FxiOS": "Firefox", "CriOS": "Chrome", "Chrome": "Chrome", "Safari": "Safari"}  # fmt: skip
_SYSTEMS = {"iPhone": "iPhone", "iPad": "iPad", "Android": "Android", "Windows": "Windows",
            "CrOS": "ChromeOS", "Mac OS": "Mac", "Linux": "Linux"}  # fmt: skip


@dataclass(frozen=True)
class SignedIn:
    """A session: its public name, its device, since when, and whether it is this one."""

    name: str
    device: str
    since: datetime | None
    is_here: bool


def device_of(agent: str) -> str:
    """Return a browser and its system from the user-agent header.

    >>> device_of("Mozilla/5.0 (Android 14; Mobile; rv:140.0) Gecko/140.0 Firefox/140.0")
    'Firefox on Android'
    """
    browser = next((name for sign, name in _BROWSERS.items() if f"{sign}/" in agent), "a browser")
    system = next((name for sign, name in _SYSTEMS.items() if sign in agent), "")
    return f"{browser} on {system}" if system else browser


def note_sign_in(sender: object, request: HttpRequest | None, **_: Any) -> None:  # noqa: ARG001
    """Record in the session when and on which device the maker signed in."""
    if request is not None and hasattr(request, "session"):
        request.session[SINCE] = timezone.now().isoformat(timespec="seconds")
        request.session[DEVICE] = device_of(request.headers.get("User-Agent", ""))


def _name(key: str) -> str:
    """Return a public name for a session, since its key would let anyone in."""
    return sha256(key.encode()).hexdigest()[:16]


def _sessions_of(user: Any) -> Iterator[tuple[str, dict[str, Any]]]:
    for session in Session.objects.filter(expire_date__gt=timezone.now()):
        told = session.get_decoded()
        if told.get(SESSION_KEY) == str(user.pk):
            yield session.session_key, told


def signed_in(user: Any, here: str | None) -> list[SignedIn]:
    """Return where a maker is signed in, this session (`here` is its key) first, then the newest."""
    found = [
        SignedIn(
            _name(key),
            told.get(DEVICE, "a browser"),
            datetime.fromisoformat(told[SINCE]) if SINCE in told else None,
            key == here,
        )
        for key, told in _sessions_of(user)
    ]
    return sorted(found, key=lambda one: (not one.is_here, -(one.since.timestamp() if one.since else 0.0)))


def end_sessions(user: Any, *, name: str = "", but: str | None = None) -> int:
    """End the session of a maker called so, or all without a name; never the one with key `but`."""
    store = import_module(settings.SESSION_ENGINE).SessionStore
    ended = [key for key, _ in _sessions_of(user) if key != but and name in ("", _name(key))]
    for key in ended:
        store(key).delete()
    return len(ended)
