"""Forms about the account and the bench."""

from __future__ import annotations

from typing import Any

from django import forms
from django.contrib.auth.forms import BaseUserCreationForm

from calmtin.accounts.models import Bench, User
from calmtin.common.fields import NumberField
from calmtin.core.units import celsius_to_fahrenheit, fahrenheit_to_celsius

TEMPERATURES = ("cold_c", "room_c", "hot_c")


class FirstAccountForm(BaseUserCreationForm):
    """A name and a password for the first maker of this installation."""

    class Meta:
        model = User
        fields = ["username"]


class BenchForm(forms.ModelForm):
    """The bench's own temperatures, typed in the unit that is in force."""

    cold_c = NumberField(label="The cold room", low=-40, high=180, places=1)
    room_c = NumberField(label="The room", low=-40, high=180, places=1)
    hot_c = NumberField(label="The hot day", low=-40, high=180, places=1)

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
        ]
        widgets = {
            "temperature_unit": forms.RadioSelect,
            "scale_step": forms.RadioSelect,
        }

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.in_fahrenheit = self.instance.temperature_unit == "F"
        for name in TEMPERATURES:
            if self.in_fahrenheit:
                self.initial[name] = round(celsius_to_fahrenheit(self.initial[name]), 1)
        for field in self.fields.values():
            field.widget.attrs.setdefault("class", "form-control")
        for name in ("temperature_unit", "scale_step"):
            self.fields[name].widget.attrs["class"] = "form-check-input"

    def clean(self) -> dict[str, Any]:
        """Take temperatures to C and refuse an order that makes no sense."""
        data = super().clean() or {}
        unit = "°F" if self.in_fahrenheit else "°C"
        limits = {"cold_c": (-20.0, 30.0), "room_c": (5.0, 35.0), "hot_c": (20.0, 80.0)}
        for name in TEMPERATURES:
            if name not in data:
                continue
            data[name] = float(data[name])
            if self.in_fahrenheit:
                data[name] = fahrenheit_to_celsius(data[name])
            low, high = limits[name]
            if not low <= data[name] <= high:
                if self.in_fahrenheit:
                    low, high = celsius_to_fahrenheit(low), celsius_to_fahrenheit(high)
                self.add_error(name, f"Type a temperature from {low:g} to {high:g} {unit}.")
        if not self.errors and not data["cold_c"] < data["room_c"] < data["hot_c"]:
            self.add_error("room_c", "The room must lie between the cold room and the hot day.")
        return data
