"""Forms about the account and the bench."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from axes.handlers.proxy import AxesProxyHandler
from django import forms
from django.contrib.auth import authenticate
from django.contrib.auth.forms import BaseUserCreationForm, PasswordChangeForm
from django.http import HttpRequest
from django.utils.translation import gettext, gettext_lazy

from calmtin.accounts.models import Bench, User
from calmtin.common.fields import (
    LongSelect,
    MoneyField,
    NumberField,
    Styled,
    TemperatureField,
    WeightField,
    offer,
)
from calmtin.common.templatetags.calm import signs
from calmtin.common.zones import this_zone, zones
from calmtin.core.limits import BUYING_DAYS, COLD_C, HOT_C, MARGIN_PCT, PRICE, ROOM_C
from calmtin.core.messages import said
from calmtin.core.quantities import celsius_to_fahrenheit, fahrenheit_to_celsius

if TYPE_CHECKING:
    from django_stubs_ext import StrOrPromise

TEMPERATURES = ("cold_c", "room_c", "hot_c")


PASSWORD_WORDS = gettext_lazy("At least ten characters. Don’t use a common word, your name or only digits.")


def _in_plain_words(form: forms.BaseForm, **hints: StrOrPromise) -> None:
    """Put our own words under the boxes of a form of Django's; a box without any has no hint."""
    for name, field in form.fields.items():
        field.help_text = hints.get(name, "")


def decimals() -> forms.TypedChoiceField:
    """Return a field for how decimals are written."""
    return forms.TypedChoiceField(
        label=gettext("Decimals"),
        required=False,
        empty_value=None,
        coerce=lambda value: value == "True",
        choices=[
            ("", gettext("as usual in this browser’s language")),
            ("False", gettext("1.5, and 1,000 is a thousand")),
            ("True", gettext("1,5, and 1.000 is a thousand")),
        ],
        widget=forms.RadioSelect,
    )


class FirstAccountForm(Styled, BaseUserCreationForm):  # type: ignore[type-arg]
    """A name and a password for the first maker of this installation."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        _in_plain_words(
            self,
            username=gettext("Letters, digits and @ . + - _ only, no spaces."),
            password1=PASSWORD_WORDS,
        )
        self.fields["password2"].label = gettext("Repeat the password")

    class Meta:
        model = User
        fields = ["username"]


def _offer_steps(form: forms.BaseForm, name: str) -> None:
    """Write the steps of scales with the bench's decimal sign."""
    offer(form, name, [(step, signs(str(words))) for step, words in Bench.ScaleStep.choices])


class BenchForm(Styled, forms.ModelForm):  # type: ignore[type-arg]
    """The bench's own temperatures, typed in the unit that is in force."""

    cold_c = TemperatureField(label=gettext_lazy("The cold room"), low=COLD_C[0], high=COLD_C[1])
    room_c = TemperatureField(label=gettext_lazy("The room"), low=ROOM_C[0], high=ROOM_C[1])
    hot_c = TemperatureField(label=gettext_lazy("The hot day"), low=HOT_C[0], high=HOT_C[1])

    decimal_comma = decimals()

    label_maker = forms.CharField(label=gettext_lazy("Your name on labels"), max_length=60, required=False)
    label_place = forms.CharField(label=gettext_lazy("Address on labels"), max_length=80, required=False)
    label_address = forms.URLField(
        label=gettext_lazy("Bench address, for a code to scan on labels"),
        max_length=120,
        required=False,
        assume_scheme="https",
        help_text=gettext_lazy("What a phone opens this bench at. Left empty, no code is printed."),
        error_messages={"invalid": gettext_lazy("Enter an address such as https://192.168.0.7:8443/.")},
    )
    currency = forms.CharField(label=gettext_lazy("Currency"), max_length=4, required=False)
    hour_costs = MoneyField(label=gettext_lazy("Hourly rate"), high=PRICE[1], required=False)
    label_costs = MoneyField(label=gettext_lazy("Label and packing, each"), high=PRICE[1], required=False)
    margin_pct = NumberField(label=gettext_lazy("Margin, %"), high=MARGIN_PCT[1], places=1)
    buying_days = NumberField(
        label=gettext_lazy("Days for an order to arrive"), high=BUYING_DAYS[1], places=0
    )
    time_zone = forms.ChoiceField(label=gettext_lazy("Time zone"), required=False, widget=LongSelect)

    class Meta:
        model = Bench
        fields = [
            "cold_name",
            "cold_c",
            "room_c",
            "hot_name",
            "hot_c",
            "temperature_unit",
            "scale_step",
            "decimal_comma",
            "cups",
            "label_maker",
            "label_place",
            "label_address",
            "currency",
            "hour_costs",
            "label_costs",
            "margin_pct",
            "buying_days",
            "time_zone",
            "theme",
            "letter_keys",
        ]
        widgets = {
            "theme": forms.RadioSelect,
            "temperature_unit": forms.RadioSelect,
            "scale_step": forms.RadioSelect,
            "cups": forms.RadioSelect,
        }

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        _offer_steps(self, "scale_step")
        offer(
            self,
            "time_zone",
            [("", said("as on this computer ({this_zone})", this_zone=this_zone())), *zones()],
        )

    def clean(self) -> dict[str, Any]:
        """Refuse an order of temperatures that makes no sense."""
        data = super().clean() or {}
        if not self.errors and not data["cold_c"] < data["room_c"] < data["hot_c"]:
            self.add_error("room_c", gettext("The room must lie between the cold room and the hot day."))
        return data


class FirstBenchForm(Styled, forms.ModelForm):  # type: ignore[type-arg]
    """The few things that every number depends on, with likely answers in."""

    room_c = forms.TypedChoiceField(
        label=gettext_lazy("The room is usually"),
        coerce=float,
        choices=[
            ("18.0", gettext_lazy("cool, 18 °C or 64 °F")),
            ("21.0", gettext_lazy("21 °C or 70 °F")),
            ("25.0", gettext_lazy("warm, 25 °C or 77 °F")),
        ],
        widget=forms.RadioSelect,
    )

    class Meta:
        model = Bench
        fields = ["scale_step", "temperature_unit", "room_c", "decimal_comma", "cups"]
        widgets = dict.fromkeys(("scale_step", "temperature_unit", "cups"), forms.RadioSelect)

    decimal_comma = decimals()

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        _offer_steps(self, "scale_step")

    def clean(self) -> dict[str, Any]:
        """Keep whole degrees of the thermometer that the bench has: 70 °F does not become 69.8."""
        data = super().clean() or {}
        if data.get("temperature_unit") == "F":
            if "room_c" in data:
                data["room_c"] = fahrenheit_to_celsius(round(celsius_to_fahrenheit(data["room_c"])))
            for name in ("cold_c", "hot_c"):
                usual = getattr(self.instance, name)
                setattr(self.instance, name, fahrenheit_to_celsius(round(celsius_to_fahrenheit(usual))))
        return data


class ScaleForm(Styled, forms.Form):
    """A scale beside the kitchen scale."""

    name = forms.CharField(
        max_length=40, error_messages={"required": gettext_lazy("Give the scale a name.")}
    )
    step = forms.ChoiceField(
        label=gettext_lazy("Reads in steps of"), choices=Bench.ScaleStep.choices, initial="0.01"
    )
    capacity_g = WeightField(label=gettext_lazy("Maximum weight"), low=0.1, high=50_000)
    least_g = WeightField(
        label=gettext_lazy("Accurate from"),
        high=5_000,
        required=False,
        help_text=gettext_lazy("If empty, from ten steps."),
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        _offer_steps(self, "step")


class MakerForm(Styled, forms.Form):
    """A name and a password for another maker of the household."""

    username = forms.CharField(
        label=gettext_lazy("Username"), max_length=150, validators=[User.username_validator]
    )
    password1 = forms.CharField(
        label=gettext_lazy("Password"),
        max_length=200,
        strip=False,
        widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}),
    )
    password2 = forms.CharField(
        label=gettext_lazy("Repeat the password"),
        max_length=200,
        strip=False,
        widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}),
    )

    def clean(self) -> dict[str, Any]:
        """Refuse two passwords that differ."""
        data = super().clean() or {}
        if not self.errors and data["password1"] != data["password2"]:
            self.add_error("password2", gettext("The passwords don’t match. Type the same one twice."))
        return data


class NewPasswordForm(MakerForm):
    """A new password for a maker who is known already."""

    username = None  # type: ignore[assignment]  # how Django drops a field


class OwnPasswordForm(Styled, PasswordChangeForm):
    """A maker's own new password; wrong tries at the old one are counted like those of the sign-in."""

    def __init__(self, *args: Any, request: HttpRequest, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.request = request
        _in_plain_words(self, new_password1=PASSWORD_WORDS)
        self.fields["new_password2"].label = gettext("Repeat the new password")

    def clean_old_password(self) -> str:
        """Check the old password by the door's own rules."""
        old: str = self.cleaned_data["old_password"]
        name = self.user.get_username()
        if not AxesProxyHandler.is_allowed(self.request, {"username": name}):
            raise forms.ValidationError(
                gettext("The password was wrong eight times. Try again in 15 minutes.")
            )
        if authenticate(self.request, username=name, password=old) is None:
            raise forms.ValidationError(gettext("That is not your current password. Type it again."))
        return old
