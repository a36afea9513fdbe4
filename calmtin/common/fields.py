"""Form fields that read numbers the way people type them."""

from __future__ import annotations

from abc import ABC, abstractmethod
from decimal import Decimal
from typing import TYPE_CHECKING, Any, cast

from django import forms
from django.core.validators import MaxValueValidator, MinValueValidator
from django.forms.renderers import TemplatesSetting
from django.forms.utils import flatatt
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import gettext_lazy

from calmtin.common.signed_boxes import sealed, unsealed
from calmtin.core.data.loader import drops_per_ml
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import FIRST_DAY, LAST_DAY
from calmtin.core.materials import Material
from calmtin.core.messages import digits, notation_in_force, said
from calmtin.core.quantities import Mass, Quantity, Temperature, Volume, shortest
from calmtin.core.recipe.boxes import read_grams, read_ml
from calmtin.core.units import read_money, read_number, read_temperature

if TYPE_CHECKING:
    from django_stubs_ext import StrOrPromise


def refuse(form: forms.BaseForm, refused: CalmTinError) -> None:
    """Show a service's refusal next to the field it names, or above the form."""
    form.add_error(refused.field if refused.field in form.fields else None, str(refused))


class Styled(forms.BaseForm):
    """Mixed into a form: its boxes look like the rest of the bench, and refusals are in our own words."""

    use_required_attribute = False

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name, field in self.fields.items():
            field.widget.attrs.setdefault("class", _style(field))
            if isinstance(field, QuantityField):
                field.keep(self.get_initial_for_field(field, name))
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
    """Give the choice field `name` of a form its present choices."""
    cast(forms.ChoiceField, form.fields[name]).choices = choices


class LongSelect(forms.Select):
    """A list of hundreds of choices, in groups or not: Django's own draws a template for each of them."""

    def render(self, name: str, value: Any, attrs: Any = None, renderer: Any = None) -> SafeString:
        """Return the list as HTML."""
        del renderer

        def options(choices: Any) -> SafeString:
            rows = (
                (v, mark_safe(" selected") if str(v) == str(value or "") else "", told)
                for v, told in choices
            )
            return format_html_join("", '<option value="{}"{}>{}</option>', rows)

        is_grouped = any(isinstance(told, list) for _, told in self.choices)
        groups = ((label, options(choices)) for label, choices in self.choices) if is_grouped else ()
        return format_html(
            "<select{}>{}</select>",
            flatatt({"name": name, **self.build_attrs(self.attrs, attrs)}),
            format_html_join("", '<optgroup label="{}">{}</optgroup>', groups)
            if is_grouped
            else options(self.choices),
        )


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
        subject: StrOrPromise = "",
        **kwargs: Any,
    ) -> None:
        super().__init__(**kwargs)
        self.subject = subject or self.label or gettext_lazy("This")
        self.low, self.high, self.unit, self.places = low, high, unit, places
        self.widget.attrs.update({"inputmode": "decimal", "autocomplete": "off"})

    def prepare_value(self, value: Any) -> Any:
        """Show a number with the bench's decimal sign; text that was typed stays as typed."""
        return value if value is None or isinstance(value, str) else digits(Decimal(shortest(value)))

    def clean(self, value: Any) -> Any:
        """Return the number as a Decimal, or None when an optional one is empty."""
        text = str(value if value is not None else "").strip()
        if not text and not self.required:
            return None
        try:
            return self.read(text)
        except CalmTinError as refused:
            raise forms.ValidationError(str(refused)) from refused

    def read(self, text: str) -> Any:
        """Return what `text` says; raises `CalmTinError` with what to type instead."""
        return read_number(
            text,
            name=str(self.subject),
            low=self.low,
            high=self.high,
            unit=self.unit,
            places=self.places,
            notation=notation_in_force(),
        )


_BOX = "box"


class _Typed(str):
    """The text of a box and the signed value that was sent with it."""

    shown = ""


class ShownInput(forms.TextInput):
    """A box with a signed hidden input that carries the exact value it was shown with."""

    template_name = "_shown_input.html"
    shown = ""

    def value_from_datadict(self, data: Any, files: Any, name: str) -> Any:
        """Return the typed text and the signed value that came back."""
        text = super().value_from_datadict(data, files, name)
        if not isinstance(text, str):
            return text
        typed = _Typed(text)
        typed.shown = self.shown = data.get(f"{name}-shown", "")
        return typed

    def get_context(self, name: str, value: Any, attrs: Any) -> dict[str, Any]:
        """Add what the box stands for."""
        context = super().get_context(name, value, attrs)
        context["widget"]["shown"] = self.shown
        return context


class QuantityField(NumberField, ABC):
    """A number with a kind: shown and read in the bench's unit, which its label names.

    A box that is left as it was shown means what stands there to the letter.
    """

    widget = ShownInput

    @abstractmethod
    def quantity(self, value: Any) -> Quantity:
        """Return a value of the field's with its kind."""

    def exact(self, value: Any) -> Any:
        """Return a value that is there as the field returns it."""
        return Decimal(str(value))

    def clean(self, value: Any) -> Any:
        """Return the exact value if the text is unchanged, else the value that was typed."""
        if isinstance(value, _Typed):
            text, exact = unsealed(value.shown).get(_BOX, ("", None))
            if text and text == value.strip():
                return self.exact(exact)
        return super().clean(value)

    def unit_shown(self) -> str:
        """Return the unit of a bare number in this box."""
        return self.quantity(self.low).unit(notation_in_force())

    def keep(self, value: Any) -> None:
        """Show a stored value, with its unit in the label."""
        if value not in (None, ""):
            exact = self.exact(value)
            self.widget.shown = sealed({_BOX: (self.prepare_value(exact), exact)})
        self.label = f"{self.label}, {self.unit_shown()}"

    def prepare_value(self, value: Any) -> Any:
        """Show a value in the bench's unit; text that was typed stays as typed."""
        if value is None or isinstance(value, str):
            return value
        return self.quantity(value).number(notation_in_force())


class VolumeField(QuantityField):
    """A volume in ml, typed in any unit of volume."""

    def __init__(self, *, low: float = 0.0, high: float, **kwargs: Any) -> None:
        super().__init__(low=low, high=high, unit="ml", places=2, **kwargs)

    def quantity(self, value: Any) -> Volume:
        """Return ml with their kind."""
        return Volume(self.exact(value))

    def read(self, text: str) -> Decimal:
        """Return the ml that `text` says."""
        notation = notation_in_force()
        return read_ml(text, name=str(self.subject), low=self.low, high=self.high, notation=notation)


class TemperatureField(QuantityField):
    """A temperature in C, typed in either unit; bounds are in C too."""

    def __init__(self, *, low: float, high: float, **kwargs: Any) -> None:
        super().__init__(low=low, high=high, places=1, **kwargs)

    def quantity(self, value: Any) -> Temperature:
        """Return degrees C with their kind."""
        return Temperature(self.exact(value), 1)

    def exact(self, value: Any) -> float:
        """Return degrees C."""
        return float(value)

    def read(self, text: str) -> float:
        """Return the degrees C that `text` says."""
        notation = notation_in_force()
        return read_temperature(
            text, name=str(self.subject), low_c=self.low, high_c=self.high, notation=notation
        )


class MoneyField(NumberField):
    """A sum of money, typed with its sign or without."""

    def __init__(self, *, high: float, **kwargs: Any) -> None:
        super().__init__(high=high, places=2, **kwargs)

    def prepare_value(self, value: Any) -> Any:
        """Show an amount of money to the hundredth; text that was typed stays as typed."""
        return value if value is None or isinstance(value, str) else digits(value, ".2f")

    def read(self, text: str) -> Decimal:
        """Return the sum that `text` says."""
        return read_money(text, name=str(self.subject), high=self.high, notation=notation_in_force())


def date_field(
    label: StrOrPromise, *, required: bool = False, missing: StrOrPromise = ""
) -> forms.DateField:
    """Return a field for a day, within the years that a bench can see."""
    return forms.DateField(
        label=label,
        required=required,
        validators=[
            MinValueValidator(FIRST_DAY, said("Type a day from {year} on.", year=FIRST_DAY.year)),
            MaxValueValidator(LAST_DAY, said("Type a day up to {year}.", year=LAST_DAY.year)),
        ],
        widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
        error_messages={
            "invalid": gettext_lazy("Type a day such as 2026-05-31."),
            "required": missing or gettext_lazy("Choose the day."),
        },
    )


def weighs(form: forms.BaseForm, name: str, material: Material) -> None:
    """Let the box `name` of a form take spoons, cups and drops of one material too."""
    cast(WeightField, form.fields[name]).material = material


class WeightField(QuantityField):
    """A weight in grams, typed in any unit; a bare number is in the unit of the bench's scale.

    `material`, once a form has set it, lets spoons, cups and drops be weighed too. What a scale shows is
    one amount: with `is_reading` no sum, product or range is taken.
    """

    material: Material | None = None

    def __init__(self, *, low: float = 0.0, high: float, is_reading: bool = False, **kwargs: Any) -> None:
        super().__init__(low=low, high=high, unit="g", places=2, **kwargs)
        self.is_reading = is_reading

    def widget_attrs(self, widget: forms.Widget) -> dict[str, Any]:
        """Return what a box for a number has, and that a touch screen shows keys for weights at it."""
        return super().widget_attrs(widget) | {"data-keypad": True}

    def quantity(self, value: Any) -> Mass:
        """Return grams with their kind."""
        return Mass(self.exact(value))

    def read(self, text: str) -> Decimal:
        """Return the grams that `text` says."""
        drops = drops_per_ml().get(self.material.slug) if self.material else None
        return read_grams(
            text,
            name=str(self.subject),
            low=self.low,
            high=self.high,
            material=self.material,
            drops_per_ml=drops,
            notation=notation_in_force(),
            is_reading=self.is_reading,
        )
