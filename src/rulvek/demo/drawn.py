"""Pictures and papers of the demo, drawn here: of a line that never existed nothing was ever photographed."""

import io
from collections.abc import Sequence

from PIL import Image, ImageDraw, ImageFont

SIZE = (1600, 1200)
_CASE, _FIN, _INK, _LIGHT = "#2b3238", "#3a434a", "#14181b", "#e9e5da"
_BOARD, _TRACE, _COPPER, _CAN = "#1f4a3d", "#2c6553", "#b98a4a", "#39424a"
_BENCH = "#cfc9bb"


def outside(name: str, channels: int) -> bytes:
    """An amplifier on a bench, from above: fins, name, terminals."""
    picture, draw = _bench()
    draw.rounded_rectangle((150, 280, 1450, 920), 24, fill=_CASE)
    for x in range(190, 1420, 46):
        draw.rectangle((x, 300, x + 18, 900), fill=_FIN)
    draw.rectangle((520, 500, 1080, 700), fill=_CASE)
    draw.text((800, 600), name, fill=_LIGHT, font=_font(70), anchor="mm")
    _screws(draw, 260, 930, 3, 74)
    _screws(draw, 760, 930, 2 * channels, 52)
    return _jpeg(picture)


def terminals(name: str, channels: int) -> bytes:
    """The end with the terminals and the controls, from the front."""
    picture, draw = _bench()
    draw.rounded_rectangle((120, 420, 1480, 800), 18, fill=_CASE)
    _screws(draw, 200, 560, 3, 96)
    _screws(draw, 620, 560, 2 * channels, 62)
    for at, word in enumerate(("GAIN", "LP", "HP", "BOOST")):
        x = 260 + 150 * at
        draw.ellipse((x - 26, 690, x + 26, 742), fill=_INK, outline=_LIGHT, width=3)
        draw.line((x, 716, x + 14, 696), fill=_LIGHT, width=4)
        draw.text((x, 764), word, fill=_LIGHT, font=_font(22), anchor="mm")
    draw.text((1100, 730), name, fill=_LIGHT, font=_font(40), anchor="mm")
    return _jpeg(picture)


def board(fuses: Sequence[bool], capacitors: int, devices: int) -> bytes:
    """The board of an opened unit; each fuse has a trace that leads to it, or none."""
    picture, draw = _bench()
    draw.rectangle((110, 200, 1490, 1000), fill=_BOARD)
    for y in range(240, 980, 60):
        draw.line((140, y, 1460, y), fill=_TRACE, width=6)
    for at in range(capacitors):
        x, y = 250 + 150 * (at % 4), 520 + 170 * (at // 4)
        draw.ellipse((x - 62, y - 62, x + 62, y + 62), fill=_CAN, outline=_INK, width=4)
        draw.line((x - 40, y, x + 40, y), fill=_FIN, width=8)
    draw.ellipse((900, 470, 1130, 700), outline=_COPPER, width=54)
    for at in range(devices):
        x = 200 + at * (1200 // max(1, devices))
        draw.rectangle((x, 900, x + 70, 980), fill=_INK)
        draw.text((x + 35, 940), "NT", fill=_LIGHT, font=_font(24), anchor="mm")
    for at, in_circuit in enumerate(fuses):
        x = 1220 + 90 * at
        draw.rectangle((x, 300, x + 56, 420), fill="#d0762e")
        draw.text((x + 28, 360), "40", fill=_INK, font=_font(30), anchor="mm")
        if in_circuit:
            draw.line((x + 28, 420, x + 28, 540), fill=_COPPER, width=18)
    return _jpeg(picture)


def carton(name: str, lines: Sequence[str]) -> bytes:
    """The side of a carton with what is printed on it."""
    picture = Image.new("RGB", SIZE, "#b79263")
    draw = ImageDraw.Draw(picture)
    draw.rectangle((90, 90, 1510, 1110), outline="#7d5d35", width=8)
    draw.text((800, 300), name, fill=_INK, font=_font(110), anchor="mm")
    for at, line in enumerate(lines):
        draw.text((800, 520 + 110 * at), line, fill=_INK, font=_font(70), anchor="mm")
    return _jpeg(picture)


def paper(title: str, lines: Sequence[str]) -> bytes:
    """A page of a manual, as PDF."""
    page = Image.new("RGB", (1240, 1754), "white")
    draw = ImageDraw.Draw(page)
    draw.text((120, 140), title, fill=_INK, font=_font(52))
    for at, line in enumerate(lines):
        draw.text((120, 300 + 64 * at), line, fill=_INK, font=_font(34))
    out = io.BytesIO()
    page.save(out, "PDF", resolution=150)
    return out.getvalue()


def _bench() -> tuple[Image.Image, ImageDraw.ImageDraw]:
    picture = Image.new("RGB", SIZE, _BENCH)
    draw = ImageDraw.Draw(picture)
    for x in range(0, SIZE[0], 100):
        draw.line((x, 0, x, SIZE[1]), fill="#c5bfb0", width=2)
    for y in range(0, SIZE[1], 100):
        draw.line((0, y, SIZE[0], y), fill="#c5bfb0", width=2)
    return picture, draw


def _screws(draw: ImageDraw.ImageDraw, x: int, y: int, count: int, apart: int) -> None:
    for at in range(count):
        left = x + at * apart
        draw.rectangle((left - 20, y - 30, left + 20, y + 30), fill=_COPPER, outline=_INK, width=3)
        draw.line((left - 10, y, left + 10, y), fill=_INK, width=5)


def _font(size: int) -> ImageFont.FreeTypeFont | ImageFont.ImageFont:
    return ImageFont.load_default(size)


def _jpeg(picture: Image.Image) -> bytes:
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=85)
    return out.getvalue()
