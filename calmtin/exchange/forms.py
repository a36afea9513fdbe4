"""Parse a file that was sent."""

from __future__ import annotations

from typing import Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from calmtin.core.limits import FILE_BYTES, PART_BYTES, RECORDS_BYTES
from calmtin.core.messages import said


class FileForm(forms.Form):
    """A file, or the text of one that was looked over before."""

    file = forms.FileField(required=False)
    text = forms.CharField(required=False, strip=False)
    dates = forms.ChoiceField(choices=[("", ""), ("day", ""), ("month", "")], required=False)

    def clean(self) -> dict[str, Any]:
        """Read the file as text."""
        data = super().clean() or {}
        if data.get("file") and data["file"].size > FILE_BYTES:
            self.add_error(
                "file", said("The file is larger than {file_bytes} MB.", file_bytes=FILE_BYTES // 1000000)
            )
        elif data.get("file"):
            try:
                data["text"] = data["file"].read().decode("utf-8-sig")
            except UnicodeDecodeError:
                self.add_error(
                    "file", gettext("The file is not text in UTF-8. Save it as UTF-8 and try again.")
                )
        elif not data.get("text"):
            self.add_error("file", gettext("Choose a file first."))
        return data


class PartForm(forms.Form):
    """A part of a large file of records: where it begins, and how large the whole is."""

    part = forms.FileField()
    at = forms.IntegerField(min_value=0)
    size = forms.IntegerField(min_value=1, max_value=RECORDS_BYTES)

    def clean_part(self) -> Any:
        """Refuse a part that is larger than a page sends."""
        part = self.cleaned_data["part"]
        if part.size > PART_BYTES:
            raise forms.ValidationError(gettext("The part is too large."))
        return part


class RecordsForm(forms.Form):
    """An exported file of a maker."""

    file = forms.FileField(error_messages={"required": gettext_lazy("Choose a file first.")})

    def clean_file(self) -> Any:
        """Refuse a file that is larger than any bench."""
        file = self.cleaned_data["file"]
        if file.size > RECORDS_BYTES:
            raise forms.ValidationError(
                said("The file is larger than {records_bytes} MB.", records_bytes=RECORDS_BYTES // 1000000)
            )
        return file
