"""Files in and out."""

from __future__ import annotations

from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods

from calmtin.core.errors import CalmTinError
from calmtin.exchange.pantry_csv import COLUMNS, export_pantry, import_pantry, preview

SHOWN = 200


class CsvForm(forms.Form):
    """A file, or the text of one that was looked over before."""

    file = forms.FileField(required=False)
    text = forms.CharField(required=False, strip=False)

    def clean(self) -> dict[str, Any]:
        """Read the file as text."""
        data = super().clean() or {}
        if data.get("file"):
            try:
                data["text"] = data["file"].read().decode("utf-8-sig")
            except UnicodeDecodeError:
                self.add_error("file", "The file is not text in UTF-8. Save it as CSV UTF-8 and try again.")
        elif not data.get("text"):
            self.add_error("file", "Choose a CSV file first.")
        return data


@require_GET
def pantry_csv(request: HttpRequest) -> HttpResponse:
    """Send the pantry as a file."""
    response = HttpResponse(export_pantry(request.user, timezone.localdate()), content_type="text/csv")
    response["Content-Disposition"] = 'attachment; filename="calm-tin-pantry.csv"'
    return response


@require_http_methods(["GET", "POST"])
def pantry_import(request: HttpRequest) -> HttpResponse:
    """Look a file over row by row; import it once nothing is wrong and the maker agrees."""
    form = CsvForm(request.POST or None, request.FILES or None)
    context: dict[str, Any] = {"form": form, "columns": COLUMNS}
    if request.method == "POST" and form.is_valid():
        text = form.cleaned_data["text"]
        try:
            outcomes = (
                import_pantry(request.user, text)
                if "import" in request.POST
                else preview(request.user, text)
            )
            wrong = [o for o in outcomes if o.is_wrong]
            if "import" in request.POST and not wrong:
                messages.success(request, f"Imported {len(outcomes)} rows.")
                return redirect("pantry:pantry")
            context |= {"text": text, "outcomes": (wrong or outcomes)[:SHOWN], "wrong": len(wrong)}
            context["rows"] = len(outcomes)
        except CalmTinError as refused:
            form.add_error("file", refused.sentence)
    return render(request, "exchange/pantry_import.html", context)
