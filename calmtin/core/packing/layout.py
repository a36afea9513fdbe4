"""Set the words of a label into its shape, at a size that can be read; and labels onto a sheet.

All lengths are in mm from the top left corner, type sizes in points. The least size is that whose
small letters stand 0.9 mm high, the least that Regulation (EU) 1169/2011, article 13 (3), allows on
a small pack of food; for cosmetics the law says only "easily legible", so it serves as a rule here.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from calmtin.core.errors import CalmTinError, DoesNotFit
from calmtin.core.messages import Message, gettext_noop, said
from calmtin.core.packing.label import FRONT, SCAN_MM, Block, Form, LabelText

POINT_MM = 25.4 / 72.0
LEAST_X_MM = 0.9
MOST_PT = 9.0
STEP_PT = 0.2
LEADING = 1.16  # from line to line, in sizes
GAP = 0.35  # between two parts, in sizes
ASCENT = 0.95  # from the top of a line to its foot, in sizes: no letter reaches higher
MARGIN_MM = 1.5
SLIP_MM = 60.0
OVERLAP_MM = 4.0
FRONT_SHARES = (0.5, 0.42, 0.35)  # of a wrap, tried in turn

# Return how wide a word is at 1 pt, mm; the second tells whether it is bold.
Measure = Callable[[str, bool], float]
Kind = Literal["round", "rectangle", "wrap"]
KINDS: dict[Kind, str] = {
    "round": "round",
    "rectangle": "rectangle",
    "wrap": gettext_noop("wrap for a tube"),
}


@dataclass(frozen=True, slots=True)
class Shape:
    """The outline of a label, mm; a round one is as wide as high, a wrap overlaps itself at its left."""

    kind: Kind
    width_mm: float
    height_mm: float

    @property
    def middle(self) -> float:
        """Half its width, mm."""
        return self.width_mm / 2.0

    def span_at(self, top: float, bottom: float) -> tuple[float, float]:
        """Return where a line may begin and end between two heights, mm: (x, x), empty if x0 >= x1."""
        inset = min(top, self.height_mm - bottom) - MARGIN_MM
        if inset < -1e-9:
            return 0.0, 0.0
        if self.kind != "round":
            left = OVERLAP_MM if self.kind == "wrap" else 0.0
            return left + MARGIN_MM, self.width_mm - MARGIN_MM
        radius = self.middle
        off = max(abs(radius - top), abs(radius - bottom))
        half = math.sqrt(max((radius - MARGIN_MM) ** 2 - off**2, 0.0))
        return radius - half, radius + half


@dataclass(frozen=True, slots=True)
class Run:
    """A line of words: where its foot stands, how wide it is, mm, and its size, pt; or a code to scan."""

    x: float
    y: float
    width: float
    size_pt: float
    bold: bool
    text: str
    is_scan: bool = False

    @property
    def top(self) -> float:
        """Where a code to scan begins, mm from the top: it is as high as it is wide."""
        return self.y - self.width

    @property
    def size_mm(self) -> float:
        """The size of its type, mm."""
        return self.size_pt * POINT_MM


@dataclass(frozen=True, slots=True)
class Fitted:
    """A label that fits: its lines, form and size, the slip if needed, and what was left out."""

    shape: Shape
    runs: tuple[Run, ...]
    form: Form
    size_pt: float
    slip: Fitted | None = None
    says: str = ""


@dataclass(frozen=True)
class Type:
    """The type that a label is set in: how wide its words are, how high its small letters, in sizes."""

    measure: Measure
    x_height: float

    @property
    def least_pt(self) -> float:
        """The least size that can be read, pt."""
        return math.ceil(LEAST_X_MM / self.x_height / POINT_MM * 10.0) / 10.0


def fit(text: LabelText, shape: Shape, face: Type) -> Fitted:
    """Return a label set into its shape: in full words if they fit, else in fewer, else with a slip.

    Within a form the largest type that fits is taken. A code to scan may shorten the words but
    not send them to a slip. Raises `DoesNotFit` where not even name, weight and batch
    can be read on it.
    """
    for form, words in _ways(text):
        blocks = words.blocks(form)
        for size in _sizes(face.least_pt):
            runs = _set(blocks, shape, size, face)
            if runs is not None:
                slip = _slip(replace(text, address=""), face) if form in ("slip", "least") else None
                says = _says(form, size)
                if text.address and not words.address:
                    says += " " + said("There is no room for a code to scan.")
                return Fitted(shape, runs, form, size, slip, says)
    raise DoesNotFit(
        said(
            "Not even the name and weight would be readable on {size_words}. Choose a larger label, "
            "or a shorter name.",
            size_words=size_words(shape),
        ),
        field="sheet",
    )


def _ways(text: LabelText) -> Iterator[tuple[Form, LabelText]]:
    """Yield the forms of a label, with and without its code, in the order in which to try them."""
    bare = replace(text, address="")
    on_the_label = [form for form in text.forms if form not in ("slip", "least")]
    on_a_slip = [form for form in text.forms if form in ("slip", "least")]
    for forms in (on_the_label, on_a_slip):
        for words in (text, bare) if text.address else (bare,):
            yield from ((form, words) for form in forms)


def _says(form: Form, size: float) -> str:
    """Return what a form gave up, in words."""
    if form == "own":
        return said("A label for yourself, at {size:.1f} pt.", size=size)
    if form == "full":
        return said("Everything fits, at {size:.1f} pt.", size=size)
    if form == "short":
        return said(
            "The full text would be too small to read. Shortened, it fits at {size:.1f} pt.",
            size=size,
        )
    rest = (
        said("name, weight, batch and maker fit")
        if form == "slip"
        else said("only name, weight and batch fit")
    )
    return said(
        "Ingredients and cautions would be too small to read, so they go on a separate slip. On the "
        "label, {rest} at {size:.1f} pt.",
        rest=rest,
        size=size,
    )


def size_words(shape: Shape) -> str:
    """Return the size of a label in words."""
    if shape.kind == "round":
        return said("{width_mm:g} mm round", width_mm=shape.width_mm)
    return said("{width_mm:g} × {height_mm:g} mm", width_mm=shape.width_mm, height_mm=shape.height_mm)


def _sizes(least: float) -> list[float]:
    steps = round((MOST_PT - least) / STEP_PT)
    return [round(MOST_PT - STEP_PT * n, 2) for n in range(steps + 1)]


def _slip(text: LabelText, face: Type) -> Fitted:
    """Return the full words on a slip of paper that is as long as they need."""
    size = max(face.least_pt, 6.5)
    shape = Shape("rectangle", SLIP_MM, 1000.0)
    runs, end = _flow(text.blocks("full"), shape, size, face, MARGIN_MM) or ((), 0.0)
    height = math.ceil(end + MARGIN_MM)
    return Fitted(replace(shape, height_mm=height), tuple(runs), "full", size)


def _set(blocks: Sequence[Block], shape: Shape, size: float, face: Type) -> tuple[Run, ...] | None:
    """Return the lines of a label at one size, set in the middle; None where they do not fit."""
    if shape.kind == "wrap":
        return _set_wrap(blocks, shape, size, face)
    if shape.kind == "rectangle" and any(block.role == "scan" for block in blocks):
        beside = _set_beside(blocks, shape, size, face)
        if beside is not None:
            return beside
    best: tuple[float, list[Run]] | None = None
    top = MARGIN_MM
    while top < shape.height_mm / 2.0:
        flowed = _flow(blocks, shape, size, face, top)
        if flowed is not None:
            runs, end = flowed
            uneven = abs(top - (shape.height_mm - end))
            if best is None or uneven < best[0]:
                best = uneven, runs
        elif shape.kind != "round":
            break
        top += 0.5
    return None if best is None else tuple(best[1])


def _set_beside(blocks: Sequence[Block], shape: Shape, size: float, face: Type) -> tuple[Run, ...] | None:
    """Return a rectangle with its code to scan at the right, half way up, and all words beside it."""
    (scan,) = (block for block in blocks if block.role == "scan")
    words = [block for block in blocks if block is not scan]
    narrower = Shape("rectangle", shape.width_mm - SCAN_MM, shape.height_mm)
    runs = _set(words, narrower, size, face) if narrower.width_mm > SCAN_MM else None
    if runs is None or shape.height_mm < SCAN_MM + 2 * MARGIN_MM:
        return None
    left, foot = narrower.width_mm - MARGIN_MM, (shape.height_mm + SCAN_MM) / 2.0
    return (*runs, Run(left, foot, SCAN_MM, 0.0, False, scan.text, is_scan=True))


def _set_wrap(blocks: Sequence[Block], shape: Shape, size: float, face: Type) -> tuple[Run, ...] | None:
    """Return a wrap: its front at the left, in type as large as goes, all else at the right at `size`."""
    whole = shape.width_mm - OVERLAP_MM
    front = [block for block in blocks if block.role in FRONT]
    back = [block for block in blocks if block.role not in FRONT]
    for share in FRONT_SHARES:
        left = Shape("rectangle", whole * share, shape.height_mm)
        right = Shape("rectangle", whole - left.width_mm, shape.height_mm)
        told = _set(back, right, size, face)
        first = told and next(filter(None, (_set(front, left, s, face) for s in _sizes(size))), None)
        if told is not None and first is not None:
            moved = [replace(run, x=run.x + OVERLAP_MM) for run in first]
            return (*moved, *(replace(run, x=run.x + OVERLAP_MM + left.width_mm) for run in told))
    return None


def _flow(
    blocks: Sequence[Block], shape: Shape, size: float, face: Type, top: float
) -> tuple[list[Run], float] | None:
    """Return the lines of `blocks` from `top` down, each centred, and where they end; None if too long."""
    runs: list[Run] = []
    for block in blocks:
        if block.role == "scan":
            left, right = shape.span_at(top, top + SCAN_MM)
            if right - left < SCAN_MM:
                return None
            at = (left + right - SCAN_MM) / 2.0
            runs.append(Run(at, top + SCAN_MM, SCAN_MM, 0.0, False, block.text, is_scan=True))
            top += SCAN_MM + GAP * size * POINT_MM
            continue
        points = size * block.scale
        high = points * POINT_MM * LEADING
        for line in _lines(block, shape, points, face, top):
            if line is None:
                return None
            words, width, left, right = line
            foot = top + points * POINT_MM * ASCENT
            runs.append(Run((left + right - width) / 2.0, foot, width, points, block.bold, words))
            top += high
        top += GAP * size * POINT_MM
    return runs, top - GAP * size * POINT_MM


def _lines(
    block: Block, shape: Shape, points: float, face: Type, top: float
) -> Iterator[tuple[str, float, float, float] | None]:
    """Yield words, width and span of each line of a block; None where one does not fit."""
    high = points * POINT_MM * LEADING
    space = face.measure(" ", block.bold) * points
    left, right = shape.span_at(top, top + high)
    line: list[str] = []
    width = 0.0
    for word in block.text.split(" "):
        wide = face.measure(word, block.bold) * points
        if line and width + space + wide > right - left:
            if line[-1] == "·":  # no line ends with the dot between two parts
                line.pop()
                width -= space + face.measure("·", block.bold) * points
            yield " ".join(line), width, left, right
            top += high
            left, right = shape.span_at(top, top + high)
            line, width = [], 0.0
        if not line and wide > right - left:
            yield None
            return
        width += wide + (space if line else 0.0)
        line.append(word)
    if line:
        yield " ".join(line), width, left, right


@dataclass(frozen=True, slots=True)
class Sheet:
    """A sheet of labels: the page, the label, how many across and down, where the first one stands.

    `across_mm` and `down_mm` go from one label to the next. Raises `CalmTinError` where labels
    overlap or stand over the edge of the page.
    """

    name: str
    page_w: float
    page_h: float
    shape: Shape
    columns: int
    rows: int
    left_mm: float
    top_mm: float
    across_mm: float
    down_mm: float

    def __post_init__(self) -> None:
        label = self.shape
        if label.kind == "round" and abs(label.width_mm - label.height_mm) > 1e-6:
            raise CalmTinError(said("A round label must be as high as it is wide."), field="height_mm")
        if self.columns > 1 and self.across_mm < label.width_mm - 1e-6:
            raise CalmTinError(
                Message(
                    "The labels overlap. The distance across must be at least {width_mm:g} mm.",
                    width_mm=label.width_mm,
                ),
                field="across_mm",
            )
        if self.rows > 1 and self.down_mm < label.height_mm - 1e-6:
            raise CalmTinError(
                Message(
                    "The labels overlap. The distance down must be at least {height_mm:g} mm.",
                    height_mm=label.height_mm,
                ),
                field="down_mm",
            )
        right = self.left_mm + (self.columns - 1) * self.across_mm + label.width_mm
        if right > self.page_w + 1e-6:
            raise CalmTinError(
                Message(
                    "The last column ends at {right:g} mm, but the page is {page_w:g} mm wide.",
                    right=right,
                    page_w=self.page_w,
                ),
                field="columns",
            )
        foot = self.top_mm + (self.rows - 1) * self.down_mm + label.height_mm
        if foot > self.page_h + 1e-6:
            raise CalmTinError(
                Message(
                    "The last row ends at {foot:g} mm, but the page is {page_h:g} mm high.",
                    foot=foot,
                    page_h=self.page_h,
                ),
                field="rows",
            )

    @property
    def each(self) -> int:
        """How many labels a page has."""
        return self.columns * self.rows

    def places(self, count: int, first: int = 1) -> list[list[tuple[float, float]]]:
        """Return the top left corners of `count` labels, page by page, from the `first` place on."""
        pages: list[list[tuple[float, float]]] = []
        for n in range(first - 1, first - 1 + count):
            page, place = divmod(n, self.each)
            while len(pages) <= page:
                pages.append([])
            row, column = divmod(place, self.columns)
            corner = self.left_mm + column * self.across_mm, self.top_mm + row * self.down_mm
            pages[page].append(corner)
        return pages


PAGES: dict[str, tuple[str, float, float]] = {
    "a4": ("A4", 210.0, 297.0),
    "letter": (gettext_noop("Letter"), 215.9, 279.4),
}
EDGE_MM, BETWEEN_MM = 8.0, 3.0
_SIZES: tuple[tuple[Kind, float, float], ...] = (
    ("round", 25.0, 25.0),
    ("round", 40.0, 40.0),
    ("round", 50.0, 50.0),
    ("round", 60.0, 60.0),
    ("rectangle", 38.0, 20.0),
    ("rectangle", 64.0, 34.0),
    ("rectangle", 90.0, 50.0),
    ("wrap", 56.0, 45.0),
    ("wrap", 90.0, 45.0),
)


def plain_sheet(page: str, shape: Shape) -> Sheet:
    """Return a sheet that holds as many labels of a shape as go on a page, in its middle, 3 mm apart.

    >>> sheet = plain_sheet("a4", Shape("round", 40.0, 40.0))
    >>> sheet.columns, sheet.rows, sheet.name
    (4, 6, 'A4, 40 mm round, 24 on a page')
    """
    name, width, height = PAGES[page]

    def most(length: float, label: float) -> tuple[int, float]:
        count = int((length - 2.0 * EDGE_MM + BETWEEN_MM) // (label + BETWEEN_MM))
        used = count * label + (count - 1) * BETWEEN_MM
        return count, round((length - used) / 2.0, 2)

    columns, left = most(width, shape.width_mm)
    rows, top = most(height, shape.height_mm)
    wrap = " wrap" if shape.kind == "wrap" else ""
    words = said(
        "{name}, {size_words}{wrap}, {columns} on a page",
        name=name,
        size_words=size_words(shape),
        wrap=wrap,
        columns=columns * rows,
    )
    return Sheet(
        words,
        width,
        height,
        shape,
        columns,
        rows,
        left,
        top,
        shape.width_mm + BETWEEN_MM,
        shape.height_mm + BETWEEN_MM,
    )


def plain_sheets() -> dict[str, Sheet]:
    """Return the sheets that come with Calm Tin, by slug: plain ones, by page and size."""
    return {
        f"{page}-{kind}-{width:g}x{height:g}": plain_sheet(page, Shape(kind, width, height))
        for page in PAGES
        for kind, width, height in _SIZES
    }
