"""A rating as others print it: nothing that a reader needs is missing unsaid, and nothing breaks out of a label."""

import xml.etree.ElementTree as ET
from dataclasses import replace

import pytest

from rulvek.core.errors import BadInput
from rulvek.core.ratings.texts import HOUSE_STYLE, NEEDED, SVG_WIDTH, printed_texts
from rulvek.core.records.claims import ClaimKind
from rulvek.core.records.product import ChannelGroup
from tests.core.test_unsettled import AT, TERMS

GROUP = ChannelGroup("main", (1, 2, 3, 4), (4.0,), (4.0,))
BANDED = replace(TERMS, at=replace(AT, band_low_hz=20.0, band_high_hz=20_000.0))


def test_the_house_style_has_all_that_a_reader_needs() -> None:
    texts = printed_texts("Tern 4", BANDED, GROUP, 14.4)
    assert (
        texts.line == ("100 W × 4 continuous into 4 Ω at 14.4 V, 1 % THD+N, 20 Hz to 20 kHz, all channels driven")
        and not texts.lacks
    )
    assert all(f"{{{name}}}" in HOUSE_STYLE for name in NEEDED)


@pytest.mark.parametrize(
    ("style", "line", "lacks"),
    [
        ("{watts} W x {channels}", "100 W x 4", ("the load", "the supply voltage", "the THD+N", "the band")),
        ("{model}: {watts} W rms", "Tern 4: 100 W rms", ("how many channels",)),
        ("{{RMS}} {watts} W, {volts} V", "{RMS} 100 W, 14.4 V", ("the load",)),
    ],
)
def test_a_style_of_the_labs_own_says_what_it_lacks(style: str, line: str, lacks: tuple[str, ...]) -> None:
    texts = printed_texts("Tern 4", BANDED, GROUP, 14.4, style)
    assert texts.line == line and set(lacks) <= set(texts.lacks)


def test_a_condition_that_the_rating_leaves_out_is_missed() -> None:
    assert printed_texts("Tern 4", TERMS, GROUP, 14.4).lacks == ("the band",)
    burst = replace(TERMS, at=replace(AT, kind=ClaimKind.BURST, thd_n_percent=None))
    texts = printed_texts("Tern 4", burst, GROUP, 14.4)
    assert texts.lacks == ("the THD+N", "the band") and ",," not in texts.line and ", ," not in texts.line


@pytest.mark.parametrize(
    "style", ["{wats} W", "{watts", "{watts.__class__}", "{watts!r}", "{watts:>99999}", "{0}", "{}"]
)
def test_a_style_cannot_ask_for_more_than_its_values(style: str) -> None:
    with pytest.raises(BadInput) as refused:
        printed_texts("Tern 4", TERMS, GROUP, 14.4, style)
    assert refused.value.field == "rating_text"


def test_the_label_is_a_picture_and_names_are_text_in_it() -> None:
    texts = printed_texts("<script>Tern & 4</script>", BANDED, GROUP, 14.4)
    root = ET.fromstring(texts.label)
    said = ["".join(one.itertext()) for one in root.iter() if one.tag.endswith("text")]
    assert said[:2] == ["100 W", "<script>Tern & 4</script>"] and " ".join(said[2:]) == texts.line
    assert not [one for one in root.iter() if one.tag.endswith("script")] and int(root.get("width", "0")) == SVG_WIDTH


def test_data_for_shops_says_the_same() -> None:
    """schema.org's Product with a PropertyValue; WTT is the watt in UN/CEFACT's common codes (from memory)."""
    bridged = replace(BANDED, at=replace(BANDED.at, bridged=True, supply_volts=13.8))
    texts = printed_texts("Tern 4", bridged, GROUP, 14.4)
    assert (texts.data["channels"], texts.data["supply_volts"], texts.data["band_hz"]) == (2, 13.8, [20.0, 20_000.0])
    (value,) = texts.linked["additionalProperty"]
    assert texts.linked["@type"] == "Product" and (value["value"], value["unitCode"]) == (100.0, "WTT")
    assert value["description"] == texts.line
