"""Benches in the browser: put together from what answers on loopback, looked at, two at once, a plug that is pulled."""

import time
from collections.abc import Iterator
from datetime import date, timedelta

import httpx
import pytest
from playwright.sync_api import Locator, Page, expect

from rulvek.bench.instruments.by_hand import Asking, Question
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.instruments.devices import SimulatedInstruments
from rulvek.bench.sim.instruments.scpi import Tree
from rulvek.bench.sim.instruments.server import SocketInstrument, on_sockets
from rulvek.composition import Services
from rulvek.core.records.campaigns import SIMULATED
from tests.bench.instruments.hands import Person
from tests.bench.sound.fake import put
from tests.conftest import CERTIFIED_PLAN, PERSON, TAMSIN, prepare_over_http
from tests.ports import free_port
from tests.ui.conftest import PATIENCE_MS, Open, choose
from tests.ui.test_sizes import WCAG, sideways
from tests.ui.test_story import AXE, faults

PORTS = 20
Running = dict[str, SocketInstrument]


@pytest.fixture
def behind() -> SimulatedBench:
    """What the instruments are wired to."""
    return SimulatedBench(DESIGNS["two-ab"], "T2-0001")


@pytest.fixture
def trees(behind: SimulatedBench) -> dict[str, Tree]:
    return SimulatedInstruments(behind).trees


@pytest.fixture
def instruments(trees: dict[str, Tree]) -> Iterator[tuple[Running, int]]:
    """One after the other from a port on."""
    for _ in range(PORTS):
        first = free_port()
        try:
            with on_sockets(trees, first) as running:
                yield running, first
                return
        except OSError:
            continue
    raise AssertionError("no ports one after the other")


def assemble(page: Page, first: int, count: int, name: str = "Bench 2") -> None:
    ask_who_answers(page, first, count)
    put_on_record(page, name)


def ask_who_answers(page: Page, first: int, count: int) -> None:
    page.get_by_role("link", name="Assemble a bench").click()
    page.get_by_label("First port").fill(str(first))
    page.get_by_label("Last port").fill(str(first + count - 1))
    page.get_by_role("button", name="Ask who answers").click()
    expect(page.get_by_role("list", name="Who answered").get_by_role("listitem")).to_have_count(count)


def put_on_record(page: Page, name: str = "Bench 2") -> None:
    page.get_by_label("Name of the bench").fill(name)
    page.get_by_label("Supply, up to").fill("250")
    page.get_by_label("Takes, W").fill("600")
    page.get_by_label("How many").fill("6")
    page.get_by_role("button", name="Put it on record").click()
    expect(page.get_by_role("heading", name=name, exact=True)).to_be_visible()


def pulled(one: SocketInstrument) -> None:
    one.shutdown()
    one.server_close()


def test_a_bench_is_put_together_looked_at_and_recovers_from_a_pulled_plug(
    open_page: Open, instruments: tuple[Running, int], trees: dict[str, Tree]
) -> None:
    running, first = instruments
    page = open_page("/gear")
    assemble(page, first, len(running))
    page.evaluate(AXE.read_text())
    assert faults(page, WCAG) == [] and not sideways(page)
    expect(page.get_by_text("Nobody has looked at it yet.")).to_be_visible()
    page.get_by_label("Outputs wired to loads").fill("2")
    page.get_by_label("Switch the amplifier on").check()
    look = page.get_by_role("button", name="Look at it")
    expect(look).to_be_disabled()  # before the cautions are seen to
    page.get_by_label("fused at its terminals").check()
    look.click()
    expect(page.get_by_text("looks passed")).to_be_visible()
    expect(page.get_by_role("listitem").filter(has_text="while it is on")).to_contain_text("passed")

    address = running["loads"].server_address[1]
    pulled(running["loads"])
    look.click()
    expect(page.get_by_text("Not as it should be")).to_be_visible()
    with on_sockets({"loads": trees["loads"]}, address):
        look.click()
        expect(page.get_by_text("looks passed").first).to_be_visible()
        expect(page.get_by_role("region", name="Looking at it").get_by_text("Passed,")).to_be_visible()
    expect(page.get_by_role("table", name="Earlier looks").get_by_role("row")).to_have_count(3)

    page.get_by_role("link", name="Change it").click()
    amps = page.get_by_label("Supply, up to")
    expect(amps).to_have_value("250")
    expect(page.get_by_label("Supply: answers at")).to_have_value(running["supply"].address)
    amps.fill("90")
    page.evaluate(AXE.read_text())
    assert faults(page, WCAG) == [] and not sideways(page)
    page.get_by_role("button", name="Change it").click()
    expect(page.get_by_text("It was changed since: look at it again")).to_be_visible()
    expect(page.get_by_text("90 A")).to_be_visible()
    expect(page.get_by_role("table", name="Earlier looks").get_by_role("row")).to_have_count(4)


def test_what_is_typed_of_a_bench_survives_a_reload_and_a_refusal(
    open_page: Open, instruments: tuple[Running, int]
) -> None:
    running, first = instruments
    page = open_page("/gear")
    page.get_by_role("link", name="Assemble a bench").click()
    page.get_by_label("First port").fill(str(first))
    page.get_by_label("Last port").fill(str(first + len(running) - 1))
    page.get_by_role("button", name="Ask who answers").click()
    expect(page.get_by_role("list", name="Who answered")).to_be_visible()
    page.get_by_label("Name of the bench").fill("Bench 1")
    page.get_by_label("Supply, up to").fill("250")
    page.get_by_label("Takes").fill("600")
    page.reload()
    expect(page.get_by_label("Name of the bench")).to_have_value("Bench 1")
    expect(page.get_by_label("Supply: answers at")).to_have_value(running["supply"].address)
    page.get_by_role("button", name="Put it on record").click()
    expect(page.get_by_text("There is a bench “Bench 1” already.")).to_be_visible()
    expect(page.get_by_label("Name of the bench")).to_have_value("Bench 1")


def test_two_benches_run_at_once_and_a_plug_ends_one_of_them(
    open_page: Open, instruments: tuple[Running, int], address: str
) -> None:
    """It is pulled in the middle of the run on one of them, the other goes on; put back, the run is repeated."""
    running, first = instruments
    page = open_page("/gear")
    assemble(page, first, len(running))
    page.get_by_label("Outputs wired to loads").fill("2")
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_text("looks passed")).to_be_visible()
    heard, records = running["recorder"].heard, [0]

    def without_a_plug(message: str) -> bytes:
        records[0] += message.startswith("READ?")
        if records[0] > 3:
            raise ConnectionResetError
        return heard(message)

    with httpx.Client(base_url=f"{address}/api", headers=PERSON, timeout=60) as http:
        other = http.post("/models/1/units", json={"serial": "T2-0002"}).json()
        assert other.get("id"), other
        campaigns = {}
        for bench, unit in (("Bench 1", other["id"]), ("Bench 2", 1)):
            made = http.post("/campaigns", json={"unit_id": unit, "plan": CERTIFIED_PLAN | {"bench": bench}})
            assert made.status_code == 201, made.text
            campaigns[bench] = made.json()
            prepare_over_http(http, campaigns[bench], base="")
        begun = http.post(f"/runs/{campaigns['Bench 1']['runs'][0]['id']}/attempts", json={})
        assert begun.is_success, begun.text
        running["recorder"].heard = without_a_plug  # type: ignore[method-assign]
        run = campaigns["Bench 2"]["runs"][0]["id"]
        assert http.post(f"/runs/{run}/attempts", json={}).is_success
        page.goto("/bench")
        expect(page.get_by_text("Bench 1 is running")).to_be_visible()  # as slowly as a real one
        page.goto(f"/campaigns/{campaigns['Bench 2']['id']}/live")
        expect(page.get_by_text("Simulated digitizer").first).to_be_visible()
        assert end_of(http, campaigns["Bench 2"]["id"], run, 0) == "link_lost"
        running["recorder"].heard = heard  # type: ignore[method-assign]
        again = http.post(f"/runs/{run}/attempts", json={"cause": "connection", "reason": "A plug was out."})
        assert again.is_success, again.text
        assert end_of(http, campaigns["Bench 2"]["id"], run, 1) == "limit"
        http.post("/bench/off")


def seen_to_by_hand(page: Page, person: Person, over: Locator) -> None:
    """Do what the bench asks, by the keys, until something else shows that it is over."""
    asked = page.get_by_role("form", name="The bench asks")
    until = time.monotonic() + PATIENCE_MS / 1000
    while not over.is_visible():
        assert time.monotonic() < until, page.inner_text("body")
        if not asked.is_visible():
            page.wait_for_timeout(50)
            continue
        words = asked.get_by_role("alert").inner_text().removesuffix(".")
        value = person.done(Question(0, words))
        person.heard.append(words)
        if words == "Switch the supply off now":  # it comes at the end of something, the keys may be elsewhere by then
            asked.get_by_role("button", name="It is off").click()
        else:
            expect(asked.get_by_role("textbox" if value is not None else "button")).to_be_focused()
            page.keyboard.type("" if value is None else f"{value}")
            page.keyboard.press("Enter")
        expect(asked.get_by_text(words)).to_have_count(0)


def test_a_bench_where_a_person_plugs_turns_and_reads(
    open_page: Open, instruments: tuple[Running, int], behind: SimulatedBench, address: str
) -> None:
    """A lab begins with a generator and a recorder: loads, supply and thermometer are whoever stands there."""
    running, first = instruments
    page, person = open_page("/gear"), Person(Asking(), behind)
    ask_who_answers(page, first, len(running))
    for role, words in (
        ("Load bank", "Plugged by hand"),
        ("Supply", "Turned by hand"),
        ("Thermometer", "Read by hand"),
        ("Current probe", "nobody"),
    ):
        choose(page, f"{role}: described as", words)
    expect(page.get_by_text("asked on the bench’s page")).to_have_count(3)
    put_on_record(page)
    page.get_by_label("Outputs wired to loads").fill("2")
    page.get_by_role("button", name="Look at it").click()
    form = page.get_by_role("form", name="The bench asks")
    expect(form).to_be_visible()
    page.evaluate(AXE.read_text())
    assert faults(page, WCAG) == [] and not sideways(page)
    other = open_page("/gear/benches/2", person="Joren Haldvik")  # whoever else looks sees what is asked
    expect(other.get_by_role("form", name="The bench asks")).to_be_visible()
    seen_to_by_hand(page, person, page.get_by_text("looks passed"))
    assert sum("measure the load" in one for one in person.heard) == 2
    with httpx.Client(base_url=f"{address}/api", headers=PERSON, timeout=60) as http:
        campaign = http.post("/campaigns", json={"unit_id": 1, "plan": CERTIFIED_PLAN | {"bench": "Bench 2"}}).json()
        page.goto(f"/campaigns/{campaign['id']}/live")
        for _ in range(5):
            action = page.locator(".controls .act")
            if action.inner_text().startswith("Start"):
                break
            before = action.inner_text()
            page.locator(".controls .act").click()
            seen_to_by_hand(page, person, page.locator(".controls .act").filter(has_not_text=before))
        page.locator(".controls .act").click()
        seen_to_by_hand(page, person, page.locator(".sheet .state").filter(has_text="at the limit"))
        if person.heard[-1] != "Switch the supply off now":  # it comes with the end, before or after it is shown
            form.get_by_role("button", name="It is off").click()
        expect(form).to_have_count(0)
        run = campaign["runs"][0]["id"]
        assert end_of(http, campaign["id"], run, 0) == "limit"


def test_a_bench_with_an_audio_interface(
    open_page: Open, instruments: tuple[Running, int], monkeypatch: pytest.MonkeyPatch
) -> None:
    """It is chosen once for both its roles, its volts are asked for, and it is looked at as any bench is."""
    put(monkeypatch)
    running, first = instruments
    page = open_page("/gear")
    ask_who_answers(page, first, len(running))
    choose(page, "Recorder: described as", "nobody")
    choose(page, "Source: described as", "Audio interface")
    choose(page, "Source: which interface", "Interface (Simulated)")
    expect(page.locator(".roles").get_by_title("Interface (Simulated)")).to_have_count(2)
    expect(page.get_by_text("Still missing").first).to_contain_text("what the interface gives and takes")
    for at in (0, 1):
        page.get_by_label("Output gives").nth(at).fill("4")
        page.get_by_label("Input takes").nth(at).fill("5")
    expect(page.get_by_text("Say beside which meter first.")).to_be_visible()
    page.get_by_label("Beside which meter").fill("Meter 4")
    page.evaluate(AXE.read_text())
    assert faults(page, WCAG) == [] and not sideways(page)
    found_beside_a_meter(page, open_page)
    put_on_record(page, "Bench 3")
    expect(page.get_by_text("out 4.10, 4.20 V; in 4.10, 4.20 V rms ± 1 % (k = 2), beside Meter 4")).to_be_visible()
    page.get_by_label("Outputs wired to loads").fill("2")
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_text("looks passed")).to_be_visible()


def found_beside_a_meter(page: Page, open_page: Open) -> None:
    """By keyboard: what is typed is kept with Enter, somebody else sees it go on, and what was found is taken."""
    page.get_by_label("Response wanted at, Hz").fill("10000 99999")
    page.get_by_role("button", name="Find them with me").click()
    expect(page.get_by_text("a response is found up to 21600 Hz")).to_be_visible()
    page.get_by_label("Response wanted at, Hz").fill("")
    page.get_by_role("button", name="Find them with me").press("Enter")
    calibrating = page.get_by_role("region", name="Found beside a meter")
    expect(calibrating.get_by_text("output 2 to input 2")).to_be_visible()
    for reading, (volts, shown) in enumerate((("0,41", "Output 1"), ("0.42", "Output 2")), 1):
        expect(calibrating.get_by_text(f"Reading {reading} of 2.")).to_be_visible()
        expect(calibrating.get_by_text(f"{shown} sends 1000 Hz")).to_be_visible()
        expect(calibrating.get_by_label("Reading", exact=True)).to_be_focused()
        page.keyboard.type(volts)
        page.keyboard.press("Enter")
    expect(calibrating.get_by_text("outputs give 4.100, 4.200 V, inputs take 4.100, 4.200 V")).to_be_visible()
    page.evaluate(AXE.read_text())
    assert faults(page, WCAG) == [] and not sideways(page)
    calibrating.get_by_role("button", name="Put it on the gear register").click()
    expect(calibrating.get_by_text("It is on the register")).to_be_visible()
    calibrating.get_by_role("button", name="Take them").press("Enter")
    expect(page.get_by_label("Output gives").first).to_have_value("4.1")
    gear = open_page("/gear", person="Joren Haldvik")
    expect(gear.get_by_role("row", name="Interface").filter(has_text="Output volts")).to_be_visible()


def end_of(http: httpx.Client, campaign: int, run: int, attempt: int) -> str:
    until = time.monotonic() + PATIENCE_MS / 1000
    while time.monotonic() < until:
        runs = http.get(f"/campaigns/{campaign}").json()["runs"]
        found = next(one for one in runs if one["id"] == run)["attempts"]
        if len(found) > attempt and found[attempt]["end"]:
            return str(found[attempt]["end"])
        time.sleep(0.05)
    raise AssertionError("it never ended")


def test_a_wiring_is_carried_over_to_another_bench(open_page: Open, services: Services, address: str) -> None:
    services.benches.add("Bench 2", SIMULATED, TAMSIN)
    with httpx.Client(base_url=f"{address}/api", headers=PERSON, timeout=60) as http:
        campaign = http.post("/campaigns", json={"unit_id": 1, "plan": CERTIFIED_PLAN}).json()
    runs = len(campaign["runs"])
    page = open_page(f"/campaigns/{campaign['id']}/live")
    ladder = page.get_by_role("complementary").filter(has_text="on Bench 1")
    expect(ladder.get_by_role("listitem")).to_have_count(runs)
    page.keyboard.press("2")
    page.get_by_role("button", name="Run this wiring on another bench").focus()
    page.keyboard.press("Enter")
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_title("Bench 2")).to_be_visible()
    dialog.get_by_role("button", name="Carry it over").dblclick()
    there = page.get_by_role("complementary").filter(has_text="on Bench 2")
    expect(there.get_by_role("listitem").first).to_be_visible()
    moved = there.get_by_role("listitem").count()
    assert page.url != f"{address}/campaigns/{campaign['id']}/live" and 0 < moved < runs
    page.evaluate(AXE.read_text())
    assert faults(page, WCAG) == [] and not sideways(page)
    # A wiring that is all that is left is moved on Today, as a whole.
    page.goto(f"{address}/campaigns/{campaign['id']}/live")
    expect(ladder.get_by_role("listitem")).to_have_count(runs - moved)
    left = len(campaign["wirings"]) - 1
    expect(page.get_by_role("button", name="another bench")).to_have_count(0 if left == 1 else 1)


def test_today_is_moved_by_keys_and_axe_clean(open_page: Open, address: str) -> None:
    with httpx.Client(base_url=f"{address}/api", headers=PERSON, timeout=60) as http:
        numbers = [http.post("/campaigns", json={"unit_id": 1, "plan": CERTIFIED_PLAN}).json()["id"] for _ in range(3)]
    page = open_page("/bench")
    page.get_by_role("link", name="Today, in order").click()
    table = page.get_by_role("table", name="What waits for Bench 1")
    expect(table.get_by_role("row")).to_have_count(4)
    page.evaluate(AXE.read_text())
    assert faults(page, WCAG) == [] and not sideways(page)
    last = table.get_by_role("row").last
    moved = last.get_by_role("link").first.get_attribute("href")
    earlier = last.get_by_role("button", name="earlier")
    earlier.focus()
    page.keyboard.press("Enter")
    expect(table.get_by_role("row").nth(2).get_by_role("link").first).to_have_attribute("href", str(moved))
    expect(table.get_by_text("by hand").first).to_be_visible()
    page.get_by_role("button", name="Take the proposed order").click()
    expect(table.get_by_text("by hand")).to_have_count(0)
    page.get_by_role("button", name=f"When campaign {numbers[0]} is wanted").click()
    dialog = page.get_by_role("dialog")
    page.get_by_label("Wanted on").fill("2020-01-01")
    page.keyboard.press("Tab")
    dialog.get_by_role("button", name="Keep it").click()
    expect(dialog.get_by_text("from today on").first).to_be_visible()
    page.get_by_label("Wanted on").fill(f"{date.today() + timedelta(days=1)}")
    page.keyboard.press("Tab")
    dialog.get_by_role("button", name="Keep it").click()
    expect(dialog).to_have_count(0)
    expect(table.get_by_role("row", name=f"Campaign {numbers[0]} ")).not_to_contain_text("no day")
