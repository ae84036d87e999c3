"""How reports look: their fonts, their colours, their width."""

from functools import cache
from pathlib import Path

from reportlab import rl_config
from reportlab.lib import colors
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

PLAIN, BOLD = "RulvekReport-Regular", "RulvekReport-Bold"
INK, QUIET, RULE, MARK, WARN = (colors.HexColor(one) for one in ("#1f272d", "#5a646b", "#c9c3b4", "#0f6b66", "#a5332b"))
WIDTH = A4[0] - 36 * mm
"""Of what stands between the margins of a page."""


@cache
def use_fonts() -> None:
    """Register the fonts that ship with the program, once; what is made with them repeats its bytes."""
    rl_config.invariant = 1
    folder = Path(__file__).parent / "fonts"
    for name in (PLAIN, BOLD):
        pdfmetrics.registerFont(TTFont(name, str(folder / f"{name}.ttf")))
    pdfmetrics.registerFontFamily(PLAIN, normal=PLAIN, bold=BOLD, italic=PLAIN, boldItalic=BOLD)
