"""Walk through the pages of a bench by their links, as a person could; a new page is walked unasked."""

from __future__ import annotations

from collections import Counter, deque
from collections.abc import Iterator
from typing import Any
from urllib.parse import urljoin, urlsplit

import lxml.html
from django.test import Client
from django.urls import Resolver404, resolve

NOT_FOLLOWED = {"accounts:sign_out", "exchange:records_file"}


def name_of(address: str) -> str:
    """Return the name of the view that an address leads to; nothing where it leads nowhere."""
    try:
        return resolve(urlsplit(address).path).view_name
    except Resolver404:
        return ""


def crawl(client: Client, *starts: str, each: int = 2) -> Iterator[tuple[str, Any]]:
    """Yield the address and the parsed page of every kind of page that links lead to.

    Of each kind `each` are walked. Files and pages of other sites are not pages.
    """
    waiting, seen, walked = deque(starts or ("/",)), set(starts or ("/",)), Counter[str]()
    while waiting:
        address = waiting.popleft()
        name = name_of(address)
        if not name or name in NOT_FOLLOWED or walked[name] >= each:
            continue
        response = client.get(address, follow=True)
        if response.redirect_chain:
            address = urljoin(address, response.redirect_chain[-1][0])
            name = name_of(address)
            if walked[name] >= each:
                continue
        assert response.status_code < 400, f"{address}: {response.status_code}"
        walked[name] += 1
        if not response.get("Content-Type", "").startswith("text/html"):
            continue
        page = lxml.html.fromstring(response.content.decode())
        yield address, page
        for link in page.iter("a"):
            to = urljoin(address, link.get("href") or "").partition("#")[0]
            if to.startswith("/") and to not in seen:
                seen.add(to)
                waiting.append(to)
