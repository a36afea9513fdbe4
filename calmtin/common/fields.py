"""Form fields that read numbers the way people type them."""

from __future__ import annotations

from decimal import Decimal
from typing import Any, cast

from django import forms
from django.forms.renderers import TemplatesSetting

from calmtin.common.degrees import in_unit
from calmtin.core.errors import CalmTinError, UnreadableNumber
from calmtin.core.units import read_number


def refuse(form: forms.BaseForm, refused: CalmTinError) -> None:
    """Say a service's refusal at the field that it is about, or above the form where there is none."""
    said = in_unit(refused.sentence, getattr(form, "unit", "C"))
    form.add_error(refused.field if refused.field in form.fields else None, said)


class Styled(forms.BaseForm):
    """Mixed into a form: its boxes look like the rest of the bench, and refusals are in our own words."""

    use_required_attribute = False

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for field in self.fields.values():
            field.widget.attrs.setdefault("class", _style(field))
            # A browser's memory of other forms is no help at the bench.
            if type(field.widget) is forms.TextInput and "username" not in self.fields:
                field.widget.attrs.setdefault("autocomplete", "off")


def _style(field: forms.Field) -> str:
    ticks = forms.CheckboxSelectMultiple | forms.CheckboxInput | forms.RadioSelect
    if isinstance(field.widget, ticks):
        return "form-check-input"
    if isinstance(field.widget, forms.Select):
        return "form-select"
    return "form-control box" if isinstance(field, NumberField) else "form-control"


class Renderer(TemplatesSetting):
    """Draws every field by one template; a form says `{{ form.name.as_field_group }}`."""

    field_template_name = "_field.html"


def offer(form: forms.BaseForm, name: str, choices: list[Any]) -> None:
    """Give the choice field `name` of a form what there is to choose from just now."""
    cast(forms.ChoiceField, form.fields[name]).choices = choices


class NumberField(forms.CharField):
    """A number with a point or a comma, within limits; refuses with what to type.

    `subject` begins the sentence of a refusal where that is not the label.
    """

    widget = forms.TextInput

    def __init__(
        self,
        *,
        low: float = 0.0,
        high: float,
        unit: str = "",
        places: int = 3,
        subject: str = "",
        **kwargs: Any,
    ) -> None:
        super().__init__(**kwargs)
        self.subject = subject or str(self.label or "This")
        self.low, self.high, self.unit, self.places = low, high, unit, places
        self.widget.attrs.update({"inputmode": "decimal", "autocomplete": "off"})

    def clean(self, value: Any) -> Decimal | None:
        """Return the number as a Decimal, or None when an optional one is empty."""
        text = str(value if value is not None else "").strip()
        if not text and not self.required:
            return None
        try:
            return read_number(
                text,
                name=self.subject,
                low=self.low,
                high=self.high,
                unit=self.unit,
                places=self.places,
            )
        except UnreadableNumber as refused:
            raise forms.ValidationError(refused.sentence) from refused
