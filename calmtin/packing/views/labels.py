"""Labels: from a pour that has set to a sheet on paper."""

from __future__ import annotations

from base64 import b64encode
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.translation import gettext
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from calmtin.accounts.queries import bench_of
from calmtin.common.actions import address_at
from calmtin.common.fields import refuse
from calmtin.common.idempotency import key_of
from calmtin.common.numbers import whole_number
from calmtin.common.pages import commits, page_or_fragment
from calmtin.core.errors import CalmTinError
from calmtin.packing import services
from calmtin.packing.adapters import printed
from calmtin.packing.forms import SheetForm
from calmtin.packing.models import LabelPrint, LabelSheet
from calmtin.packing.queries.labels import labels_view
from calmtin.pantry.adapters import shelf_for
from calmtin.pictures.labels import FONTS, to_pdf, to_png
from calmtin.pours.models import Pour
from calmtin.pours.queries.record import pour_with_lines

NOT_ON_A_LABEL = ("checks__photos", "timers", "readings", "kept")


@require_http_methods(["GET", "HEAD", "POST"])
def labels(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the labels of a pour as they will be printed; POST prints them."""
    found = pour_with_lines(request.user, without=NOT_ON_A_LABEL, also=("label_prints",), pk=pk)
    if found.poured_at is None or found.is_rehearsal or found.called_off_at is not None:
        return redirect("pours:pour", pk=pk)
    typed = (request.POST if request.method == "POST" else request.GET).dict()
    view = labels_view(found, shelf_for(request.user), bench_of(request.user), typed)
    context: dict[str, Any] = {"view": view, "pour": found, "version": found.version}
    context["back"] = reverse("packing:labels", args=[pk])
    if commits(request) and view.can_print:
        try:
            made = services.print_labels(
                request.user,
                found,
                position=view.filled.position,
                **{word: view.boxes[word] for word in ("name", "what", "use", "note", "naming", "sheet")},
                is_own=view.is_own,
                count=view.count,
                first=view.first,
                cut_lines=view.cut_lines,
                request_key=key_of(request),
            )
            return redirect("packing:label_print", pk=made.pk)
        except CalmTinError as refused:
            context["problem"] = str(refused)
            context["stops"] = getattr(refused, "stops", [])
    return page_or_fragment(request, "packing/labels.html", "packing/_labels.html", context)


@require_safe
def scan(request: HttpRequest, pk: int) -> HttpResponse:
    """Lead from the code on a label to the check on a phone, or to the record of its pour."""
    found = Pour.objects.own_or_404(request.user, pk=pk)
    is_phone = "Mobi" in request.headers.get("User-Agent", "")
    return redirect(address_at("check", found.pk) if is_phone else reverse("pours:pour", args=[found.pk]))


@require_safe
def label_print(request: HttpRequest, pk: int) -> HttpResponse:
    """Show labels on record as they were printed, and offer them as files."""
    row = LabelPrint.objects.select_related("pour__version__formula").own_or_404(request.user, pk=pk)
    sheet, label, pages = printed(row)
    context = {"print": row, "sheet": sheet, "label": label, "pages": pages, "pour": row.pour}
    return render(request, "packing/label_print.html", context)


@require_safe
def label_file(request: HttpRequest, pk: int, kind: str) -> HttpResponse:
    """Send labels on record as a PDF, or a page of them as PNG or SVG."""
    row = LabelPrint.objects.select_related("pour").own_or_404(request.user, pk=pk)
    _, label, pages = printed(row)
    page = min(max(whole_number(request.GET.get("page")) or 1, 1), len(pages)) - 1
    name = f"{row.pour.code}-labels"
    if kind == "svg":
        fonts = {
            weight: b64encode((FONTS / f"label-{weight}.ttf").read_bytes()).decode()
            for weight in ("regular", "bold")
        }
        context = {"page": pages[page], "label": label, "fonts": fonts, "cut_lines": row.cut_lines}
        response = render(request, "pictures/label_sheet.svg", context, content_type="image/svg+xml")
    else:
        pdf = to_pdf(pages, title=f"{row.text['name']}, {row.pour.code}", cut_lines=row.cut_lines)
        response = (
            HttpResponse(pdf, content_type="application/pdf")
            if kind == "pdf"
            else HttpResponse(to_png(pdf, page=page), content_type="image/png")
        )
    where = "inline" if kind == "pdf" else "attachment"
    response["Content-Disposition"] = f'{where}; filename="{name}.{kind}"'
    return response


@require_http_methods(["GET", "HEAD", "POST"])
def label_sheets(request: HttpRequest) -> HttpResponse:
    """Show the maker's own sheets; POST keeps another."""
    form = SheetForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            services.keep_label_sheet(request.user, sheet=form.sheet, request_key=key_of(request))
            messages.success(request, gettext("Saved. You can now print labels on it."))
            return redirect("packing:label_sheets")
        except CalmTinError as refused:
            refuse(form, refused)
    sheets = LabelSheet.objects.of(request.user)
    return render(request, "packing/label_sheets.html", {"form": form, "sheets": sheets})


@require_POST
def label_sheet_drop(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a sheet off the list."""
    services.drop_label_sheet(request.user, LabelSheet.objects.own_or_404(request.user, pk=pk))
    return redirect(reverse("packing:label_sheets"))
