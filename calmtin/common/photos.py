"""Pictures are re-encoded: small, upright, and without the camera's metadata."""

from __future__ import annotations

from io import BytesIO
from threading import Lock

from django.utils.translation import gettext
from PIL import Image, ImageOps, UnidentifiedImageError

from calmtin.core.errors import CalmTinError
from calmtin.core.limits import PICTURE_BYTES
from calmtin.core.messages import said

# A file of a few kB can claim to be endless. A JPEG is read at a fraction of its size, others whole.
MOST_PIXELS, MOST_PIXELS_WHOLE = 120_000_000, 30_000_000
LONGEST = 1600  # pixels
QUALITY = 82
_READS = ("JPEG", "PNG", "WEBP")
_one_at_a_time = Lock()  # four large ones at once would take the memory of a small machine


def made_again(sent: bytes) -> bytes:
    """Return a picture as a JPEG of at most 1600 pixels a side, upright, with no metadata at all.

    Raises `CalmTinError` for what is too large, no picture, or one that is broken.
    """
    if len(sent) > PICTURE_BYTES:
        raise CalmTinError(gettext("The picture is larger than 15 MB. Send a smaller one."), field="photo")
    try:
        with _one_at_a_time, Image.open(BytesIO(sent), formats=_READS) as opened:
            upright = None if _is_endless(opened) else _small_and_upright(opened)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise CalmTinError(
            gettext("This file is not a picture that Calm Tin can read. Send a JPEG, PNG or WebP."),
            field="photo",
        ) from None
    if upright is None:
        raise CalmTinError(
            said(
                "The picture has over {most_pixels_whole} million pixels. Send a smaller one.",
                most_pixels_whole=MOST_PIXELS_WHOLE // 1000000,
            ),
            field="photo",
        )
    plain = Image.new("RGB", upright.size)
    plain.paste(upright)
    made = BytesIO()
    plain.save(made, "JPEG", quality=QUALITY, optimize=True)
    return made.getvalue()


def _is_endless(opened: Image.Image) -> bool:
    most = MOST_PIXELS if opened.format == "JPEG" else MOST_PIXELS_WHOLE
    return opened.width * opened.height > most


def _small_and_upright(opened: Image.Image) -> Image.Image:
    """Return a picture at its final size; of a JPEG no more points are read than that needs."""
    opened.draft("RGB", (LONGEST, LONGEST))
    opened.thumbnail((LONGEST, LONGEST))
    return ImageOps.exif_transpose(opened).convert("RGB")


def kept_as_sent(sent: bytes) -> bytes:
    """Return a picture unchanged if it was made here, else re-encoded.

    Raises `CalmTinError` for what is no picture.
    """
    try:
        with Image.open(BytesIO(sent), formats=("JPEG",)) as opened:
            is_ours = max(opened.size) <= LONGEST and not opened.getexif() and opened.mode == "RGB"
            if is_ours:  # only then is it small enough to be read whole
                opened.load()
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        is_ours = False
    return sent if is_ours else made_again(sent)
