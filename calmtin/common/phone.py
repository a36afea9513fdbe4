"""What pages know of a phone on the local network; `config.phone` serves it."""

from __future__ import annotations

from django.http import HttpRequest

from calmtin.core.messages import gettext_noop

ON_THE_PHONE = "calmtin.phone"  # in the environ of a request that came over the local network
WITHOUT_HTTPS = gettext_noop(
    "Without https anyone on this network can read along, the phone’s screen does not stay awake, and "
    "nothing works while the connection is away. Start Calm Tin without --http to have all three."
)


def is_on_the_phone(request: HttpRequest) -> bool:
    """Return whether a request came over the local network and not from this machine."""
    return ON_THE_PHONE in request.META
