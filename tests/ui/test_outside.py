"""Readings from outside on the screen: a capture is dropped, laid out, read, looked at and kept."""

import base64
import re
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, expect

CAPTURES = Path(__file__).parents[1] / "reference" / "captures"
Open = Callable[..., Page]


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
    expect(page.get_by_role("alert")).to_contain_text("notes.txt holds no table of numbers")
    drop(page, "sox_steps.wav", (CAPTURES / "sox_steps.wav").read_bytes())
    page.get_by_label("bridged pairs").check()
    expect(page.get_by_text("Say what full scale of channel 1 stands for")).to_be_visible()
    page.get_by_label("Factor of column 1").fill("60")
    page.get_by_label("Recorded with").fill("Recorder 2")
    page.get_by_label("Loaded, V").fill("14.36")
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
