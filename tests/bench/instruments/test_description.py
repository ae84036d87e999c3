"""Descriptions: what ships is fit, what is not names its field, and nothing leaves that is out of its range."""

import pytest

from rulvek.bench.instruments.description import ROLES, SHIPPED, BenchRole, read_description, shipped
from rulvek.core.errors import BadInput

SUPPLY = """
name = "A supply"
identifies = "Somebody,.*"
roles = ["supply"]
safe = ["OUTPut OFF"]

[acts]
set_volts.send = "SOURce:VOLTage {volts:.3f}"
switch_on.send = ["SYSTem:REMote", "OUTPut ON"]
switch_off.send = "OUTPut OFF"
read_volts.ask = "MEASure:VOLTage?"

[ranges]
volts = { low = 1, high = 16, unit = "V" }
"""


def test_what_ships_is_fit_and_fills_every_role() -> None:
    roles = {role for one in shipped().values() for role in one.roles}
    assert roles == set(ROLES)
    generic = [one for name, one in shipped().items() if name.startswith("scpi-")]
    of_no_standard = {BenchRole.TEMPERATURES, BenchRole.TIME}
    assert {role for one in generic for role in one.roles} == set(BenchRole) - of_no_standard
    assert all(one.identifies == "" and not one.simulated for one in generic)  # whoever they are of


def test_generic_loads_of_one_value_refuse_all_others() -> None:
    loads = shipped()["scpi-switched-loads"]
    assert loads.messages("connect", channel=3, other=0, ohms=4.0) == ("ROUTe:CLOSe (@103)",)
    for given, field in (({"ohms": 2.0}, "ohms"), ({"other": 4}, "other"), ({"channel": 9}, "channel")):
        with pytest.raises(BadInput) as refused:
            loads.messages("connect", **{"channel": 3, "other": 0, "ohms": 4.0} | given)
        assert refused.value.field == field


def test_messages_are_filled_in_and_held_to_their_range() -> None:
    found = read_description(SUPPLY)
    assert found.messages("set_volts", volts=14.4) == ("SOURce:VOLTage 14.400",)
    assert found.messages("switch_on") == ("SYSTem:REMote", "OUTPut ON")
    for volts in (0.9, 16.01, float("nan"), float("inf")):
        with pytest.raises(BadInput, match="volts") as refused:
            found.messages("set_volts", volts=volts)
        assert refused.value.field == "volts"


@pytest.mark.parametrize(
    ("before", "after", "field", "words"),
    [
        ('safe = ["OUTPut OFF"]', "", "safe", "made safe"),
        ('read_volts.ask = "MEASure:VOLTage?"', "", "acts.read_volts", "how to read volts"),
        ('read_volts.ask = "', 'read_volts.send = "', "acts.read_volts", "“ask”, as it answers"),
        ('switch_off.send = "', 'switch_off.ask = "', "acts.switch_off", "“send”, as nothing answers"),
        ("{volts:.3f}", "{watts:.3f}", "acts.set_volts", "nothing is called “watts”"),
        ("{volts:.3f}", "{volts.real}", "acts.set_volts", "a brace that is no value"),
        ("{volts:.3f}", "{volts!r}", "acts.set_volts", "a brace that is no value"),
        ("{volts:.3f}", "{volts:>999999999}", "acts.set_volts", "a brace that is no value"),
        ("SOURce:VOLTage", "SOURce:VOLTage\\n", "acts.set_volts", "a line of ASCII"),
        ("SOURce:VOLTage", "SOURce:Ω", "acts.set_volts", "a line of ASCII"),
        ("Somebody,.*", "Somebody,(", "identifies", "no pattern"),
        ('roles = ["supply"]', "roles = []", "roles", "no role"),
        ('roles = ["supply"]', 'roles = ["toaster"]', "roles.0", "input should be"),
        ('roles = ["supply"]', 'roles = ["supply"]\ncolour = "red"', "colour", "no field “colour”"),
        ("low = 1, high = 16", "low = 16, high = 1", "ranges.volts", "ends before it begins"),
        ("[acts]", '[acts]\nfly.send = "FLY"', "acts.fly", "no act “fly”"),
        ('name = "A supply"', "name = ", "description", "no TOML"),
    ],
)
def test_what_is_wrong_is_named_by_field(before: str, after: str, field: str, words: str) -> None:
    assert before in SUPPLY
    with pytest.raises(BadInput) as refused:
        read_description(SUPPLY.replace(before, after), "mine.toml")
    assert refused.value.field == field and words in refused.value.what and refused.value.what.startswith("mine.toml")


@pytest.mark.parametrize(("volts", "sent"), [(14.404, "14.4"), (14.406, "14.41"), (16.006, "16"), (0.004, "0.01")])
def test_of_a_resolution_whole_steps_are_sent_and_never_one_out_of_range(volts: float, sent: str) -> None:
    text = (SHIPPED / "scpi-supply.toml").read_text(encoding="utf-8")
    told = text.replace("volts = { low = 0, high = 20,", "volts = { low = 0.003, high = 16.006, resolution = 0.01,")
    assert told != text
    assert read_description(told).messages("set_volts", volts=volts) == (f"SOURce:VOLTage {sent}",)


@pytest.mark.parametrize(
    ("was", "becomes", "field"),
    [
        ("high = 20,", "high = 20, resolution = 21,", "ranges.volts"),
        ("high = 20,", "high = 20, resolution = -1,", "ranges.volts"),
        ("-221 =", "fuse =", "meanings"),
    ],
)
def test_a_step_or_an_error_that_is_none_is_refused(was: str, becomes: str, field: str) -> None:
    text = (SHIPPED / "scpi-supply.toml").read_text(encoding="utf-8")
    with pytest.raises(BadInput) as refused:
        read_description(text.replace(was, becomes))
    assert refused.value.field == field
