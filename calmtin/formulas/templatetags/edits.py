"""The small form of an edit: it says which state it was made for, and htmx or a browser may send it."""

from __future__ import annotations

import json
from typing import Any

from django import template
from django.template import Context
from django.template.defaulttags import CsrfTokenNode
from django.urls import reverse
from django.utils.html import format_html
from django.utils.safestring import SafeString

register = template.Library()


@register.simple_tag(takes_context=True)
def dose_told(context: Context, key: str = "", was: str = "") -> SafeString:
    """Attributes of a dose box that previews its effect while typed; without a key, for a new line."""
    version = context["view"].version
    return format_html(
        ' hx-get="{}" hx-trigger="input changed delay:300ms" hx-target="#will-{}" hx-swap="innerHTML"'
        ' hx-sync="this:replace" hx-include="{}" hx-vals="{}"',
        reverse("formulas:dose_preview", args=[version.formula_id, version.number]),
        key or "add",
        "this" if key else "#add-material, this",
        json.dumps({"key": key, "was": was}),
    )


@register.simple_block_tag(takes_context=True)
def edit(context: Context, content: SafeString, name: str, *args: Any, **attrs: Any) -> SafeString:
    """A form around `content` that posts one edit of the page's version to the address called `name`.

    `css` is its class and `on` what sends it; `page=True` leaves htmx out.
    """
    version = context["view"].version
    address = reverse(f"formulas:{name}", args=[version.formula_id, version.number, *args])
    css = format_html(' class="{}"', attrs["css"]) if attrs.get("css") else ""
    by_htmx = "" if attrs.get("page") else format_html(' hx-post="{}"', address)
    trigger = format_html(' hx-trigger="{}"', attrs["on"]) if attrs.get("on") else ""
    return format_html(
        '<form{} method="post" action="{}"{}{}>{}<input type="hidden" name="seen" value="{}">{}</form>',
        css,
        address,
        by_htmx,
        trigger,
        CsrfTokenNode().render(context),
        version.revision,
        content,
    )
