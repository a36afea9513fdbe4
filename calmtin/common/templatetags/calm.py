"""How numbers are written, in one place."""

from __future__ import annotations

import re
from dataclasses import replace
from decimal import Decimal
from typing import Any

from django import template
from django.template import Context
from django.template.loader import render_to_string
from django.utils.html import format_html, format_html_join
from django.utils.safestring import mark_safe
from django.utils.text import slugify
from django.utils.translation import gettext

from calmtin.common.actions import Action, actions_at, address_at, panels_at, section_of
from calmtin.common.glossary import meanings
from calmtin.common.help_links import answer_address, question_of
from calmtin.common.notation import scale_weight
from calmtin.common.numbers import plain
from calmtin.common.pages import RECALCULATE
from calmtin.core.allergens import allergen_words
from calmtin.core.messages import notation_in_force
from calmtin.core.notation import Notation, ScaleUnit
from calmtin.core.quantities import OUNCE_G, Degrees, Temperature, Volume, in_signs, real_minus, shortest

register = template.Library()


def _shown(digits: str) -> str:
    """Return digits as the maker at work reads them: a real minus, and the bench's decimal sign."""
    return in_signs(real_minus(digits), notation_in_force())


@register.filter
def percent(value: Any) -> str:
    """Write a percentage with one decimal, or as many of three as it was given."""
    exact = Decimal(str(value)).quantize(Decimal("0.001"))
    text = f"{exact:f}".rstrip("0")
    whole, _, decimals = text.partition(".")
    return _shown(f"{whole}.{decimals or '0'}")


@register.filter
def hundredths(value: Any) -> str:
    """Write a percentage that was worked out: one decimal, or two where it has them."""
    return percent(Decimal(str(value)).quantize(Decimal("0.01")))


@register.filter
def one(value: Any) -> str:
    """Write a number with one decimal; nothing for None. Never "-0.0"."""
    if value is None or value == "":
        return ""
    return _shown(f"{float(value):.1f}")


@register.filter
def px(value: float, digits: int = 1) -> str:
    """Write a place in a picture: Django's own filter goes by way of text, thousands of times a page."""
    return f"{value:.{digits}f}"


@register.filter
def signed(value: Any) -> str:
    """Write a difference with its sign, and a real minus."""
    number = round(float(value), 1) + 0.0
    return _shown(f"{number:+.1f}" if number else "0.0")


@register.filter
def fixed(value: Any, places: int = 0) -> str:
    """Write a number to `places` decimals; nothing for None."""
    return "" if value is None or value == "" else _shown(f"{float(value):.{places}f}")


@register.filter
def short(value: Any, places: int = 2) -> str:
    """Write a number with its shortest digits, `places` decimals at most; nothing for None."""
    if value is None or value == "":
        return ""
    return _shown(shortest(Decimal(str(value)).quantize(Decimal(1).scaleb(-places))))


@register.filter
def dose(value: Any) -> str:
    """Write a small amount with one decimal, or as many of three as it has below that."""
    return percent(round(float(value), 3 if float(value) < 1 else 2))


def scale_unit() -> ScaleUnit:
    """What the bench's scale shows: grams or ounces."""
    return notation_in_force().scale_unit


@register.filter
def weight(value: Any) -> str:
    """Write grams with their unit, as the bench's scale shows them: "12.4 g" or "0.44 oz"."""
    return f"{grams(value)} {scale_unit()}"


@register.simple_tag
def unit() -> str:
    """The unit of the bench's scale, shown next to a weight."""
    return scale_unit()


@register.simple_tag
def decimal_sign() -> str:
    """The bench's decimal sign: a point or a comma."""
    return in_signs(".", notation_in_force())


@register.simple_tag
def such_weight() -> str:
    """An example of a weight: "12 g", or "0.4 oz" where the scale shows ounces."""
    return "12 g" if scale_unit() == "g" else f"{_shown('0.4')} oz"


@register.simple_tag
def volume_unit() -> str:
    """The unit of volumes, shown next to a box."""
    return Volume(0).unit(notation_in_force())


@register.filter
def grams(value: Any) -> str:
    """Write grams as the scale shows them: two decimals below 1 g when there are some; or in ounces."""
    if value is None or value == "":
        return ""
    exact = Decimal(str(value))
    if scale_unit() == "oz":
        return scale_weight(exact)
    places = Decimal("0.01") if exact != exact.quantize(Decimal("0.1")) and exact < 10 else Decimal("0.1")
    return _shown(f"{exact.quantize(places):f}")


def _in_degrees(unit: str) -> Notation:
    return replace(notation_in_force(), temperature_unit="F" if unit == "F" else "C")


@register.filter
def temp(value_c: Any, unit: str = "C") -> str:
    """Write a temperature, kept in C, in the person's own unit."""
    if value_c is None or value_c == "":
        return "–"
    return Temperature(float(value_c), 1).number(_in_degrees(unit)) + "°"


@register.filter
def degrees(step_k: Any) -> str:
    """Write a step between two temperatures with its unit: "5 °C", "9 °F"."""
    return Degrees(float(step_k)).written(notation_in_force())


@register.filter
def volume(ml: Any) -> str:
    """Write a volume with its unit: "60 ml", or "2.03 fl oz" where weights are in ounces."""
    return "" if ml is None or ml == "" else Volume(float(ml)).written(notation_in_force())


@register.filter
def times(text: str) -> str:
    """Write a factor as it is printed: 0.6 × (0.5–0.7)."""
    return re.sub(r"(?<=\d)-(?=\d)", "–", str(text).replace(" x", " ×"))


@register.filter
def whole_temp(value_c: Any, unit: str = "C") -> str:
    """Write a worked-out temperature, kept in C, in whole degrees of the person's own unit."""
    if value_c is None or value_c == "":
        return "–"
    return Temperature(float(value_c)).number(_in_degrees(unit)) + "°"


@register.filter
def normal(value: Any) -> str:
    """Write grams in the steps they came in: "4.8", "12", "0.25"; nothing for None. Or in ounces."""
    if value is None or value == "":
        return ""
    return scale_weight(Decimal(str(value)))


@register.filter
def normal_to(value: Any, places: str) -> str:
    """Write grams that were worked out, to `places`; or in ounces."""
    return scale_weight(Decimal(str(value)).quantize(Decimal(places)))


@register.filter
def grams_as(value: Any, unit: str) -> str:
    """Write grams with the unit that a page has chosen, whatever the scale's own is."""
    exact = Decimal(str(value))
    if unit == "oz":
        return f"{_shown(plain((exact / OUNCE_G).quantize(Decimal('0.001'))))} oz"
    return f"{_shown(plain(exact.quantize(Decimal('0.01'))))} g"


@register.filter
def in_steps(value: Any, step: Any) -> str:
    """Write grams with as many decimals as the scale shows; nothing for None."""
    if value is None or value == "":
        return ""
    exact, smallest = Decimal(str(value)), Decimal(str(step))
    if scale_unit() == "oz":
        exact, smallest = exact / OUNCE_G, smallest / OUNCE_G
    smallest = smallest.quantize(Decimal("0.001") if scale_unit() == "oz" else Decimal("0.01"))
    return _shown(f"{exact.quantize(smallest.normalize()):f}")


@register.filter
def signed_grams(value: Any) -> str:
    """Write a weight difference with its sign, in the steps it came in."""
    exact = Decimal(str(value))
    told = normal(abs(exact))
    if not told.strip("0.,"):
        return told
    return ("+" if exact > 0 else "−") + told


@register.filter
def range_end(value: Any) -> str:
    """Write the end of a range in grams: whole above 20, else two figures or so; or in ounces."""
    if scale_unit() == "oz":
        return _shown(f"{float(value) / float(OUNCE_G):.2g}")
    return _shown(f"{float(value):.0f}" if float(value) >= 20 else f"{float(value):.2g}")


@register.filter
def signs(text: str) -> str:
    """Write a text of ours that holds digits, such as "0.1 g", with the bench's decimal sign."""
    return in_signs(text, notation_in_force())


@register.filter
def get(mapping: Any, key: Any) -> Any:
    """Look a key up in a mapping; nothing where it is not there."""
    return mapping.get(key, "")


@register.filter
def add_floats(value: Any, other: Any) -> str:
    """Write the sum of two numbers of a picture, which always has a point."""
    return shortest(round(float(value) + float(other), 3))


@register.filter
def minus(value: Any, other: Any) -> float:
    """Return the difference of two numbers."""
    return float(value) - float(other)


@register.filter
def words(text: str) -> list[str]:
    """Split a text at its spaces."""
    return text.split()


@register.filter
def share(value: Any) -> str:
    """Write a share of 0 to 1 as a whole percentage."""
    return f"{_shown(f'{100 * float(value):.0f}')} %"


@register.filter
def allergen(flag: str) -> str:
    """Write an allergen's flag, such as "tree_nut", in words."""
    return allergen_words(flag)


@register.filter
def as_percent(value: Any) -> str:
    """Write a share of 0 to 1 in percent, to two decimals at most."""
    return hundredths(Decimal(str(value)) * 100)


@register.simple_tag(takes_context=True)
def money(context: Any, value: Any, currency: str | None = None) -> str:
    """Write money with two decimals, such as "£8.67" or "8.67 CHF"; in the bench's currency by default."""
    number = _shown(f"{Decimal(str(value)):.2f}")
    if currency is None:
        currency = getattr(context.get("bench"), "currency", "")
    return f"{currency}{number}" if len(currency) == 1 else f"{number} {currency}".strip()


@register.simple_tag
def priced_weight() -> str:
    """The weight that prices are quoted for: 100 g, or an ounce where the scale shows ounces."""
    return "100 g" if scale_unit() == "g" else "1 oz"


@register.simple_tag(takes_context=True)
def price(context: Any, value: Any, of_grams: int = 1) -> str:
    """Write what `of_grams` cost as a price per quoted weight."""
    return money(context, priced(value, of_grams))


def priced(value: Any, of_grams: int) -> Decimal:
    """Return the price of the quoted weight, given that `of_grams` cost `value`."""
    weight_g = Decimal(100) if scale_unit() == "g" else OUNCE_G
    return Decimal(str(value)) * weight_g / of_grams


@register.filter
def group_name(slug: str) -> str:
    """Write a group of materials as the shelf does."""
    names = {
        "wax": gettext("Waxes"),
        "butter": gettext("Butters"),
        "soft_fat": gettext("Soft fats"),
        "oil": gettext("Liquid oils"),
        "antioxidant": gettext("Antioxidants"),
        "scent": gettext("Scents"),
        "powder": gettext("Powders"),
        "colour": gettext("Colours"),
        "water_bearing": gettext("Water-based (not for balms)"),
    }
    return names.get(slug, "Other")


@register.simple_tag
def actions(place: str, *keys: int) -> list[tuple[Action, str]]:
    """What apps above let a maker do from here, with addresses: {% actions "pantry" as more %}."""
    return actions_at(place, *keys)


register.simple_tag(address_at)


@register.simple_tag(takes_context=True)
def panels(context: Context, place: str, row: Any) -> str:
    """Parts that apps above add to this page: {% panels "pour" view.pour %}."""
    request = context.get("request")
    return format_html_join(
        "", "{}", ((render_to_string(p.template, p.of(row), request),) for p in panels_at(place))
    )


@register.simple_tag(name="section_of")
def section(view: str | None) -> str:
    """The section of the navigation that a page belongs to."""
    return section_of(view or "")


@register.simple_tag
def ask(slug: str) -> str:
    """A question mark that leads to the answer of a question of the help."""
    return format_html(
        '<a class="ask" href="{}" aria-label="{}">?</a>', answer_address(slug), question_of(slug)
    )


@register.simple_tag
def answer(slug: str) -> str:
    """The address of the answer to a question of the help."""
    return answer_address(slug)


@register.simple_tag
def term(word: str, shown: str = "") -> str:
    """A word with a dotted underline and its meaning: by mouse, finger and keyboard (HTML, popover)."""
    meaning, key = meanings()[word], slugify(word)
    return format_html(
        '<button type="button" class="term" popovertarget="term-{}" title="{}">{}</button>'
        '<span popover id="term-{}" class="term-card"><strong>{}</strong>: {}</span>',
        key, meaning, shown or word, key, word.capitalize(), meaning,
    )  # fmt: skip


@register.simple_tag
def send_once() -> str:
    """A hidden key that makes a form count once, however often it is sent."""
    from uuid import uuid4

    return format_html('<input type="hidden" name="request_key" value="{}">', uuid4())


@register.simple_tag
def enter_moves_on() -> str:
    """What a form that creates something begins with: Enter in its boxes does not send it.

    Browsers press a form's first submit button for Enter, and nothing where that is disabled (HTML,
    implicit submission). `enter.js` then goes to the next box.
    """
    return mark_safe(
        '<button class="visually-hidden" disabled tabindex="-1" aria-hidden="true" data-enter></button>'
    )


@register.simple_tag
def enter_recalculates() -> str:
    """What a form that is worked out as it is typed begins with: Enter works it out and commits nothing.

    Its view asks `commits`.
    """
    return format_html(
        '<button class="visually-hidden" name="{}" value="yes" tabindex="-1" aria-hidden="true" data-enter>'
        "Recalculate</button>",
        RECALCULATE,
    )
