"""A picture that was sent, made again: small, upright, and without what a camera writes into it."""

from __future__ import annotations

from io import BytesIO

from PIL import Image, ImageOps, UnidentifiedImageError

from calmtin.core.errors import CalmTinError

MOST_BYTES = 15_000_000
MOST_PIXELS = 60_000_000  # a file of a few kB can claim to be endless
LONGEST = 1600  # pixels
QUALITY = 82
_READS = ("JPEG", "PNG", "WEBP")


def made_again(sent: bytes) -> bytes:
    """Return a picture as a JPEG of at most 1600 pixels a side, upright, with no metadata at all.

    Raises `CalmTinError` for what is too large, no picture, or one that is broken.
    """
    if len(sent) > MOST_BYTES:
        raise CalmTinError("The picture is larger than 15 MB. Send a smaller one.", field="photo")
    try:
        with Image.open(BytesIO(sent), formats=_READS) as opened:
            is_endless = opened.width * opened.height > MOST_PIXELS
            upright = None if is_endless else ImageOps.exif_transpose(opened).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise CalmTinError(
            "This file is no picture that can be read. Send a JPEG, PNG or WebP.", field="photo"
        ) from None
    if upright is None:
        raise CalmTinError(
            "The picture has more than 60 million points. Send a smaller one.", field="photo"
        )
    upright.thumbnail((LONGEST, LONGEST))
    plain = Image.new("RGB", upright.size)
    plain.paste(upright)
    made = BytesIO()
    plain.save(made, "JPEG", quality=QUALITY, optimize=True)
    return made.getvalue()


def kept_as_sent(sent: bytes) -> bytes:
    """Return a picture that is as ours are to the byte as it is; any other made again.

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
