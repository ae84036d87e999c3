"""What a model's units bear, on screen: asked by load, share, confidence and a figure, answered with its units."""

from dataclasses import replace
from pathlib import Path

from playwright.sync_api import Browser, expect

from rulvek.core.records.facts import Came
from rulvek.store import save
from tests.conftest import CERTIFIED, TAMSIN, new_unit, put_attempt, services_in, write_line
from tests.serving import served
from tests.ui.conftest import PATIENCE_MS, WEB, choose, come_in


def test_a_sample_is_asked_what_it_bears(browser: Browser, tmp_path: Path) -> None:
    services = services_in(tmp_path)
    write_line(services)
    for at, watts in enumerate((80.2, 81.5, 79.6, 80.9, 82.0, 80.4, 66.0)):
        with services.database.writing() as session:
            unit = replace(new_unit(1, f"T2-1{at}"), lot=f"26{at % 3}")
            returned = replace(unit.facts, came=Came.RETURNED) if at == 6 else unit.facts
            unit_id = save.unit(session, replace(unit, facts=returned))
        put_attempt(services, services.campaigns.create(unit_id, TAMSIN, CERTIFIED).id, (watts, watts + 1))
    with served(services, WEB) as address:
        context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
        page = context.new_page()
        page.set_default_timeout(PATIENCE_MS)
        come_in(context, address, "Tamsin Oduwell")
        page.goto("/models/1")
        page.get_by_role("link", name="What its units bear").click()
        expect(page.get_by_text("6 units of 3 lots")).to_be_visible()
        table = page.get_by_role("table", name="Units of the sample")
        expect(table.get_by_role("row", name="T2-16")).to_contain_text("It was returned.")
        expect(table.get_by_role("row", name="T2-0001")).to_contain_text("Nobody has tested it at 4 Ω.")
        before = page.locator(".told .figure strong").inner_text()
        choose(page, "Of all units", "90 %")
        expect(page.get_by_text("90 % of all units give")).to_be_visible()
        assert "share=0.9" in page.url  # it can be sent to somebody
        after = page.locator(".told .figure strong").inner_text()
        assert float(after.split()[0]) > float(before.split()[0])
        page.get_by_label("Figure to print").fill("79")
        expect(page.get_by_text("more units would bear 79 W, if they are as these.")).to_be_visible()
        table.get_by_role("row", name="T2-12").get_by_role("button", name="Leave out").click()
        expect(page.get_by_text("5 units of 3 lots")).to_be_visible()
        page.reload()  # what is tried stands in the address
        expect(page.get_by_text("5 units of 3 lots")).to_be_visible()
        table.get_by_role("button", name="Take back").click()
        expect(page.get_by_text("6 units of 3 lots")).to_be_visible()
        table.get_by_role("link", name="T2-10").click()
        expect(page).to_have_url(f"{address}/attempts/1")
        context.close()
    services.close()
