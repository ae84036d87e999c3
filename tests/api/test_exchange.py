"""The line as a spreadsheet: out, edited, rehearsed, in; read and written here by openpyxl on its own."""

import csv
import io
import zipfile
from typing import Any

import pytest
from counting import counted
from fastapi.testclient import TestClient
from openpyxl import Workbook, load_workbook

from rulvek.composition import Services
from rulvek.core.records.actor import Actor
from rulvek.core.records.entered import SeriesEntry
from rulvek.core.records.instruments import Instruments
from rulvek.services.catalogue import exchange
from tests.conftest import certified_campaign, put_attempt
from tests.people import acting

JOREN = acting("Joren Haldvik")
FORMULA = '=HYPERLINK("http://elsewhere","x")'


def fetched(client: TestClient) -> Any:
    return load_workbook(io.BytesIO(client.get("/api/line/workbook").content))


def packed(book: Any) -> bytes:
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def column(book: Any, sheet: str, head: str) -> int:
    return next(cell.column for cell in book[sheet][1] if cell.value == head)


def put(book: Any, sheet: str, row: int, head: str, value: object) -> None:
    book[sheet].cell(row, column(book, sheet, head)).value = value


def rehearsed(client: TestClient, book: Any) -> dict[str, Any]:
    answer = client.post("/api/line/workbook/rehearsal", content=packed(book))
    assert answer.status_code == 200, answer.text
    told: dict[str, Any] = answer.json()
    return told


def table(rows: dict[str, list[list[object]]]) -> Workbook:
    book = Workbook()
    book.remove(book.active)
    for name, lines in rows.items():
        sheet = book.create_sheet(name)
        for line in lines:
            sheet.append(line)
    return book


def test_what_went_out_comes_back_as_it_is(client: TestClient, unit_id: int) -> None:
    told = rehearsed(client, fetched(client))
    assert (told["new"], told["changed"], told["refused"], told["rows"]) == (0, 0, 0, [])
    assert told["same"] == 4  # a series, a model, a claim, a unit


def test_an_edited_line_is_rehearsed_and_taken_in_with_versions(client: TestClient, unit_id: int) -> None:
    book = fetched(client)
    put(book, "Models", 2, "Weight (kg)", 2.4)
    put(book, "Units", 2, "State", "kept")
    book["Models"].append(["Test series", "Test four", "4 channels", "D", "not known"])
    book["Groups"].append(["Test four", "main", 4, "4; 2", "4", "no"])
    book["Claims"].append(["Test four", "Carton", "long side", "main", 80, 4, "no"])
    book["Units"].append(["Test four", "T4-1", "2611", "A", "bought"])
    told = rehearsed(client, book)
    states = [(row["sheet"], row["name"], row["state"], row["words"]) for row in told["rows"]]
    assert states == [
        ("Models", "Test two", "changed", "weight, kg"),
        ("Models", "Test four", "new", ""),
        ("Claims", "Test four", "new", ""),
        ("Units", "T2-0001", "changed", "state"),
        ("Units", "T4-1", "new", ""),
    ]
    assert client.get("/api/models/2").status_code == 404  # a rehearsal leaves nothing
    taken = client.post("/api/line/workbook", content=packed(book))
    assert taken.status_code == 200 and taken.json() == told
    assert client.get("/api/models/1/entry").json()["entry"]["facts"]["weight_kg"] == 2.4
    assert client.get("/api/models/1/versions").json()[0]["changed"] == ["facts"]
    (four_id,) = [one["id"] for one in client.get("/api/find?words=Test four").json() if one["kind"] == "model"]
    four = client.get(f"/api/models/{four_id}").json()
    assert four["name"] == "Test four" and [claim["watts"] for claim in four["claims"]] == [80]
    assert four["units"][0]["facts"]["came"] == "bought"
    assert [one["entry"]["name"] for one in client.get(f"/api/models/{four_id}/lots").json()] == ["2611"]
    # The same file once more is an edit of what is not there any more.
    again = rehearsed(client, book)
    assert {(row["name"], row["state"]) for row in again["rows"]} == set() and again["same"] == 7


def test_a_row_from_an_old_version_is_refused_and_nothing_is_taken(client: TestClient, unit_id: int) -> None:
    book = fetched(client)
    entry = client.get("/api/models/1/entry").json()["entry"]
    client.put("/api/models/1/entry", json=entry | {"description": "x"}, headers=JOREN | {"If-Match": "1"})
    put(book, "Models", 2, "Weight (kg)", 2.4)
    put(book, "Units", 2, "State", "kept")
    told = rehearsed(client, book)
    assert [(row["state"], row["words"]) for row in told["rows"]] == [
        ("refused", "Joren Haldvik changed it meanwhile."),
        ("changed", "state"),
    ]
    refused = client.post("/api/line/workbook", content=packed(book))
    assert refused.status_code == 409 and "1 row(s) are refused" in refused.json()["what"]
    assert client.get("/api/units/1/entry").json()["entry"]["facts"]["state"] == "waiting"


@pytest.mark.parametrize(
    ("sheet", "head", "value", "words", "told_at"),
    [
        ("Models", "Supply from (V)", "twelve", "no number", "Supply from (V)"),
        ("Models", "Supply from (V)", 20, "above its lower one", "supply_high_volts"),
        ("Models", "Class", "H", "none of AB, D", "Class"),
        ("Models", "Regulated", "perhaps", "none of yes, no, not known", "Regulated"),
        ("Models", "Life", "dead", "none of in development", "Life"),
        ("Models", "Series", "Elsewhere", "stays in its series", "Series"),
        ("Groups", "Rated loads (Ω)", "4; x", "no numbers parted", "Rated loads (Ω)"),
        ("Groups", "Channels", 2.5, "whole number", "Channels"),
        ("Groups", "Bass only", "maybe", "neither yes nor no", "Bass only"),
        ("Claims", "Power (W)", None, "Power (W) is missing", "Power (W)"),
        ("Claims", "Model", "Nobody", "no model “Nobody”", "Model"),
        ("Units", "Received on", "yesterday", "no day", "Received on"),
        ("Units", "Received on", "2196-01-01", "has not come yet", "received_on"),
        ("Units", "How it came", "by bus", "none of pulled from production", "How it came"),
        ("Series", "Currency", "eur", "three capital letters", "currency"),
    ],
)
def test_a_wrong_cell_is_told_by_row_and_column(
    client: TestClient, unit_id: int, sheet: str, head: str, value: object, words: str, told_at: str
) -> None:
    book = fetched(client)
    put(book, sheet, 2, head, value)
    told = rehearsed(client, book)
    refused = [row for row in told["rows"] if row["state"] == "refused"]
    assert len(refused) == 1 and refused[0]["row"] == 2, told
    assert words in refused[0]["words"] and refused[0]["column"] == told_at


def test_what_stands_twice_is_refused_the_second_time(client: TestClient, unit_id: int) -> None:
    book = fetched(client)
    for _ in range(2):
        book["Claims"].append(["Test two", "Carton", "", "main", 80, 4, "no"])
        book["Units"].append(["Test two", "T2-0009"])
        book["Series"].append(["Tern"])
    told = rehearsed(client, book)["rows"]
    assert sorted((row["sheet"], row["state"]) for row in told) == [
        ("Claims", "new"),
        ("Claims", "refused"),
        ("Series", "new"),
        ("Series", "refused"),
        ("Units", "new"),
        ("Units", "refused"),
    ]


def test_a_second_row_of_the_same_thing_does_not_undo_the_first_one(client: TestClient, unit_id: int) -> None:
    book = fetched(client)
    for sheet in ("Series", "Models", "Units"):
        book[sheet].append([cell.value for cell in book[sheet][2]])
    serial = book["Units"].cell(2, column(book, "Units", "Serial number")).value
    book["Units"].append(["Test two", serial.lower()])  # a shorter one, that says less
    told = rehearsed(client, book)
    assert [(row["sheet"], row["row"], row["words"]) for row in told["rows"]] == [
        ("Series", 3, "The spreadsheet has this series twice."),
        ("Models", 3, "The spreadsheet has this model twice."),
        ("Units", 3, "The spreadsheet has this unit twice."),
        ("Units", 4, "The spreadsheet has this unit twice."),
    ]


def test_a_column_that_is_not_there_changes_nothing(client: TestClient, unit_id: int) -> None:
    """A sheet that somebody wrote for one thing alone does not empty everything else."""
    whole = fetched(client)
    serial = whole["Units"].cell(2, column(whole, "Units", "Serial number")).value
    few = table(
        {
            "Series": [["Name", "Currency"], ["Test series", "EUR"]],
            "Models": [["Series", "Name", "Weight (kg)"], ["Test series", "Test two", "2,4"]],
            "Groups": [["Model", "Group", "Band from (Hz)", "Band to (Hz)"], ["Test two", "main", 20, 20000]],
            "Units": [["Model", "Serial number", "Where it is"], ["Test two", serial, "Shelf 4"]],
        }
    )
    told = rehearsed(client, few)
    assert [(row["sheet"], row["words"]) for row in told["rows"]] == [
        ("Series", "currency"),
        ("Models", "groups, weight, kg"),
        ("Units", "whereabouts"),
    ]
    assert client.post("/api/line/workbook", content=packed(few)).status_code == 200
    after = fetched(client)
    group = {cell.value: after["Groups"].cell(2, cell.column).value for cell in after["Groups"][1]}
    before = {cell.value: whole["Groups"].cell(2, cell.column).value for cell in whole["Groups"][1]}
    assert group == before | {"Band from (Hz)": 20, "Band to (Hz)": 20000}
    for head in ("Lot", "Revision", "Remark"):
        at = column(whole, "Units", head)
        assert after["Units"].cell(2, at).value == whole["Units"].cell(2, at).value
    # An empty cell is another thing: there the sheet says that there is none.
    put(after, "Units", 2, "Lot", None)
    assert [row["words"] for row in rehearsed(client, after)["rows"]] == ["lot"]


def test_prices_go_out_and_come_back_with_their_currency_and_day(client: TestClient, unit_id: int) -> None:
    book = fetched(client)
    put(book, "Models", 2, "List price", "199,50 eur 2026-03-31")
    put(book, "Models", 2, "Street price", "149 EUR")
    assert client.post("/api/line/workbook", content=packed(book)).status_code == 200
    again = fetched(client)
    assert again["Models"].cell(2, column(again, "Models", "List price")).value == "199.5 EUR 2026-03-31"
    assert again["Models"].cell(2, column(again, "Models", "Street price")).value == "149 EUR"
    assert rehearsed(client, again)["changed"] == 0
    for wrong, words in (("199.50", "is no price"), ("a lot", "is no price"), ("1 EUR 2026-02-31", "is no day")):
        put(again, "Models", 2, "List price", wrong)
        (row,) = rehearsed(client, again)["rows"]
        assert row["state"] == "refused" and row["column"] == "List price" and words in row["words"]


def test_a_decimal_comma_is_one(client: TestClient, unit_id: int) -> None:
    book = fetched(client)
    put(book, "Groups", 2, "Rated loads (Ω)", "4; 2,67")
    put(book, "Models", 2, "Weight (kg)", "2,4")
    assert client.post("/api/line/workbook", content=packed(book)).status_code == 200
    entry = client.get("/api/models/1/entry").json()["entry"]
    assert entry["groups"][0]["rated_loads"] == [4, 2.67] and entry["facts"]["weight_kg"] == 2.4


def test_text_that_begins_as_a_formula_leaves_as_text(client: TestClient, services: Services, unit_id: int) -> None:
    entry = client.get("/api/models/1/entry").json()["entry"]
    body = entry | {"description": FORMULA, "test_controls": ["+1", "-2", "@SUM(A1)"]}
    assert client.put("/api/models/1/entry", json=body, headers={"If-Match": "1"}).status_code == 200
    book = fetched(client)
    cell = book["Models"].cell(2, column(book, "Models", "What it is"))
    assert cell.value == FORMULA and cell.data_type == "s"
    for sheet in book.worksheets:
        assert not [one.coordinate for row in sheet.iter_rows() for one in row if one.data_type == "f"]
    # And comes back as the text that it is.
    assert rehearsed(client, book)["rows"] == []


def test_what_is_no_spreadsheet_of_the_line_is_refused(client: TestClient, unit_id: int) -> None:
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr("xl/worksheets/sheet1.xml", bytes(130 * 2**20))
    for content, words in (
        (b"not a file at all", "no spreadsheet"),
        (b"", "no spreadsheet"),
        (packed(table({"Other": [["A"]]})), "none of the sheets"),
        (packed(table({"Series": [["Name", "Colour"], ["Tern", "blue"]]})), "no column “Colour”"),
        (bomb.getvalue(), "unfolds to more"),
        (packed(table({"Series": [["Name"], *[["x"]] * 20_001]})), "at most 20000 rows"),
    ):
        refused = client.post("/api/line/workbook/rehearsal", content=content)
        assert refused.status_code == 422 and words in refused.json()["what"], refused.text


def test_an_empty_house_takes_its_line_from_a_spreadsheet(client: TestClient, services: Services) -> None:
    book = table(
        {
            "Series": [["Name", "Purpose"], ["Tern", "Boats"]],
            "Models": [["Series", "Name"], ["Tern", "Tern 2"]],
            "Groups": [["Model", "Group", "Channels", "Rated loads (Ω)"], ["Tern 2", "main", 2, 4]],
            "Units": [["Model", "Serial number"], ["Tern 2", "TN-1"]],
        }
    )
    assert client.post("/api/line/workbook", content=packed(book)).json()["new"] == 3
    line = client.get("/api/line").json()["series"]
    assert [(one["name"], [model["name"] for model in one["models"]]) for one in line] == [("Tern", ["Tern 2"])]


def line_of(models: int) -> bytes:
    each = [f"Gannet {n}" for n in range(models)]
    rows: dict[str, list[list[object]]] = {
        "Series": [["Name"], ["Gannet"]],
        "Models": [["Series", "Name"], *(["Gannet", name] for name in each)],
        "Groups": [["Model", "Group", "Channels", "Rated loads (Ω)"], *([name, "main", 2, "4; 2"] for name in each)],
        "Claims": [
            ["Model", "Document", "Group", "Power (W)", "Load (Ω)"],
            *([name, "Manual", "main", 75, 4] for name in each),
        ],
        "Units": [["Model", "Serial number", "Lot"], *([name, f"{name}/1", "2611"] for name in each)],
    }
    return packed(table(rows))


def test_others_wait_for_no_more_than_what_each_row_takes(services: Services, monkeypatch: pytest.MonkeyPatch) -> None:
    """What is new takes an insert each, as SQLite tells ids by the row; what is changed goes in a statement a table."""
    monkeypatch.setattr(services.conclusions, "changed", lambda model_id: None)  # drawn afterwards, by another thread

    def asked(content: bytes, what: str) -> int:
        with counted(services.database) as count:
            told = services.exchange.take_in(content, Actor("Joren Haldvik"))
        assert told.refused == 0 and getattr(told, what) > 0
        return count.written

    few, many = (asked(line_of(models), "new") for models in (3, 40))
    kinds = ("model", "claim", "unit", "lot", "document")
    assert many - few <= 37 * len(kinds)
    book = load_workbook(io.BytesIO(services.exchange.workbook()))
    for row in range(2, 40):
        put(book, "Models", row, "What it is", f"Renamed {row}")
        put(book, "Units", row, "Lot", f"27{row:02d}")
    assert asked(packed(book), "changed") < few + 39  # the new lots take an insert each


def test_what_somebody_changes_while_it_is_planned_is_seen(services: Services, unit_id: int) -> None:
    """The plan is made anew where the records went on since; what they have by then counts as it does always."""
    planned, interfered = exchange._planned, []

    def interfering(session: Any, sheets: Any) -> Any:
        plan = planned(session, sheets)
        if not interfered:
            interfered.append(services.catalogue.add_series(SeriesEntry("Gannet", "Boats"), Actor("Pell")))
        return plan

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(exchange, "_planned", interfering)
        told = services.exchange.take_in(line_of(2), Actor("Joren Haldvik"))
    assert interfered and [row.state for row in told.rows if row.sheet == "Series"] == []  # it is there already
    line = services.catalogue.line().series
    assert [len(one.models) for one in line if one.name == "Gannet"] == [2]


def test_a_sheets_cells_are_never_carried_out_and_its_name_is_what_it_was(
    client: TestClient, services: Services, unit_id: int
) -> None:
    """A meter and a serial number that somebody called as a formula begins; CSV as spreadsheets open it."""
    entry = client.get("/api/units/1/entry").json()["entry"]
    named = entry | {"serial": 'Ω-1";x=\r\n'}
    assert client.put("/api/units/1/entry", json=named, headers={"If-Match": "1"}).status_code == 200
    campaign = certified_campaign(services, unit_id).id
    put_attempt(services, campaign, (75.0, 74.0), instruments=Instruments.named("=1+1", 1.0))
    sheet = client.get(f"/api/campaigns/{campaign}/sheet.csv")
    assert "attachment" in sheet.headers["content-disposition"]
    assert "'=1+1" in sheet.text
    assert [row for row in csv.reader(io.StringIO(sheet.text)) if any(cell.startswith("=") for cell in row)] == []
