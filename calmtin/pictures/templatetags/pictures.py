"""Put a picture on a page: {% tin_section view.section %}."""

from functools import lru_cache
from typing import Any

from django import template
from django.template.loader import render_to_string
from django.utils.safestring import SafeString

from calmtin.pictures.labels import LABEL_QUIET
from calmtin.pictures.qr import qr_code
from calmtin.pictures.section import TinSection

register = template.Library()


@register.simple_tag
def tin_section(section: TinSection, small: bool = False, handles: bool = False) -> SafeString:
    """Show a formula as layers in a tin, with handles on the boundaries where asked for."""
    if small:
        return _small_tin(section)
    return render_to_string("pictures/tin_section.html", {"tin": section, "handles": handles})


@lru_cache(maxsize=2_048)
def _small_tin(section: TinSection) -> SafeString:
    """Return the small tin of a list: the same formula is drawn once."""
    return render_to_string("pictures/tin_section.html", {"tin": section, "small": True})


@register.inclusion_tag("pictures/ladder.html")
def ladder(picture: Any) -> dict[str, Any]:
    """Show the ladder with its words."""
    return {"ladder": picture}


@register.inclusion_tag("pictures/small_ladder.html")
def small_ladder(picture: Any) -> dict[str, Any]:
    """Show a ladder without words."""
    return {"small": picture}


@register.inclusion_tag("pictures/qr.html")
def qr(address: str) -> dict[str, Any]:
    """Show the QR code of an address."""
    return {"qr": qr_code(address)}


@register.inclusion_tag("pictures/code_to_scan.html")
def code_to_scan(run: Any) -> dict[str, Any]:
    """Show a code to scan at its place on a label."""
    code = qr_code(run.text, quiet=LABEL_QUIET)
    return {"run": run, "code": code, "scale": run.width / code.width}


@register.inclusion_tag("pictures/trio.html")
def trio_map(picture: Any) -> dict[str, Any]:
    """Show the trio map."""
    return {"map": picture}


@register.inclusion_tag("pictures/bar.html")
def bar(level: float, label: str) -> dict[str, Any]:
    """Show a short bar, 0 to 1."""
    return {"width": round(130.0 * min(1.0, max(0.0, level)), 1), "label": label}


@register.inclusion_tag("pictures/chip.html")
def chip(layer: str, size: int = 14) -> dict[str, Any]:
    """Show a square of a layer's colour and hatch."""
    return {"layer": layer, "size": size, "corner": round(size / 5)}


@register.inclusion_tag("pictures/label.html")
def label_picture(label: Any) -> dict[str, Any]:
    """Show one label as it will be printed."""
    return {
        "label": label,
        "width": label.shape.width_mm + 1.0,
        "height": label.shape.height_mm + 1.0,
    }


@register.inclusion_tag("pictures/label_page.html")
def label_page(page: Any) -> dict[str, Any]:
    """Show a page of labels as it will be printed."""
    return {"page": page}


@register.inclusion_tag("pictures/curve.html")
def softening_curve(picture: Any) -> dict[str, Any]:
    """Show the softening curve."""
    return {"curve": picture}


@register.inclusion_tag("pictures/fill_bench.html")
def fill_bench(picture: Any) -> dict[str, Any]:
    """Show containers to scale with their fill lines."""
    return {"bench": picture}


@register.inclusion_tag("pictures/grams_bar.html")
def grams_bar(pieces: Any) -> dict[str, Any]:
    """Show where every gram goes."""
    return {"pieces": pieces}


@register.inclusion_tag("pictures/clock.html")
def pour_clock(picture: Any) -> dict[str, Any]:
    """Show the temperature of a pot against time."""
    return {"clock": picture}


@register.inclusion_tag("pictures/scatter.html")
def said_and_felt(picture: Any) -> dict[str, Any]:
    """Show predicted against felt firmness."""
    return {"scatter": picture}


@register.inclusion_tag("pictures/beam.html")
def scale_beam(picture: Any, label: str) -> dict[str, Any]:
    """Show the load on the scale against its target."""
    return {"beam": picture, "label": label}


@register.inclusion_tag("pictures/time_ladder.html")
def time_ladder(picture: Any) -> dict[str, Any]:
    """Show felt firmness over time, several pours on one ladder."""
    return {"p": picture}


@register.inclusion_tag("pictures/curves.html")
def softening_curves(picture: Any) -> dict[str, Any]:
    """Show several softening curves in one picture."""
    return {"p": picture}
