"""A published rating as others print it: a line in the lab's house style, data for web shops, a label."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from string import Formatter
from typing import Any
from xml.sax.saxutils import escape

from rulvek.core.errors import BadInput
from rulvek.core.ratings.basis import RatingTerms
from rulvek.core.records.claims import ClaimKind
from rulvek.core.records.product import ChannelGroup
from rulvek.core.rounding import hertz

HOUSE_STYLE = "{watts} W × {channels} {kind} into {load} Ω{bridged} at {volts} V, {thd_n}{band}, all channels driven"
NEEDED: Mapping[str, str] = {
    "watts": "the watts",
    "channels": "how many channels",
    "load": "the load",
    "volts": "the supply voltage",
    "thd_n": "the THD+N",
    "band": "the band",
}
"""What a reader needs to compare a figure, by placeholder."""
PLACEHOLDERS = (*NEEDED, "kind", "bridged", "model", "group")
SVG_WIDTH, SVG_HEIGHT = 320, 96


@dataclass(frozen=True, slots=True)
class PrintedTexts:
    """What goes on paper and into shops.

    Attributes:
        line: In the house style.
        lacks: What a reader would need and does not find in it, in words.
        data: The same as plain data.
        linked: The same as JSON-LD in the vocabulary of schema.org (from memory).
        label: The same as a small picture, SVG.
    """

    line: str
    lacks: tuple[str, ...]
    data: Mapping[str, Any]
    linked: Mapping[str, Any]
    label: str


def printed_texts(
    model: str, terms: RatingTerms, group: ChannelGroup, reference_volts: float, style: str = HOUSE_STYLE
) -> PrintedTexts:
    """All of them.

    >>> from rulvek.core.ratings.sample import RatedAt
    >>> texts = printed_texts("T2", RatingTerms(RatedAt("main", 4.0), 80.0), ChannelGroup("main", (1, 2), (4.0,)), 14.4)
    >>> texts.line, texts.lacks
    ('80 W × 2 continuous into 4 Ω at 14.4 V, 1 % THD+N, all channels driven', ('the band',))

    Raises:
        BadInput: a placeholder that there is not.
    """
    refuse_unfit_style(style)
    values = _values(model, terms, group, reference_volts)
    line = _filled(style, values)
    named = {name for _, name, _, _ in Formatter().parse(style) if name}
    lacks = tuple(words for name, words in NEEDED.items() if name not in named or not values[name])
    data = _data(model, terms, group, reference_volts)
    return PrintedTexts(line, lacks, data, _linked(model, line, data), _label(model, terms, line))


def wording(terms: RatingTerms, group: ChannelGroup, reference_volts: float) -> str:
    """A rating in one line, in the style that needs no other."""
    return _filled(HOUSE_STYLE, _values("", terms, group, reference_volts))


def _filled(style: str, values: Mapping[str, str]) -> str:
    """The style with its values; what is empty takes its comma along."""
    return re.sub(r"(,\s*)+,", ",", re.sub(r"\s+", " ", style.format(**values))).strip(" ,")


def refuse_unfit_style(style: str) -> None:
    """Hold a house style to the placeholders that there are.

    Raises:
        BadInput: one that there is not, or that asks for more than its value.
    """
    try:
        parts = list(Formatter().parse(style))
    except ValueError:
        raise BadInput("The house style has a brace that stands alone.", field="rating_text") from None
    for _, name, spec, conversion in parts:
        if name is None:
            continue
        if name not in PLACEHOLDERS or spec or conversion:
            known = ", ".join(f"{{{one}}}" for one in PLACEHOLDERS)
            raise BadInput(
                f"There is no placeholder {{{name}}} in a house style; there are {known}.", field="rating_text"
            )


def _values(model: str, terms: RatingTerms, group: ChannelGroup, reference_volts: float) -> dict[str, str]:
    at = terms.at
    band = ""
    if at.band_low_hz is not None and at.band_high_hz is not None:
        low, high = hertz(at.band_low_hz), hertz(at.band_high_hz)
        band = f", at {low}" if low == high else f", {low} to {high}"
    return {
        "watts": f"{terms.watts:g}",
        "channels": f"{len(group.read(at.bridged))}",
        "load": f"{at.load_ohms:g}",
        "volts": f"{at.supply_volts if at.supply_volts is not None else reference_volts:g}",
        "thd_n": "" if at.thd_n_percent is None else f"{at.thd_n_percent:g} % THD+N",
        "band": band,
        "kind": "burst" if at.kind is ClaimKind.BURST else "continuous",
        "bridged": " bridged" if at.bridged else "",
        "model": model,
        "group": at.group,
    }


def _data(model: str, terms: RatingTerms, group: ChannelGroup, reference_volts: float) -> dict[str, Any]:
    at = terms.at
    return {
        "model": model,
        "group": at.group,
        "watts": terms.watts,
        "channels": len(group.read(at.bridged)),
        "load_ohms": at.load_ohms,
        "bridged": at.bridged,
        "kind": at.kind.value,
        "supply_volts": at.supply_volts if at.supply_volts is not None else reference_volts,
        "thd_n_percent": at.thd_n_percent,
        "band_hz": None if at.band_low_hz is None else [at.band_low_hz, at.band_high_hz],
        "share": terms.share,
        "confidence": terms.confidence,
    }


def _linked(model: str, line: str, data: Mapping[str, Any]) -> dict[str, Any]:
    return {
        "@context": "https://schema.org",
        "@type": "Product",
        "name": model,
        "additionalProperty": [
            {
                "@type": "PropertyValue",
                "name": "Rated power",
                "value": data["watts"],
                "unitCode": "WTT",
                "description": line,
            }
        ],
    }


def _label(model: str, terms: RatingTerms, line: str) -> str:
    """A label that any browser draws: the figure, the model, and below them the conditions in two lines at the most."""
    words, lines = line.split(" "), [""]
    for word in words:
        if len(lines[-1]) + len(word) > 46:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    rows = "".join(
        f'<text x="12" y="{62 + 15 * at}" font-size="11.5">{escape(one)}</text>' for at, one in enumerate(lines[:2])
    )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {SVG_WIDTH} {SVG_HEIGHT}" width="{SVG_WIDTH}"'
        f' height="{SVG_HEIGHT}" font-family="sans-serif"><title>{escape(f"{model}: {line}")}</title>'
        f'<rect x="0.5" y="0.5" width="{SVG_WIDTH - 1}" height="{SVG_HEIGHT - 1}" fill="#fff" stroke="#1f272d"/>'
        f'<text x="12" y="36" font-size="27" font-weight="700">{terms.watts:g} W</text>'
        f'<text x="{SVG_WIDTH - 12}" y="36" font-size="14" text-anchor="end">{escape(model)}</text>{rows}</svg>'
    )
