"""Files in and out."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from tempfile import TemporaryFile
from typing import Any

from django.contrib import messages
from django.http import FileResponse, HttpRequest, HttpResponse, StreamingHttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.text import slugify
from django.utils.translation import gettext
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from calmtin.common.idempotency import key_of
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said
from calmtin.exchange.formats.formula import import_formula, lines_csv, read_formula_file, write_formula
from calmtin.exchange.formats.log import COLUMNS as LOG_COLUMNS
from calmtin.exchange.formats.log import KNOWN_AS as LOG_KNOWN_AS
from calmtin.exchange.formats.log import SAMPLE as LOG_SAMPLE
from calmtin.exchange.formats.log import export_log, import_log, preview_log
from calmtin.exchange.formats.pantry import COLUMNS, KNOWN_AS, export_pantry, import_pantry, preview
from calmtin.exchange.formats.pantry import SAMPLE as PANTRY_SAMPLE
from calmtin.exchange.formats.spreadsheets import MOST_COLUMNS, header_of, with_header
from calmtin.exchange.forms import FileForm, PartForm, RecordsForm
from calmtin.exchange.import_process import run_for
from calmtin.exchange.records.pending_upload import drop, stash, stash_part, take_in_stashed
from calmtin.exchange.records.unmatched import unmatched_of
from calmtin.exchange.records.writing import one_state, write_records
from calmtin.formulas.models import Version
from calmtin.pantry.adapters import shelf_for

SAMPLES = {"pours": LOG_SAMPLE, "pantry": PANTRY_SAMPLE}
SHOWN = 200  # rows of an import that are listed


def _version(request: HttpRequest, pk: int, number: int) -> Version:
    return Version.objects.select_related("formula").own_or_404(request.user, formula_id=pk, number=number)


def _attached(text: str, kind: str, name: str) -> HttpResponse:
    response = HttpResponse(text, content_type=f"{kind}; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@require_safe
def formula_file(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Send a version as a formula file."""
    version = _version(request, pk, number)
    name = f"{slugify(version.formula.name) or 'formula'}-v{number}.json"
    return _attached(write_formula(version), "application/json", name)


@require_safe
def formula_csv(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Send a version's lines as CSV."""
    version = _version(request, pk, number)
    name = f"{slugify(version.formula.name) or 'formula'}-v{number}.csv"
    return _attached(lines_csv(version, shelf_for(request.user)), "text/csv", name)


@require_http_methods(["GET", "HEAD", "POST"])
def formula_import(request: HttpRequest) -> HttpResponse:
    """Start a formula from a file."""
    form = FileForm(request.POST or None, request.FILES or None)
    if request.method == "POST" and form.is_valid():
        try:
            text = form.cleaned_data["text"]
            warnings = read_formula_file(text, shelf_for(request.user)).warnings
            made = import_formula(request.user, text, request_key=key_of(request))
            for words in warnings:
                messages.warning(request, words)
            return redirect("formulas:formula", pk=made.pk)
        except CalmTinError as refused:
            form.add_error("file", str(refused))
    return render(request, "exchange/formula_import.html", {"form": form})


@require_safe
def pantry_csv(request: HttpRequest) -> HttpResponse:
    """Send the pantry as a file."""
    text = export_pantry(request.user, timezone.localdate())
    return _attached(text, "text/csv", "calm-tin-pantry.csv")


@require_http_methods(["GET", "HEAD", "POST"])
def pantry_import(request: HttpRequest) -> HttpResponse:
    """Look a file over row by row; import it once nothing is wrong and the maker agrees."""
    return _import(
        request,
        look=preview,
        bring_in=partial(import_pantry, request_key=key_of(request)),
        done="pantry:pantry",
        page="exchange/pantry_import.html",
        columns=COLUMNS,
        known_as=KNOWN_AS,
    )


def _import(
    request: HttpRequest,
    *,
    look: Callable[..., Sequence[Any]],
    bring_in: Callable[..., Sequence[Any] | None],
    done: str,
    page: str,
    columns: Sequence[str],
    known_as: Mapping[str, str],
) -> HttpResponse:
    """Show what each row of a file would do; bring it in as a whole once that is pressed.

    Columns can be named by hand, before anything is brought in.
    """
    form = FileForm(request.POST or None, request.FILES or None)
    context: dict[str, Any] = {"form": form, "columns": columns}
    if request.method == "POST" and form.is_valid():
        text, is_meant = form.cleaned_data["text"], "import" in request.POST
        asked = {n: request.POST.get(f"column_{n}") for n in range(MOST_COLUMNS)}
        named = {n: name for n, name in asked.items() if name is not None and name in ("", *columns)}
        if named:
            text = with_header(text, named)
        context |= {"text": text, "header": header_of(text, columns, known_as)}
        dates = context["dates"] = form.cleaned_data["dates"]
        try:
            run = partial(bring_in if is_meant else look, dates=dates)
            outcomes = run_for(run, request.user, text, size=len(text))
            if outcomes is None:  # sent twice: it was imported the first time
                return redirect(done)
            wrong = [o for o in outcomes if o.is_wrong]
            if is_meant and not wrong:
                messages.success(request, said("Imported {outcomes} rows.", outcomes=len(outcomes)))
                return redirect(done)
            context |= {"outcomes": (wrong or outcomes)[:SHOWN], "wrong": len(wrong)}
            context["rows"] = len(outcomes)
        except CalmTinError as refused:
            if refused.field in ("dates", "columns"):
                context[f"asks_{refused.field}"] = str(refused)
            else:
                form.add_error("file", str(refused))
    return render(request, page, context)


@require_safe
def sample(_: HttpRequest, of: str) -> HttpResponse:
    """Send a file as an import wants it, with two rows to write over."""
    return _attached(SAMPLES[of], "text/csv", f"calm-tin-{of}-sample.csv")


@require_safe
def log_csv(request: HttpRequest) -> StreamingHttpResponse:
    """Send the whole log as a file, pour by pour."""
    return StreamingHttpResponse(
        export_log(request.user, shelf_for(request.user)),
        content_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": 'attachment; filename="calm-tin-log.csv"'},
    )


@require_http_methods(["GET", "HEAD", "POST"])
def log_import(request: HttpRequest) -> HttpResponse:
    """Look old notes over row by row; bring them in once nothing is wrong and the maker agrees."""
    return _import(
        request,
        look=preview_log,
        bring_in=import_log,
        done="pours:list",
        page="exchange/log_import.html",
        columns=LOG_COLUMNS,
        known_as=LOG_KNOWN_AS,
    )


@require_safe
def records_file(request: HttpRequest) -> FileResponse:
    """Send everything of a maker as one file."""
    target = TemporaryFile()  # noqa: SIM115  # the response closes it
    with one_state(request.user):
        write_records(request.user, target)
    target.seek(0)
    name = f"calm-tin-records-{timezone.localdate():%Y-%m-%d}.zip"
    return FileResponse(target, as_attachment=True, filename=name, content_type="application/zip")


@require_POST
def records_part(request: HttpRequest) -> HttpResponse:
    """Keep a part of a large file of records; the page asks for it to be looked over once it is whole."""
    form = PartForm(request.POST, request.FILES)
    if not form.is_valid():
        raise CalmTinError(gettext("Part of the file is missing. Send the file again."), field="file")
    sent = form.cleaned_data
    stash_part(request.user, sent["part"].read(), at=sent["at"], size=sent["size"])
    return HttpResponse(status=204)


@require_http_methods(["GET", "HEAD", "POST"])
def records(request: HttpRequest) -> HttpResponse:
    """Offer all files out; look a file of records over, and take it in once the maker agrees."""
    form = RecordsForm(request.POST or None, request.FILES or None)
    context: dict[str, Any] = {"form": form, "unmatched": unmatched_of(request.user)}
    try:
        if "take_in" in request.POST:
            report = take_in_stashed(request.user)
            drop(request.user)
            messages.success(
                request, said("Imported: {words}", words=report.words) if report.added else report.words
            )
            return redirect("overview:today")
        is_here = "sent_in_parts" in request.POST
        if request.method == "POST" and (is_here or form.is_valid()):
            if not is_here:
                stash(request.user, form.cleaned_data["file"])
            context["report"] = take_in_stashed(request.user, only_look=True)
    except CalmTinError as refused:
        drop(request.user)
        context["refused"] = str(refused)
    return render(request, "exchange/records.html", context)
