"""Pictures for tests: drawn here, with what cameras write beside the pixels."""

import io
from typing import Any

from PIL import Image

GPS, ORIENTATION, MAKE = 0x8825, 0x0112, 0x010F


def drawn(size: tuple[int, int] = (64, 48), form: str = "JPEG", turned: int = 1, **more: Any) -> bytes:
    """A picture with its left upper quarter red, tagged as turned, with a maker and a place in its EXIF."""
    picture = Image.new("RGB", size, "white")
    picture.paste("red", (0, 0, size[0] // 2, size[1] // 2))
    exif = Image.Exif()
    exif[ORIENTATION], exif[MAKE] = turned, "A camera"
    exif.get_ifd(GPS)[2] = (52.0, 31.0, 12.0)
    out = io.BytesIO()
    picture.save(out, form, exif=exif, **more)
    return out.getvalue()
