"""Pictures as they are kept: upright, without what a camera wrote of the place, with a small one for lists."""

import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from rulvek.core.errors import BadInput

MOST_PIXELS = 50_000_000
MOST_SIDE = 20_000
THUMBNAIL = (480, 480)
QUALITY, THUMBNAIL_QUALITY = 90, 80
KINDS = ("JPEG", "PNG", "WEBP")
"""Formats that are read; others are named in the refusal."""
_HEIC = (b"ftypheic", b"ftypheix", b"ftypmif1", b"ftyphevc")


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture in JPEG with a small one, and its size in pixels, upright."""

    jpeg: bytes
    thumbnail: bytes
    width: int
    height: int


def looks_like_picture(head: bytes) -> bool:
    """Whether the first bytes of a file are those of a picture, by what is in them and not by its name."""
    return (
        head.startswith((b"\xff\xd8\xff", b"\x89PNG\r\n\x1a\n", b"GIF8", b"BM", b"II*\x00", b"MM\x00*"))
        or (head[:4] == b"RIFF" and head[8:12] == b"WEBP")
        or head[4:12] in _HEIC
    )


def read_picture(content: bytes) -> Picture:
    """Read a picture, turn it upright, and write it anew, so that nothing but its pixels is kept.

    The size is looked at before a pixel is unpacked: a small file can hold a picture that fills the memory.

    Raises:
        BadInput: no picture, one of another format, one that is damaged, or one that is too large.
    """
    if content[4:12] in _HEIC:
        raise BadInput("HEIC cannot be read here.", todo="Let the camera save JPEG.", field="file")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(content), formats=KINDS) as opened:
                return _written(opened)
    except BadInput:
        raise
    except UnidentifiedImageError:
        raise BadInput("A photograph is JPEG, PNG or WebP.", field="file") from None
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise _too_large() from None
    except Exception:  # a decoder meets anything in a damaged file
        raise BadInput("The picture cannot be read: it is damaged or cut off.", field="file") from None


def _written(opened: Image.Image) -> Picture:
    width, height = opened.size
    if width * height > MOST_PIXELS or max(width, height) > MOST_SIDE:
        raise _too_large()
    flat = _on_white(opened)
    ImageOps.exif_transpose(flat, in_place=True)
    jpeg = _jpeg(flat, QUALITY)
    size = flat.size
    flat.thumbnail(THUMBNAIL)
    return Picture(jpeg, _jpeg(flat, THUMBNAIL_QUALITY), *size)


def _on_white(picture: Image.Image) -> Image.Image:
    """Without transparency, and still with what says how it is turned."""
    turned = picture.getexif().get(274, 1)
    if picture.mode in ("RGBA", "LA", "PA") or "transparency" in picture.info:
        clear = picture.convert("RGBA")
        flat = Image.new("RGB", picture.size, "white")
        flat.paste(clear, mask=clear.getchannel("A"))
    elif picture.mode == "RGB":
        picture.load()
        flat = picture
    else:
        flat = picture.convert("RGB")
    flat.getexif()[274] = turned
    return flat


def _jpeg(picture: Image.Image, quality: int) -> bytes:
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=quality, exif=b"", icc_profile=None, comment=b"")
    return out.getvalue()


def _too_large() -> BadInput:
    most = MOST_PIXELS // 1_000_000
    return BadInput(f"A picture has at most {most} megapixels, and {MOST_SIDE} pixels a side.", field="file")
