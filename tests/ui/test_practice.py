"""Practice in the browser: a job from its start to its marked sheet by keyboard, an exam, two clicks for one answer."""

from itertools import count

import httpx
import pytest
from playwright.sync_api import Page, expect

from rulvek.core.practice.faults import LESSONS, REMEDY_WORDS, Fault
from rulvek.core.practice.scenarios import JOBS, Level, drawn
from tests.conftest import PERSON
from tests.ui.conftest import Open
from tests.ui.hands import Hands
from tests.ui.test_sizes import WCAG, sideways
from tests.ui.test_story import AXE, faults, see_to_everything

WRONG_LOAD = LESSONS[Fault.WRONG_LOAD]
SEED = next(seed for seed in count() if drawn(Level.FIRST, seed).faults == (Fault.WRONG_LOAD,))


def test_a_job_from_its_start_to_its_marked_sheet_by_keyboard(open_page: Open, address: str) -> None:
    page = open_page("/bench")
    hands = Hands(page)
    hands.press(page.get_by_role("link", name="Practice", exact=True))
    hands.fill(page.get_by_label("Seed"), str(SEED))
    hands.keys.press("Enter")
    expect(page.get_by_role("heading", name="What is wrong?")).to_be_visible()
    loads = page.get_by_role("table", name="Loads").get_by_role("row").nth(1)
    planned, measured = (float(loads.get_by_role("cell").nth(at).inner_text()) for at in (1, 2))
    assert measured < 0.7 * planned  # what the trainee has to see
    hands.tick(page.get_by_role("checkbox", name=WRONG_LOAD.words))
    hands.choose(page.get_by_role("combobox", name="What is to be done"), REMEDY_WORDS[WRONG_LOAD.remedy])
    expect(page.get_by_role("button", name="Have it marked")).to_be_disabled()
    hands.reach(page.get_by_role("radio", name="Backed", exact=True))
    hands.keys.press("ArrowRight")
    hands.keys.press("ArrowRight")
    expect(page.get_by_role("radio", name="Nothing yet")).to_be_checked()
    hands.reach(page.get_by_role("radio", name="It holds"))
    hands.keys.press("ArrowRight")
    hands.press(page.get_by_role("button", name="Have it marked"))
    sheet = page.get_by_label("Marked sheet")
    expect(sheet).to_contain_text(f"Found: {WRONG_LOAD.words}")
    expect(sheet).to_contain_text("Right: of the claim, nothing yet")
    expect(sheet).to_contain_text("Measured on sound simulated units.")
    page.evaluate(AXE.read_text())
    assert faults(page, WCAG) == []
    assert httpx.get(f"{address}/api/attempts", headers=PERSON).json()["items"] == []  # never evidence


def answered(page: Page) -> None:
    """Somebody who sees nothing, and presses twice."""
    page.get_by_text("Backed", exact=True).click()
    page.get_by_text("It does not", exact=True).click()
    page.get_by_role("button", name="have it marked").dblclick()


def test_an_exam_goes_from_job_to_job_and_is_on_record(open_page: Open) -> None:
    page = open_page("/practice")
    page.get_by_role("button", name="Begin an exam of five").click()
    for place in range(1, 6):
        expect(page.get_by_text(f"job {place} of 5 of an exam")).to_be_visible()
        if place == 3:  # gone for a while, and back
            page.goto("/practice")
            expect(page.get_by_role("button", name="Begin an exam of five")).to_have_count(0)
            page.get_by_role("link", name="Go on with it").click()
            expect(page.get_by_text("job 3 of 5 of an exam")).to_be_visible()
        answered(page)
    expect(page.get_by_label("Marked sheet")).to_contain_text("not passed")
    page.get_by_role("link", name="All that you practised").click()
    expect(page.get_by_role("table", name="Exams")).to_contain_text("Tamsin Oduwell")
    other = open_page("/practice", person="Joren Haldvik")
    expect(other.get_by_role("table", name="Exams")).to_contain_text("not passed")
    expect(other.get_by_text("None yet.")).to_be_visible()


def test_what_was_ticked_survives_a_reload(open_page: Open) -> None:
    page = open_page("/practice")
    page.get_by_role("button", name="Begin a job").click()
    page.get_by_role("checkbox", name="There is hum in the output").check()
    page.reload()
    expect(page.get_by_role("checkbox", name="There is hum in the output")).to_be_checked()
    expect(page.get_by_text("Say what is to be done about each fault.")).to_be_visible()


SOUND = next(
    seed
    for seed in count()
    if not (job := drawn(Level.SECOND, seed)).faults and job.job is JOBS["two"] and job.claim_share < 1
)


@pytest.mark.bench_speed(100.0)
def test_a_campaign_is_carried_to_its_verdict_on_the_practice_bench(open_page: Open, address: str) -> None:
    """With the screens of a real bench, by the keyboard; then it is answered, and nothing of it is on record."""
    body = {"level": "second", "seed": SOUND}
    job = httpx.post(f"{address}/api/practice", json=body, headers=PERSON, timeout=60).json()["id"]
    page = open_page(f"/practice/{job}")
    hands = Hands(page)
    hands.press(page.get_by_role("button", name="Run it yourself"))
    page.wait_for_url(f"**/practice-bench/{job}/campaigns/1/live")
    expect(page.get_by_text("Nothing here is evidence")).to_be_visible()
    see_to_everything(page)
    page.keyboard.press("Space")
    expect(page.get_by_role("link", name="Read the campaign sheet")).to_be_visible()
    page.evaluate(AXE.read_text())
    assert faults(page, WCAG) == [] and not sideways(page)
    page.reload()  # it is as it was left
    hands.press(page.get_by_role("link", name="Read the campaign sheet"))
    page.wait_for_url(f"**/practice-bench/{job}/campaigns/1")
    verdicts = page.get_by_role("table", name="Verdicts by claim")
    expect(verdicts).to_contain_text("Backed, simulated")
    assert httpx.get(f"{address}/api/campaigns", headers=PERSON).json()["items"] == []
    other = open_page(f"/practice-bench/{job}/campaigns/1", person="Joren Haldvik")
    expect(other.get_by_text(f"There is no practice job number {job} of yours").first).to_be_visible()
    hands.press(page.get_by_role("link", name=f"Back to job {job}"))
    expect(page.get_by_role("heading", name="What is wrong?")).to_be_visible()
    page.get_by_text("Backed", exact=True).click()
    page.get_by_text("It does not", exact=True).click()
    page.get_by_role("button", name="have it marked").click()
    expect(page.get_by_label("Marked sheet")).to_contain_text("Right: of the claim, it is backed")
