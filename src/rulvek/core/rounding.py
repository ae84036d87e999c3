"""How a figure with an expanded uncertainty is written: everywhere alike, on screens, in sentences and in exports.

Source: JCGM 100:2008 (GUM), 7.2.6: U with at most two significant digits, the value to the same place. From memory.
"""

import math


def decimals_of(expanded: float) -> int:
    """Decimals of the second significant digit of an expanded uncertainty; -1 stands for tens.

    >>> [decimals_of(u) for u in (0.78, 9.04, 16.2, 0.0996, 0.0994, 123.0)]
    [2, 1, 0, 2, 3, -1]

    Raises:
        ValueError: it is not above 0, or infinite.
    """
    if not (0 < expanded < math.inf):
        raise ValueError(f"an expanded uncertainty is above 0 and finite, not {expanded}")
    return 1 - int(f"{expanded:.1e}".split("e")[1])


def rounded(value: float, expanded: float | None) -> str:
    """A value to the place of its U's second digit; to two decimals where no U is known.

    >>> rounded(1259.94, 16.2), rounded(62.504, 0.78), rounded(1259.94, 123.0), rounded(62.504, None)
    ('1260', '62.50', '1260', '62.50')
    """
    if not expanded:
        return _written(value, 2)
    return _written(value, decimals_of(expanded))


def hertz(value: float) -> str:
    """A frequency as people read it.

    >>> hertz(40.0), hertz(1000.0), hertz(20_000.0)
    ('40 Hz', '1 kHz', '20 kHz')
    """
    return f"{value / 1000:g} kHz" if value >= 1000 else f"{value:g} Hz"


def with_u(value: float, expanded: float, unit: str) -> str:
    """A value with its U and unit.

    >>> with_u(712.04, 9.04, "W")
    '712.0 ± 9.0 W'
    """
    return f"{rounded(value, expanded)} ± {rounded(expanded, expanded)} {unit}"


def told_apart(first: float, second: float) -> tuple[str, str]:
    """Two figures with as many significant digits, four to seven, as it takes to tell them apart.

    >>> told_apart(104.1, 103.9), told_apart(80.62043, 80.62086)
    (('104.1', '103.9'), ('80.62', '80.621'))
    """
    for digits in range(4, 8):
        texts = f"{first:.{digits}g}", f"{second:.{digits}g}"
        if texts[0] != texts[1]:
            break
    return texts


def _written(value: float, decimals: int) -> str:
    text = f"{round(value, decimals):.{max(0, decimals)}f}"
    return text.removeprefix("-") if float(text) == 0 else text
