"""What is kept with products, on screen: received on a tablet, opened, photographed, listened to, compared."""

import io
import re
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, Route, expect

from tests.pictures import drawn
from tests.ui.conftest import Open, choose, until


def picture(name: str, height: int = 480) -> dict[str, object]:
    return {"name": name, "mimeType": "image/jpeg", "buffer": drawn((640, height))}


def test_a_unit_is_received_while_the_server_is_away_and_nothing_is_lost(open_page: Open) -> None:
    page = open_page("/models/1/receive")
    page.get_by_label("Serial number").fill("T2-0077")
    choose(page, "How it came", "sample")
    page.get_by_role("button", name="Add a thing").click()
    page.get_by_label("What", exact=True).fill("Bass remote")
    page.locator("input[type=file]").set_input_files([picture("a.jpg"), picture("b.jpg", 640)])  # type: ignore[list-item]
    expect(page.get_by_role("img", name="Photograph")).to_have_count(2)

    def gone(route: Route) -> None:
        route.abort()

    page.context.route("**/api/models/**", gone)
    page.context.route("**/api/files**", gone)
    page.get_by_role("button", name="Receive the unit").click()
    expect(page.get_by_text("All of it is kept on this device")).to_be_visible()
    # The tablet is put away, and taken up again.
    page.reload()
    expect(page.get_by_label("Serial number")).to_have_value("T2-0077")
    expect(page.get_by_role("img", name="Photograph")).to_have_count(2)
    page.get_by_role("button", name="Receive the unit").click()
    expect(page.get_by_text("All of it is kept on this device")).to_be_visible()
    page.context.unroute("**/api/models/**", gone)
    page.context.unroute("**/api/files**", gone)
    # By itself, as soon as the server is back.
    expect(page.get_by_role("heading", name="T2-0077")).to_be_visible()
    page.get_by_role("link", name="How it came, inside, listening").click()
    expect(page.locator(".pictures img")).to_have_count(2)
    expect(page.get_by_text("1 × Bass remote")).to_be_visible()
    page.goto("/models/1/receive")
    expect(page.get_by_label("Serial number")).to_have_value("")
    expect(page.get_by_role("img", name="Photograph")).to_have_count(0)


def test_a_photograph_carries_markers_put_by_click_and_moved_by_keys(open_page: Open) -> None:
    page = open_page("/units/1/file")
    page.locator("input[type=file]").set_input_files(picture("board.jpg"))  # type: ignore[arg-type]
    page.get_by_role("button", name="no caption").click()
    dialog = page.get_by_role("dialog")
    shown = dialog.get_by_role("img", name="Photograph")
    expect(shown).to_be_visible()
    until(page, "document.getAnimations().every(one => one.playState !== 'running')")
    until(page, "document.querySelector('.picture img').complete")
    box = shown.bounding_box()
    assert box
    page.mouse.click(box["x"] + box["width"] * 0.25, box["y"] + box["height"] * 0.5)
    dialog.get_by_label("Part at marker 1").fill("Fuse 1")
    dialog.get_by_role("button", name="Put a marker in the middle").click()
    dialog.get_by_label("Part at marker 2").fill("Transformer")
    marker = dialog.get_by_role("button", name="Marker 2: Transformer")
    for _ in range(3):
        marker.press("ArrowRight")
    dialog.get_by_label("Caption").fill("The board")
    dialog.get_by_role("button", name="Keep it").click()
    expect(dialog).to_have_count(0)
    page.reload()
    page.get_by_role("button", name="The board 2 marked").click()
    style = dialog.get_by_role("button", name="Marker 2: Transformer").get_attribute("style") or ""
    assert "left: 53%" in style and "top: 50%" in style
    first = dialog.get_by_role("button", name="Marker 1: Fuse 1").get_attribute("style") or ""
    left = float(first.split("left: ")[1].split("%")[0])
    assert left == pytest.approx(25, abs=1)


def test_nothing_is_kept_of_an_opening_before_it_was_safe(open_page: Open) -> None:
    page = open_page("/units/1/file")
    page.get_by_role("button", name="It was opened").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text("discharge the capacitors")).to_be_visible()
    keep = dialog.get_by_role("button", name="Keep it")
    expect(keep).to_be_disabled()
    for in_circuit in (True, False):
        dialog.get_by_role("button", name="Add a fuse").click()
        dialog.get_by_label("Fuse, A").last.fill("30")
        if not in_circuit:
            dialog.get_by_label("really in circuit").last.uncheck()
    expect(keep).to_be_disabled()
    dialog.get_by_label("capacitors were discharged and measured").check()
    keep.click()
    expect(page.get_by_text("1 of 2 fuses is in circuit: 30 A, not 60 A")).to_be_visible()
    page.goto("/units/1")
    expect(page.get_by_role("note")).to_contain_text("1 of 2 fuses is in circuit")


def test_who_edits_the_same_thing_is_told_and_a_stale_text_is_shown_beside(open_page: Open) -> None:
    """Both names stand there within the second; who comes second sees both texts and decides."""
    pages = [open_page("/models/1", person) for person in ("Tamsin Oduwell", "Joren Haldvik")]
    for page in pages:
        page.get_by_role("button", name="Add a lot").click()
        page.keyboard.press("Escape")
    first, second = pages
    first.get_by_role("button", name="Add a lot").click()
    dialog = first.get_by_role("dialog")
    dialog.get_by_label("Lot").fill("2604")
    dialog.get_by_role("button", name="Add the lot").click()
    for page in pages:
        page.get_by_role("table", name="Lots of Test two").get_by_role("button", name="Change").click()
    expect(first.get_by_text("Joren Haldvik has this open, too.")).to_be_visible()
    expect(second.get_by_text("Tamsin Oduwell has this open, too.")).to_be_visible()
    for page, words in ((first, "From line 1"), (second, "From line 2")):
        page.get_by_role("dialog").get_by_label("Remarks").fill(words)
    first.get_by_role("button", name="Keep the change").click()
    expect(first.get_by_role("dialog")).to_have_count(0)
    second.get_by_role("button", name="Keep the change").click()
    both = second.get_by_role("region", name="Both texts")
    expect(both).to_contain_text("From line 2")
    expect(both).to_contain_text("From line 1")
    both.get_by_role("button", name="Keep mine over it").click()
    expect(second.get_by_role("dialog")).to_have_count(0)
    expect(first.get_by_role("table", name="Lots of Test two")).to_contain_text("From line 2")


def test_papers_stand_in_one_picture_with_their_own_files(open_page: Open, tmp_path: Path) -> None:
    page = open_page("/models/1")
    dialog = page.get_by_role("dialog")
    page.get_by_role("button", name="Add a claim").click()
    for label, value in (("Document", "Carton"), ("Where in it", "long side"), ("Power, W", "95"), ("Load, Ω", "4")):
        dialog.get_by_label(label, exact=True).fill(value)
    dialog.get_by_label("Supply, V").fill("14.4")
    dialog.get_by_label("THD+N limit, %").fill("1")
    dialog.get_by_role("button", name="Add the claim").click()
    papers = page.get_by_role("table", name="What which paper says at which load")
    expect(papers.get_by_role("row", name=re.compile("^Carton"))).to_contain_text("95 W")
    expect(papers.get_by_role("row", name=re.compile("^Carton"))).to_contain_text("long side")
    expect(papers.get_by_role("row", name=re.compile("^Manual"))).to_contain_text("against 95 W in Carton")
    papers.get_by_role("row", name=re.compile("^Carton")).get_by_role("button", name="Change").click()
    sent = {"name": "carton.pdf", "mimeType": "application/pdf", "buffer": b"%PDF-1.4 a carton"}
    dialog.locator("input[type=file]").set_input_files(sent)  # type: ignore[arg-type]
    expect(dialog.get_by_text("carton.pdf is here.")).to_be_visible()
    dialog.get_by_role("button", name="Keep the change").click()
    with page.expect_download() as taken:
        papers.get_by_role("row", name=re.compile("^Carton")).get_by_role("link", name="open").click()
    taken.value.save_as(tmp_path / "carton.pdf")
    assert (tmp_path / "carton.pdf").read_bytes() == sent["buffer"] and taken.value.suggested_filename == "carton.pdf"


def test_a_wire_is_read_from_a_recording_and_kept_as_a_record(open_page: Open) -> None:
    page = open_page("/units/1/file")
    t = np.arange(48_000) / 48_000
    volts = 16 * np.sqrt(2) * np.sin(2 * np.pi * 50 * t)
    out = io.BytesIO()
    soundfile.write(out, np.column_stack([volts / 40, volts / 4 / 20]), 48_000, format="WAV", subtype="FLOAT")
    page.get_by_role("button", name="Add a record").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text("Wear ear protection")).to_be_visible()
    expect(dialog.get_by_role("button", name="Keep it")).to_be_disabled()
    dialog.get_by_label("On", exact=True).click()
    page.keyboard.type("2026-11-20")
    page.keyboard.press("Enter")
    expect(page.locator(".ant-picker-dropdown:visible")).to_have_count(0)
    wave = {"name": "wire.wav", "mimeType": "audio/wav", "buffer": out.getvalue()}
    dialog.locator("input[type=file]").set_input_files(wave)  # type: ignore[arg-type]
    expect(dialog.get_by_text("|Z| 4.00 Ω, 64.0 W real of 64.0 VA, 0.0° at 50.0 Hz")).to_be_visible()
    dialog.get_by_role("button", name="Add a meter").click()
    dialog.get_by_label("Meter", exact=True).fill("M1")
    dialog.get_by_label("Levels of all repeats, dB").fill("121,4 121,97")
    dialog.get_by_label("Where the sensor was").fill("seat")
    dialog.get_by_role("button", name="Keep it").click()
    expect(dialog).to_have_count(0)
    listening(page)


def test_units_are_put_side_by_side_by_their_names_from_nothing(open_page: Open) -> None:
    page = open_page("/models/1/receive")
    for serial in ("T2-0081", "T2-0082"):
        page.goto("/models/1/receive")
        page.get_by_label("Serial number").fill(serial)
        page.get_by_role("button", name="Receive the unit").click()
        expect(page.get_by_role("heading", name=serial)).to_be_visible()
    page.goto("/side-by-side")
    expect(page.get_by_text("Nothing is chosen yet.")).to_be_visible()
    field = page.get_by_label("Add a unit, by any part of its name")
    for serial in ("T2-0081", "T2-0082"):
        field.fill(serial)
        expect(page.get_by_role("list", name="Found").get_by_text(serial)).to_be_visible()
        field.press("Enter")
        expect(field).to_have_value("")
    for serial in ("T2-0081", "T2-0082"):
        expect(page.get_by_role("columnheader", name=serial)).to_be_visible()
    field.fill("T2-0081")  # it is there already
    expect(page.get_by_text("Nothing goes by that name.")).to_be_visible()


def listening(page: Page) -> None:
    """What the record says, and what it asks of people who read it."""
    shown = page.locator("article").filter(has_text="2026-11-20")
    expect(shown).to_contain_text("121.97 dB best of repeats, M1")
    expect(shown).to_contain_text("64.0 W real")
    expect(page.get_by_role("note").filter(has_text="ear protection")).to_be_visible()
