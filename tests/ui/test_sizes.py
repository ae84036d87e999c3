"""Every route in both themes at four sizes: nothing sideways, nothing against WCAG 2.2 AA, a title of its own."""

import pytest
from playwright.sync_api import Page, expect

from tests.ui.conftest import Open, until
from tests.ui.test_story import AXE, faults, see_to_everything

ROUTES = (
    "/line",
    "/models/1",
    "/units/1",
    "/line/spreadsheet",
    "/line/bundle",
    "/models/1/receive",
    "/models/1/bears",
    "/ratings",
    "/ratings/1",
    "/ratings/compare",
    "/ratings/audits",
    "/units/1/file",
    "/side-by-side?kind=unit&id=1,2",
    "/history/unit/1",
    "/units/1/plan",
    "/bench",
    "/bench/today",
    "/practice",
    "/practice/1",
    "/practice/2",
    "/campaigns/1",
    "/campaigns/1/live",
    "/attempts/1",
    "/evidence",
    "/gear",
    "/gear/methods",
    "/evidence/read-again",
    "/gear/benches/new",
    "/gear/benches/1",
    "/desk",
    "/desk?of=loads",
    "/desk?of=tones",
    "/units/1/typed",
    "/units/1/sheet",
    "/units/1/recorded",
    "/evidence/earlier",
    "/words",
    "/people",
    "/backups",
    "/account",
    "/begin",
    "/nowhere",
)
OFTEN = ("/line", "/models/1", "/campaigns/1", "/campaigns/1/live", "/attempts/1")
SIZES = ((1280, 800), (1024, 768), (800, 1280), (640, 400))  # the last one is the first at 200 %
COLOURS = "runOnly: ['color-contrast']"
"""All that the dark theme changes."""
WCAG = "runOnly: ['wcag2a', 'wcag2aa', 'wcag22aa']"


def sideways(page: Page) -> bool:
    return bool(page.evaluate("document.documentElement.scrollWidth > innerWidth"))


SECOND = """fetch('/api/models/1/units', {
  method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({serial: 'T2-0002'})
})"""

DRAFTED = """fetch('/api/models/1/ratings', {
  method: 'POST', headers: {'Content-Type': 'application/json'},
  body: JSON.stringify({at: {group: 'main', load_ohms: 4}, watts: 60})
})"""


PRACTISED = """(async () => {
  const post = (path, body) => fetch('/api/practice' + path, {
    method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify(body)
  })
  await post('', {level: 'second', seed: 12})
  await post('', {level: 'second', seed: 12})
  await post('/2/answer', {faults: {'hum': 'cool'}, claim: 'backed', saying_holds: true})
})()"""
"""A job that is open, and one that is marked with all that a marked sheet can say."""


@pytest.mark.bench_speed(3.0)
@pytest.mark.parametrize(
    ("routes", "sizes"),
    [(OFTEN, (SIZES[0], SIZES[-1])), pytest.param(ROUTES, SIZES, marks=pytest.mark.long)],
    ids=["often", "all"],
)
def test_every_route_at_every_size_in_both_themes(
    open_page: Open, routes: tuple[str, ...], sizes: tuple[tuple[int, int], ...]
) -> None:
    """Nothing runs sideways, nothing is against axe: the pages that are looked at most, and in the long run all."""
    page = open_page("/units/1/plan")
    page.get_by_role("button", name="Take it to the bench").click()
    see_to_everything(page)
    page.keyboard.press("Space")
    expect(page.get_by_text("certified, at the limit")).to_be_visible()
    page.evaluate(SECOND)
    page.evaluate(DRAFTED)
    if "/practice/1" in routes:
        page.evaluate(PRACTISED)
    found, titles = {}, []
    for path in routes:
        page.goto(path)
        expect(page.get_by_role("heading").first).to_be_visible()
        expect(page.get_by_text("Reading the records …")).to_have_count(0)
        page.wait_for_timeout(250)  # what is asked for after that
        titles.append(page.title())
        wrong = []
        page.evaluate(AXE.read_text())  # a page may not carry a script that is not its own
        for theme, rules in (("paper", WCAG), ("dark", COLOURS)):
            for size in sizes:
                page.set_viewport_size({"width": size[0], "height": size[1]})
                until(page, "document.getAnimations().every(one => one.playState !== 'running')")
                at = f"{theme}, {size[0]} × {size[1]}: "
                if sideways(page):
                    wrong.append(f"{at}{page.evaluate('document.documentElement.scrollWidth')} px wide")
                wrong += [at + one for one in faults(page, rules)]
            page.evaluate("document.activeElement?.blur()")
            page.keyboard.press("Shift+D")
            dark = page.evaluate("document.documentElement.dataset.theme") == "dark"
            assert dark == (theme == "paper")
        if wrong:
            found[path] = wrong
    assert not found, "\n".join(f"{where}: {one}" for where, wrong in found.items() for one in wrong)
    assert all(title.endswith(" – Rulvek") for title in titles) and len(set(titles)) > len(routes) / 2


@pytest.mark.long
@pytest.mark.bench_speed(0.4)  # a run that is on all the while
@pytest.mark.parametrize("theme", ["paper", "dark"])
def test_dialogs_and_a_run_that_is_on_are_accessible(open_page: Open, theme: str) -> None:
    page = open_page("/models/1")
    found: dict[str, list[str]] = {}
    if theme == "dark":
        page.keyboard.press("Shift+D")

    def look(where: str) -> None:
        until(page, "document.getAnimations().every(one => one.playState !== 'running')")
        page.evaluate(AXE.read_text())  # a page may not carry a script that is not its own
        wrong = faults(page, WCAG if theme == "paper" else COLOURS)
        if wrong:
            found[where] = wrong

    def look_at_dialog(where: str) -> None:
        expect(page.get_by_role("dialog")).to_be_visible()
        look(where)
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)

    page.get_by_role("button", name="Add a claim").click()
    look_at_dialog("a claim")
    page.get_by_role("button", name="Withdraw").first.click()
    look_at_dialog("a withdrawal")
    for what in ("a document", "a revision", "a lot"):
        page.get_by_role("button", name=f"Add {what}").click()
        look_at_dialog(what)
    page.get_by_role("button", name="Change", exact=True).last.click()
    look_at_dialog("about the model")
    page.goto("/units/1")
    page.get_by_role("button", name="Change", exact=True).click()
    look_at_dialog("a unit")
    page.goto("/units/1/file")
    for button in ("It was opened", "Add a record"):
        page.get_by_role("button", name=button).click()
        for add in ("Add a part", "Add a fuse", "Add a meter", "Compare with another unit"):
            if page.get_by_role("button", name=add).count():
                page.get_by_role("button", name=add).click()
        look_at_dialog(button)
    page.goto("/line")
    page.get_by_role("button", name="Add a series").click()
    look_at_dialog("a series")
    page.get_by_role("button", name="Add a model to Test series").click()
    look_at_dialog("a model")
    page.keyboard.press("?")
    look_at_dialog("keys")
    page.keyboard.press("/")
    page.keyboard.type("t")
    expect(page.get_by_role("option").first).to_be_visible()
    look("the go box")
    page.goto("/people")
    page.get_by_role("button", name="Add a person").click()
    look_at_dialog("a person")
    page.get_by_role("button", name="Token for Joren Haldvik").click()
    look_at_dialog("a token")
    page.get_by_role("button", name="Joren Haldvik has left").click()
    look_at_dialog("who left")
    page.goto("/units/1/plan")
    page.get_by_role("button", name="Change run 1", exact=True).click()
    look("a run that is changed")
    page.get_by_role("button", name="Take it to the bench").click()
    if page.get_by_role("alert").filter(has_text="A run is being changed").is_visible():
        page.locator(".editor").get_by_role("button", name="Cancel").click()
        page.get_by_role("button", name="Take it to the bench").click()
    page.get_by_role("button", name="Skip …").first.click()
    look_at_dialog("skipping")
    see_to_everything(page)
    page.keyboard.press("Space")
    expect(page.locator(".sheet .state")).to_have_text("level rising")
    look("running")
    page.keyboard.press("c")
    expect(page.get_by_role("dialog")).to_be_visible()
    look("a comment while it runs")
    page.keyboard.press("Escape")  # off
    expect(page.locator(".sheet .state")).to_have_text("stopped by operator")
    assert not found, "\n".join(f"{where}: {one}" for where, wrong in found.items() for one in wrong)


@pytest.mark.bench_speed(1.0)
@pytest.mark.parametrize("size", SIZES[1:])
def test_off_is_in_view_whatever_the_size(open_page: Open, size: tuple[int, int]) -> None:
    page = open_page("/units/1/plan")
    page.get_by_role("button", name="Take it to the bench").click()
    expect(page.get_by_role("list", name="Before power")).to_be_visible()
    page.set_viewport_size({"width": size[0], "height": size[1]})
    off = page.get_by_role("button", name="Off")
    for at in ("0", "document.body.scrollHeight / 2", "document.body.scrollHeight"):
        page.evaluate(f"scrollTo(0, {at})")
        expect(off).to_be_in_viewport(ratio=1)
        box = off.bounding_box()
        assert box is not None and box["height"] >= 44 and box["width"] >= 44
