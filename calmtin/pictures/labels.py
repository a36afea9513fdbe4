"""Label sheets on paper: PDF, and the PNG that is a picture of that very PDF.

The type is Atkinson Hyperlegible Next, as on the screen, embedded into what is printed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache
from io import BytesIO
from pathlib import Path

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from calmtin.core.packing.layout import EDGE_MM, POINT_MM, Fitted, Run, Shape, Sheet, Type
from calmtin.pictures.qr import qr_code

FONTS = Path(__file__).parent / "fonts"
_FACES = {False: "CalmTinLabel", True: "CalmTinLabelBold"}
X_HEIGHT = 0.496  # of the size, as the font itself says
PNG_DPI = 300
BETWEEN_SLIPS = 4.0


@dataclass(frozen=True)
class Page:
    """A page of labels: where each stands, mm, and which it is; slips are cut out of plain paper."""

    width: float
    height: float
    placed: tuple[tuple[float, float, Fitted], ...]
    is_cut: bool = False


@cache
def label_type() -> Type:
    """Return the type of labels; its words are measured once."""
    for is_bold, name in _FACES.items():
        pdfmetrics.registerFont(
            TTFont(name, FONTS / ("label-bold.ttf" if is_bold else "label-regular.ttf"))
        )

    @cache
    def measure(word: str, bold: bool) -> float:
        return float(pdfmetrics.stringWidth(word, _FACES[bold], 1.0)) * POINT_MM

    return Type(measure, X_HEIGHT)


def pages_of(sheet: Sheet, label: Fitted, count: int, first: int) -> list[Page]:
    """Return the pages of `count` labels from the `first` place on, and those of their slips."""
    pages = [
        Page(sheet.page_w, sheet.page_h, tuple((x, y, label) for x, y in places))
        for places in sheet.places(count, first)
    ]
    if label.slip is None:
        return pages
    return [*pages, *_slips(sheet, label.slip, count)]


def _slips(sheet: Sheet, slip: Fitted, count: int) -> list[Page]:
    """Return the slips of `count` labels, side by side on pages of the same paper, or what holds one."""
    across, down = slip.shape.width_mm + BETWEEN_SLIPS, slip.shape.height_mm + BETWEEN_SLIPS
    wide = max(sheet.page_w, slip.shape.width_mm + 2 * EDGE_MM)
    high = max(sheet.page_h, slip.shape.height_mm + 2 * EDGE_MM)
    grid = replace(
        sheet,
        page_w=wide,
        page_h=high,
        shape=slip.shape,
        columns=int((wide - 2 * EDGE_MM + BETWEEN_SLIPS) // across),
        rows=int((high - 2 * EDGE_MM + BETWEEN_SLIPS) // down),
        left_mm=EDGE_MM,
        top_mm=EDGE_MM,
        across_mm=across,
        down_mm=down,
    )
    return [replace(page, is_cut=True) for page in pages_of(grid, slip, count, 1)]


def to_pdf(pages: Sequence[Page], *, title: str, cut_lines: bool = False) -> bytes:
    """Return pages of labels as a PDF, each as large as the paper, at its true size."""
    label_type()
    out = BytesIO()
    canvas = Canvas(out, pageCompression=1, invariant=1)
    canvas.setTitle(title)
    for page in pages:
        canvas.setPageSize((page.width / POINT_MM, page.height / POINT_MM))
        for x, y, label in page.placed:
            _draw(canvas, page.height, x, y, label)
            if cut_lines or page.is_cut:
                _outline(canvas, page.height, x, y, label.shape)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _draw(canvas: Canvas, page_height: float, x: float, y: float, label: Fitted) -> None:
    for run in label.runs:
        if run.is_scan:
            _draw_code(canvas, page_height - y - run.y, x + run.x, run)
            continue
        canvas.setFont(_FACES[run.bold], run.size_pt)
        canvas.drawString((x + run.x) / POINT_MM, (page_height - y - run.y) / POINT_MM, run.text)


LABEL_QUIET = 2  # the paper of a label is white beyond it


def _draw_code(canvas: Canvas, foot_mm: float, left_mm: float, run: Run) -> None:
    """Draw a code to scan, black module by module, its foot and left edge in mm from the page's corner."""
    code = qr_code(run.text, quiet=LABEL_QUIET)
    module = run.width / code.width / POINT_MM
    for x, y, length in code.dark:
        below = code.width - y - 1
        at = left_mm / POINT_MM + x * module, foot_mm / POINT_MM + below * module
        canvas.rect(*at, length * module, module, stroke=0, fill=1)


def _outline(canvas: Canvas, page_height: float, x: float, y: float, shape: Shape) -> None:
    canvas.setLineWidth(0.25)
    canvas.setStrokeGray(0.6)
    left, foot = x / POINT_MM, (page_height - y - shape.height_mm) / POINT_MM
    wide, high = shape.width_mm / POINT_MM, shape.height_mm / POINT_MM
    if shape.kind == "round":
        canvas.circle(left + wide / 2.0, foot + high / 2.0, wide / 2.0)
    else:
        canvas.rect(left, foot, wide, high)


def to_png(pdf: bytes, *, page: int = 0) -> bytes:
    """Return a page of a PDF as a PNG at 300 dpi: what will be on the paper."""
    import pypdfium2  # a tenth of a second at start-up, for what few ask for

    with pypdfium2.PdfDocument(pdf) as document:
        picture = document[page].render(scale=PNG_DPI / 72.0).to_pil()
    out = BytesIO()
    picture.convert("L").save(out, "PNG", dpi=(PNG_DPI, PNG_DPI), optimize=False)
    return out.getvalue()
