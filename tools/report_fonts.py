"""Makes the fonts that reports embed: two weights of a variable font, with the characters that reports use.

``tools/report_fonts.py SourceSans3.ttf``, with fonttools installed. Under the Open Font License a changed font may not
keep its name: these are called “Rulvek Report”.
"""

import sys
from pathlib import Path

from fontTools import subset  # type: ignore[import-not-found]
from fontTools.ttLib import TTFont  # type: ignore[import-not-found]
from fontTools.varLib import instancer  # type: ignore[import-not-found]

OUT = Path("src/rulvek/reports/fonts")
RANGES = ((0x20, 0x7E), (0xA0, 0x17F), (0x370, 0x3FF), (0x2010, 0x2044), (0x2070, 0x209F))
SIGNS = "€−≤≥≈≠√∞→←Ω✓×÷±·…“”‘’–—†‡•"


def main(source: str) -> None:
    """Write ``RulvekReport-Regular.ttf`` and ``RulvekReport-Bold.ttf``."""
    wanted = {code for low, high in RANGES for code in range(low, high + 1)} | {ord(sign) for sign in SIGNS}
    for name, weight in (("Regular", 400), ("Bold", 650)):
        font = instancer.instantiateVariableFont(TTFont(source), {"wght": weight})
        options = subset.Options(layout_features=["kern"], name_IDs=[1, 2, 3, 4, 6], notdef_outline=True)
        picked = subset.Subsetter(options)
        picked.populate(unicodes=wanted)
        picked.subset(font)
        for record in font["name"].names:
            record.string = {2: name, 6: f"RulvekReport-{name}"}.get(record.nameID, f"Rulvek Report {name}")
        font.save(OUT / f"RulvekReport-{name}.ttf")


if __name__ == "__main__":
    main(sys.argv[1])
