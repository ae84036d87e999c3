"""What is kept with products: what can be, what is odd, what it is called, and several side by side."""

from datetime import date
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.errors import BadInput
from rulvek.core.records.differences import side_by_side
from rulvek.core.records.documents import DocumentEntry, DocumentKind, kind_of
from rulvek.core.records.facts import (
    Content,
    Control,
    ControlKind,
    ModelFacts,
    Price,
    Terminal,
    UnitFacts,
    in_words,
    refuse_unlikely_model,
    refuse_unlikely_unit,
    said,
)
from rulvek.core.records.inside import FuseFound, InsideEntry, Marker, Part, PartPlace, PhotographEntry, fuses_doubted
from rulvek.core.records.kept import NAMED, OF, SHAPES, Kind, files_of, refuse_unfit, title
from rulvek.core.records.listening import (
    Better,
    Comparison,
    ListeningEntry,
    MeterReadings,
    SoundPressure,
    SpeakerWire,
    asks_for_ear_protection,
    load_of,
)
from rulvek.core.records.revisions import LotEntry, RevisionEntry
from tests.examples import examples

TODAY = date(2026, 11, 30)
DIGEST = "a" * 64


def read_by(meter: str, *decibels: float) -> SoundPressure:
    """What one meter read."""
    return SoundPressure((MeterReadings(meter, decibels),), "seat")


def test_every_kind_has_a_shape_and_belongs_somewhere() -> None:
    assert set(SHAPES) == set(OF) == set(Kind) and set(Kind) > NAMED


@pytest.mark.parametrize(
    ("kind", "entry", "field"),
    [
        (Kind.LOT, LotEntry(""), "name"),
        (Kind.LOT, LotEntry("x" * 81), "name"),
        (Kind.LOT, LotEntry("2604", made_on=date(2026, 12, 1)), "made_on"),
        (Kind.LOT, LotEntry("2604", made_on=date(1900, 1, 1)), "made_on"),
        (Kind.LOT, LotEntry("2604", count=0), "count"),
        (Kind.REVISION, RevisionEntry(" "), "name"),
        (Kind.REVISION, RevisionEntry("B", "x" * 2_001), "changed"),
        (Kind.DOCUMENT, DocumentEntry("Manual", dated=date(2027, 1, 1)), "dated"),
        (Kind.INSIDE, InsideEntry(made_safe=False), "made_safe"),
        (Kind.INSIDE, InsideEntry(True, parts=(Part(PartPlace.FAN, 0),)), "parts.0.count"),
        (Kind.INSIDE, InsideEntry(True, parts=(Part(PartPlace.FAN, celsius=900.0),)), "parts.0.celsius"),
        (Kind.PHOTOGRAPH, PhotographEntry(DIGEST, markers=(Marker(0.5, 1.1, ""),)), "markers.0.y"),
        (Kind.LISTENING, ListeningEntry(TODAY), "remarks"),
        (Kind.LISTENING, ListeningEntry(TODAY, wire=SpeakerWire(20.0, 0.0)), "wire.amps"),
        (
            Kind.LISTENING,
            ListeningEntry(TODAY, sound=SoundPressure((MeterReadings("M", ()),), "seat")),
            "sound.meters.0.decibels",
        ),
        (
            Kind.LISTENING,
            ListeningEntry(TODAY, sound=SoundPressure((MeterReadings("M", (300.0,)),), "seat")),
            "sound.meters.0.decibels.0",
        ),
    ],
)
def test_what_cannot_be_is_refused_by_the_fields_name(kind: Kind, entry: Any, field: str) -> None:
    with pytest.raises(BadInput) as refused:
        refuse_unfit(kind, entry, TODAY)
    assert refused.value.field == field


def test_what_can_be_is_taken() -> None:
    for kind, entry in (
        (Kind.LOT, LotEntry("2604", "B", TODAY, 400)),
        (Kind.INSIDE, InsideEntry(True, TODAY, fuses=(FuseFound(40, False),))),
        (Kind.LISTENING, ListeningEntry(TODAY, hours=2.0)),
        (Kind.PHOTOGRAPH, PhotographEntry(DIGEST, markers=(Marker(0.0, 1.0, "Fuse"),))),
    ):
        refuse_unfit(kind, entry, TODAY)


@pytest.mark.parametrize(
    ("found", "stated", "words"),
    [
        ((), (40.0,), ""),
        ((FuseFound(40, True),), (40.0,), ""),
        ((FuseFound(40, True),), (), ""),
        ((FuseFound(40, True), FuseFound(40, False)), (40.0, 40.0), "1 of 2 fuses is in circuit: 40 A, not 80 A"),
        ((FuseFound(30, True), FuseFound(30, True)), (40.0, 40.0), "2 of 2 fuses are in circuit: 60 A, not 80 A"),
        ((FuseFound(40, False),), (40.0,), "No fuse is in circuit"),
        ((FuseFound(25, True), FuseFound(25, False)), (), "1 of 2 fuses is in circuit: 25 A, not 50 A"),
    ],
)
def test_fuses_that_carry_nothing_are_told(found: tuple[FuseFound, ...], stated: tuple[float, ...], words: str) -> None:
    told = fuses_doubted(found, stated)
    assert told.startswith(words) and bool(told) == bool(words)


@pytest.mark.parametrize(("decibels", "asks"), [((84.99,), False), ((85.0,), True), ((60.0, 121.4), True), ((), False)])
def test_ear_protection_is_asked_for_from_85_db_on(decibels: tuple[float, ...], asks: bool) -> None:
    """Directive 2003/10/EC, upper exposure action value 85 dB(A) (from memory)."""
    entry = ListeningEntry(TODAY, sound=read_by("M", *decibels))
    assert asks_for_ear_protection(entry) is asks


def test_meters_alone_give_a_load_without_a_phase() -> None:
    load = load_of(SpeakerWire(20.0, 5.0))
    assert load.impedance_ohms == 4 and load.watts is None
    assert load_of(SpeakerWire(20.0, 5.0, 50.0, 0.0)).watts == pytest.approx(100)
    assert load_of(SpeakerWire(20.0, 5.0, watts=80.0)).power_factor == pytest.approx(0.8)  # music, recorded


def test_files_are_named_wherever_they_are_spoken_of() -> None:
    assert files_of(DocumentEntry("Manual")) == ()
    assert files_of(DocumentEntry("Manual", file=DIGEST)) == files_of(PhotographEntry(DIGEST)) == (DIGEST,)
    assert files_of(ListeningEntry(TODAY, wire=SpeakerWire(1.0, 1.0, recording=DIGEST))) == (DIGEST,)


def test_things_are_called_by_what_people_know_of_them() -> None:
    assert title(Kind.DOCUMENT, DocumentEntry("Carton")) == "Carton"
    assert title(Kind.REVISION, RevisionEntry("C")) == "revision C"
    assert title(Kind.PHOTOGRAPH, PhotographEntry(DIGEST, "The board")) == "photograph The board"
    assert title(Kind.PHOTOGRAPH, PhotographEntry(DIGEST, place="label")) == "photograph label"
    assert title(Kind.INSIDE, InsideEntry(True)) == "inside"
    compared = ListeningEntry(TODAY, comparisons=(Comparison(2, Better.WORSE),))
    assert title(Kind.LISTENING, compared) == "listening, 2026-11-30"
    assert kind_of("Our web shop") is DocumentKind.WEB_PAGE and kind_of("Katalog") is DocumentKind.OTHER


def test_facts_are_said_in_words_with_their_units() -> None:
    facts = ModelFacts(
        sensitivity_low_volts=0.2,
        fan=False,
        controls=(
            Control(ControlKind.LOW_PASS, "50–500 Hz", slope_db_per_octave=12),
            Control(ControlKind.BOOST, "", boost_hz=45),
        ),
        terminals=(Terminal("Supply", "set screw", 53.5, 33.6),),
        list_price=Price(459.0, "EUR", date(2026, 1, 15)),
    )
    assert dict(said(facts)) == {
        "life": "current",
        "sensitivity low, V": "0.2",
        "fan": "no",
        "controls": "low-pass 50–500 Hz, 12 dB per octave, boost dB not stated, at 45 Hz",
        "terminals": "Supply set screw, 53.5 mm² stated, 33.6 mm² fits",
        "list price": "459.00 EUR, 2026-01-15",
    }
    assert in_words(Content("Remote", 2)) == "2 × Remote" and in_words(True) == "yes"


@pytest.mark.parametrize(
    ("facts", "field"),
    [
        (ModelFacts(sensitivity_low_volts=2.0, sensitivity_high_volts=1.0), "facts.sensitivity_high_volts"),
        (ModelFacts(list_price=Price(1.0, "eur")), "facts.list_price.currency"),
        (ModelFacts(street_price=Price(1.0, "€")), "facts.street_price.currency"),
        (UnitFacts(price_paid=Price(1.0, "")), "facts.price_paid.currency"),
        (UnitFacts(first_power_up=date(2027, 1, 1)), "facts.first_power_up"),
        (UnitFacts(contents=(Content(" "),)), "facts.contents.0.what"),
    ],
)
def test_facts_that_cannot_be_are_refused(facts: ModelFacts | UnitFacts, field: str) -> None:
    with pytest.raises(BadInput) as refused:
        if isinstance(facts, ModelFacts):
            refuse_unlikely_model(facts)
        else:
            refuse_unlikely_unit(facts, TODAY)
    assert refused.value.field == field


SAYINGS = st.lists(st.tuples(st.sampled_from("abc"), st.sampled_from("xyz"), st.sampled_from(("1", "2"))), max_size=6)


@given(st.lists(SAYINGS, min_size=2, max_size=4))
@examples(80)
def test_side_by_side_loses_nothing_and_marks_what_is_alike(things: list[list[tuple[str, str, str]]]) -> None:
    rows = side_by_side(things)
    labels = [(row.section, row.label) for row in rows]
    assert len(set(labels)) == len(labels)
    assert set(labels) == {(section, label) for thing in things for section, label, _ in thing}
    sections = [row.section for row in rows]
    assert all(sections[at] == sections[at - 1] or sections[at] not in sections[:at] for at in range(1, len(rows)))
    for row in rows:
        assert len(row.values) == len(things) and row.is_same == (len(set(row.values)) == 1)
        for at, thing in enumerate(things):
            own = [words for section, label, words in thing if (section, label) == (row.section, row.label)]
            assert row.values[at] == "; ".join(own)
