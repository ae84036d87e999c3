"""Readings from outside on the screen: a capture is dropped, laid out, read, looked at and kept."""

import base64
import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.ui.conftest import Open, choose, say_the_run
from tests.ui.test_story import AXE

pytestmark = pytest.mark.long

CAPTURES = Path(__file__).parents[1] / "reference" / "captures"


def drop(page: Page, name: str, content: bytes) -> None:
    """Drop a file as a person does: onto the field, from outside the browser."""
    script = """([name, content]) => {
        const transfer = new DataTransfer()
        transfer.items.add(new File([Uint8Array.from(atob(content), (c) => c.charCodeAt(0))], name))
        return transfer
    }"""
    transfer = page.evaluate_handle(script, [name, base64.b64encode(content).decode()])
    page.locator(".drop").dispatch_event("drop", {"dataTransfer": transfer})


def test_a_capture_is_dropped_read_and_kept(open_page: Open) -> None:
    page = open_page("/units/1/recorded")
    drop(page, "notes.txt", b"only words\n")
    expect(page.get_by_role("alert").filter(has_text="notes.txt holds no table of numbers")).to_be_visible()
    drop(page, "sox_steps.wav", (CAPTURES / "sox_steps.wav").read_bytes())
    say_the_run(page)
    page.get_by_label("bridged pairs").check()
    expect(page.get_by_text("Say what full scale of channel 1 stands for")).to_be_visible()
    page.get_by_label("Factor of column 1").fill("60")
    page.get_by_label("Recorded with").fill("Recorder 2")
    page.get_by_label("Loaded, V").fill("14.36")
    page.evaluate(AXE.read_text())  # a page may not carry a script that is not its own
    report = page.evaluate("axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag22aa'] })")
    assert [violation["id"] for violation in report["violations"]] == []
    page.reload()  # nothing that was said is lost, and the file is still there
    expect(page.get_by_label("Recorded with")).to_have_value("Recorder 2")
    page.get_by_label("Loaded, V").press("Enter")
    expect(
        page.get_by_role("img", name=re.compile(r"Channel 1 over 2.0 s, 24.1 V peak, 4 stretches found"))
    ).to_be_visible()
    # 0.4 of 60 V peak into 4 Ω: 72 W
    expect(page.locator(".main .mono")).to_have_text("72.0")
    expect(page.get_by_text("stopped-short")).to_be_visible()
    page.get_by_label("Load, Ω").fill("8")
    page.get_by_role("button", name="Read it again").click()
    expect(page.locator(".main .mono")).to_have_text("36.0")
    page.get_by_role("button", name="Keep it as evidence").click()
    expect(page.get_by_text("recorded with Recorder 2")).to_be_visible()
    expect(page.get_by_role("link", name="sox_steps.wav")).to_be_visible()
    expect(page.get_by_role("img", name="Output of channel 1 over time")).to_be_visible()
    expect(page.get_by_text("fingerprint intact")).to_be_visible()


def test_a_table_of_earlier_results_is_seen_through_before_it_is_kept(open_page: Open) -> None:
    page = open_page("/evidence/earlier")
    table = (
        "Serial,Mode,Load,Power 1,Power 2,Supply at\nT2-0001,certified,4,80.5,81,14.4\nT2-9,certified,4,80,81,14.4\n"
    )
    drop(page, "old.csv", table.encode())
    page.get_by_label("Read with").fill("Meter 4")
    expect(page.get_by_text("There is no unit with the serial number “T2-9”")).to_be_visible()
    page.get_by_role("checkbox", name="all of it or nothing").check()
    expect(page.get_by_role("button", name="Keep all of it")).to_be_disabled()
    page.get_by_role("checkbox", name="all of it or nothing").uncheck()
    expect(page.get_by_role("row", name="2 T2-0001 Certified, 4 Ω 80.5")).to_be_visible()
    page.get_by_role("button", name="Keep what can be taken").click()
    expect(page.get_by_text("1 reading kept, 1 row left out.")).to_be_visible()
    page.get_by_role("link", name="See them among the evidence").click()
    expect(page.get_by_role("row", name=re.compile("earlier result.*T2-0001"))).to_be_visible()


def test_the_desk_draws_a_load_saves_a_tone_and_fills_a_sheet(open_page: Open) -> None:
    page = open_page("/desk?of=loads&ohms=2.667&watts=300&tolerance=1")
    page.get_by_label("On the shelf").fill("8 Ω 300 W; 4 Ω 500 W")
    page.get_by_label("On the shelf").press("Enter")
    expect(page.get_by_role("img", name="8 Ω + 4 Ω in parallel")).to_be_visible()
    assert "shelf=" in page.url
    page.get_by_role("button", name="Test tones").click()
    choose(page, "Signal", "Bursts")
    page.get_by_label("Length, s").fill("2")
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save the tone as WAV").click()
    assert Path(saved.value.path()).read_bytes()[:4] == b"RIFF"
    assert "kind=burst" in page.url
    page.get_by_role("button", name="Volts, watts, ohms").click()
    page.get_by_label("Volts rms").fill("18.2")
    page.get_by_role("button", name="Take it there").click()
    expect(page.get_by_label("Channel 1")).to_have_value("18.2")
    page.get_by_label("Held at, V").fill("14.4")
    expect(page.locator(".main .mono")).to_have_text("82.8")  # 18.2² / 4


def test_a_second_instrument_disagrees_and_the_verdict_is_in_doubt(open_page: Open) -> None:
    page = open_page("/desk?of=power&volts_rms=18.2&ohms=4")
    page.get_by_role("button", name="Take it there").click()
    page.get_by_label("Held at, V").fill("14.4")
    choose(page, "How it ended", "at the limit")
    page.get_by_label("Channel 2").fill("18.3")
    page.get_by_label("THD+N, %").fill("0.9")
    page.get_by_label("Instrument", exact=True).fill("Meter 4")
    page.get_by_label("At the reading, V").fill("14.38")
    page.get_by_label("controls in test position").check()
    page.get_by_label("At the reading, V").press("Enter")
    expect(page.get_by_text("by hand, read with Meter 4")).to_be_visible()
    page.get_by_role("button", name="Add a second instrument’s reading …").click()
    page.get_by_role("textbox", name="Instrument").fill("Oscilloscope 2")
    page.get_by_label("Its limits, ± of volts, %").fill("1")
    page.get_by_label("Channel 1").fill("19.4")
    page.get_by_role("button", name="Keep it", exact=True).click()
    expect(page.get_by_text("instruments-disagree")).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("Oscilloscope 2"))).to_be_visible()
    page.goto("/line")
    expect(page.get_by_role("img", name=", in doubt").first).to_be_visible()
    choose(page, "Decision rule", "simple rule: the figure as it is")
    expect(page).to_have_url(re.compile("rule=simple"))
    page.goto("/models/1")  # the same on every page, and in its address
    expect(page).to_have_url(re.compile("rule=simple"))
    expect(page.get_by_text("simple rule: the figure as it is").first).to_be_visible()
    page.goto("/evidence")
    figure = page.get_by_title(re.compile("^± .* W at 95 %"))
    expect(figure).to_have_text("82.8")
    page.keyboard.press("Shift+U")  # every watt with its ± U
    expect(figure).to_contain_text("±")


def test_a_units_readings_are_kept_from_one_sheet(open_page: Open) -> None:
    page = open_page("/units/1")
    page.get_by_role("button", name="A sheet of them").click()
    expect(page.get_by_text("Type what was read in at least one cell.")).to_be_visible()
    page.get_by_label("Read with").fill("Meter 4")
    page.get_by_label("Held at, V").fill("14,4")
    certified = page.get_by_label("Certified, main, 4 Ω", exact=True)
    certified.fill("80.6")
    expect(page.get_by_text("2 figures, parted by blanks, of 1, 2; “–” is one")).to_be_visible()
    certified.fill("80.6 81")
    page.get_by_label("Certified, main, 4 Ω, supply loaded", exact=True).fill("14.38")
    page.get_by_label("Burst, main, 4 Ω", exact=True).fill("70 71")
    expect(
        page.get_by_text("order unusual")
    ).to_be_visible()  # the burst gave less than the certified reading beside it
    page.get_by_role("button", name="Read again: Certified, main, 4 Ω").click()
    page.get_by_label("Certified, main, 4 Ω, attempt 2, why it was read again").fill("A contact was mended")
    again = page.get_by_label("Certified, main, 4 Ω, attempt 2", exact=True)
    again.fill("82W –")
    expect(page.get_by_text("82.0")).to_be_visible()
    page.reload()  # a draft survives
    expect(certified).to_have_value("80.6 81")
    expect(again).to_have_value("82W –")
    keep = page.get_by_role("button", name="Keep the sheet")
    expect(keep).to_be_enabled()
    keep.dblclick()
    expect(page.get_by_role("heading", name="Campaign sheet")).to_be_visible()
    expect(page.locator("table.sheet tbody tr")).to_have_count(2)
    page.goto("/units/1")
    expect(page.get_by_role("row").filter(has_text="2 of 2")).to_have_count(1)  # once, however often it was pressed
