"""A rating's dossier: the same bytes twice, a signature that any change breaks, figures that come out elsewhere."""

import io
import json
import zipfile
from pathlib import Path
from typing import Any

import jsonschema_rs
import pytest
from fastapi.testclient import TestClient
from pyhanko.keys import load_cert_from_pemder
from pyhanko.pdf_utils.incremental_writer import IncrementalPdfFileWriter
from pyhanko.pdf_utils.reader import PdfFileReader
from pyhanko.sign.validation import validate_pdf_signature
from pyhanko_certvalidator import ValidationContext
from typer.testing import CliRunner

from rulvek.cli import app
from rulvek.composition import Services
from rulvek.core.errors import BadInput, RulvekError
from rulvek.reports.signing import CERTIFICATE, KEY, LabKey, attached_to
from rulvek.services.ratings import check_dossier
from rulvek.services.ratings.dossiers import BASIS_NAME, LIFE_NAME
from rulvek.store.formats.dossiers import PDF, RECORDS
from tests.conftest import TAMSIN
from tests.people import acting
from tests.services.test_rating_lives import ENGINEER, Desk, desk, lab_of_three, terms

__all__ = ["desk"]

pytestmark = pytest.mark.begins_with.with_args(lab_of_three)


@pytest.fixture
def published(desk: Desk) -> int:
    number: int = desk.publish()["id"]
    return number


@pytest.fixture
def signed(services: Services, published: int) -> bytes:
    return services.rating_dossiers.signed(published)


def key_folder(services: Services) -> Path:
    return services.files.root.parent / "signing"


def test_the_same_records_give_the_same_bytes(services: Services, published: int) -> None:
    first = services.rating_dossiers.unsigned(published)
    assert first == services.rating_dossiers.unsigned(published) and first.startswith(b"%PDF-")
    pages = PdfFileReader(io.BytesIO(first)).root["/Pages"]["/Count"]
    assert 3 <= pages <= 8


def test_an_ordinary_check_finds_the_signature_whole_and_the_labs(services: Services, signed: bytes) -> None:
    """pyHanko's own validator, with the lab's certificate as the one that is trusted."""
    certificate = load_cert_from_pemder(str(key_folder(services) / CERTIFICATE))
    (one,) = PdfFileReader(io.BytesIO(signed)).embedded_signatures
    status = validate_pdf_signature(one, ValidationContext(trust_roots=[certificate], allow_fetching=False))
    assert status.intact and status.valid and status.trusted and status.coverage.name == "ENTIRE_FILE"
    assert status.md_algorithm == "sha256" and one.sig_object["/SubFilter"] == "/ETSI.CAdES.detached"


def test_a_stranger_finds_the_same_figures(services: Services, signed: bytes) -> None:
    found = check_dossier(signed, services.rating_dossiers.certificate)
    assert found.faults == () and found.signature is not None
    assert found.signature.intact and found.signature.trusted is True
    assert found.basis.bound.n == 10 and found.wording == "Test two, 75 W, published"
    unknown = check_dossier(signed).signature
    assert unknown is not None and unknown.trusted is None


def test_any_changed_byte_is_found(signed: bytes) -> None:
    """Fifty places all over the file, the attachments among them; the signature itself is one of them."""
    step = len(signed) // 50
    for at in range(step // 2, len(signed), step):
        changed = signed[:at] + bytes([signed[at] ^ 0x01]) + signed[at + 1 :]
        try:
            found = check_dossier(changed)
        except RulvekError:
            continue
        assert found.faults, at


def test_what_is_appended_is_found(signed: bytes) -> None:
    writer = IncrementalPdfFileWriter(io.BytesIO(signed))
    writer.root["/Added"] = writer.root["/Type"]
    writer.update_root()
    out = io.BytesIO()
    writer.write(out)
    assert "not as it was signed" in check_dossier(out.getvalue()).faults[0]


def forged(services: Services, rating_id: int, folder: Path, **changed: Any) -> bytes:
    """A dossier that somebody else put together and signed with a certificate of their own."""
    dossier, frozen = services.rating_dossiers._dossier(rating_id)
    basis = json.loads(frozen.text)
    for path, value in changed.items():
        *steps, last = path.split("__")
        place: Any = basis
        for step in steps:
            place = place[int(step)] if step.isdigit() else place[step]
        place[last] = value
    unsigned = services.rating_dossiers.unsigned(rating_id)
    life = json.dumps(
        [
            {"number": s.number, "kind": s.kind.value, "by": s.by, "at": s.at.isoformat(), "reason": s.reason}
            | {"digest": s.digest, "settles": []}
            for s in dossier.steps
        ]
    )
    attached = {BASIS_NAME: json.dumps(basis).encode() if changed else frozen.text.encode(), LIFE_NAME: life.encode()}
    return LabKey(folder, "Somebody").signed(unsigned, attached)


def test_a_forged_dossier_is_found(services: Services, published: int, tmp_path: Path) -> None:
    ours = services.rating_dossiers.certificate
    plain = check_dossier(forged(services, published, tmp_path / "a"), ours)
    assert plain.faults == ("It is signed with another certificate than the one that is trusted.",)
    figure = check_dossier(forged(services, published, tmp_path / "a", bound__bound_watts=99.0))
    assert "What was signed is another basis." in figure.faults
    assert "Worked out again, it comes to another bound watts than it says." in figure.faults
    unit = check_dossier(forged(services, published, tmp_path / "a", rows__3__watts=95.0))
    assert any("another mean" in one for one in unit.faults)


def test_no_dossier_is_told_so(services: Services, published: int, tmp_path: Path) -> None:
    unsigned = services.rating_dossiers.unsigned(published)
    for data, words in ((b"", "no PDF"), (b"%PDF-1.4 hello", "no PDF"), (unsigned, "carries no basis")):
        with pytest.raises(BadInput, match=words):
            check_dossier(data)
    with pytest.raises(BadInput, match="no certificate"):
        check_dossier(services.rating_dossiers.signed(published), b"no certificate")
    bare = LabKey(tmp_path / "k").signed(unsigned, {BASIS_NAME: b"{}", LIFE_NAME: b"[]"})
    with pytest.raises(RulvekError, match="cannot be understood"):
        check_dossier(bare)


def test_what_it_carries_is_as_the_published_schema_has_it(client: TestClient, signed: bytes) -> None:
    """By a validator of JSON Schema 2020-12 that is not ours; a basis with a unit of no number is refused by it."""
    schema = client.get("/api/schema/basis").json()
    assert schema == json.loads((Path(__file__).parents[2] / "docs/basis.schema.json").read_text())
    basis = json.loads(attached_to(signed, BASIS_NAME) or b"")
    validator = jsonschema_rs.validator_for(schema)
    assert validator.is_valid(basis)
    assert not validator.is_valid(basis | {"rows": [basis["rows"][0] | {"watts": "much"}]})
    assert client.get("/api/schema/bundle").json()["$defs"]


def test_a_draft_has_none(desk: Desk) -> None:
    told = desk.draft()
    answer = desk.client.get(f"/api/ratings/{told['id']}/dossier.pdf", headers=acting(ENGINEER))
    assert answer.status_code == 409 and "rests on nothing yet" in answer.json()["what"]


def test_the_key_is_made_once_and_is_nobody_elses_to_read(services: Services, published: int) -> None:
    first = services.rating_dossiers.certificate
    services.rating_dossiers.signed(published)
    assert services.rating_dossiers.certificate == first
    assert (key_folder(services) / KEY).stat().st_mode & 0o777 == 0o600


def test_a_key_that_does_not_fit_is_told(services: Services, published: int) -> None:
    assert services.rating_dossiers.certificate
    (key_folder(services) / KEY).write_text("no key")
    with pytest.raises(RulvekError, match="cannot be used to sign"):
        services.rating_dossiers.signed(published)


def test_over_the_api(client: TestClient, published: int) -> None:
    pdf = client.get(f"/api/ratings/{published}/dossier.pdf")
    assert pdf.status_code == 200 and pdf.headers["content-type"] == "application/pdf"
    assert f'filename="rating-{published}.pdf"' in pdf.headers["content-disposition"]
    certificate = client.get("/api/signing-certificate")
    assert check_dossier(pdf.content, certificate.content).faults == ()


def run(*arguments: str | Path) -> tuple[int, str]:
    done = CliRunner().invoke(app, [str(one) for one in arguments])
    assert done.exception is None or isinstance(done.exception, SystemExit), done.exception  # never a traceback
    return done.exit_code, done.output


def with_records(services: Services, rating_id: int, target: Path) -> Path:
    return services.rating_dossiers.with_records(rating_id, TAMSIN).rename(target)


def test_from_its_records_in_an_empty_folder(services: Services, published: int, tmp_path: Path) -> None:
    packed = with_records(services, published, tmp_path / "rating.zip")
    code, said = run("verify-dossier", packed)
    assert code == 0 and "Worked out again from its records, in an empty folder: the same figures." in said
    told = json.loads(CliRunner().invoke(app, ["verify-dossier", str(packed), "--json"]).stdout)
    assert told["faults"] == [] and told["from_records"] and told["units"] == 10


def test_records_that_say_something_else_are_found(desk: Desk, services: Services, tmp_path: Path) -> None:
    """A reading was withdrawn since, and another unit was left out with a reason all along."""
    left = desk.client.get("/api/models/1").json()["units"][-1]["id"]
    number = desk.publish(terms(left_out=[{"unit_id": left, "reason": "Its fan rattles."}]))["id"]
    assert run("verify-dossier", with_records(services, number, tmp_path / "a.zip"))[0] == 0
    row = next(row for row in desk.now["population"]["rows"] if row["serial"] == "T2-24")
    gone = {"withdrawn": True, "reason": "Probe"}
    desk.client.post(f"/api/attempts/{row['attempt_id']}/withdrawal", json=gone, headers=acting(ENGINEER))
    code, said = run("verify-dossier", with_records(services, number, tmp_path / "b.zip"))
    assert code == 1 and "Unit T2-24 does not count by these records." in said


@pytest.mark.parametrize(
    ("parts", "words"),
    [
        ({PDF: b"x"}, "holds dossier.pdf and records.zip"),
        ({PDF: b"x", RECORDS: b"y", "../evil": b"z"}, "and nothing else"),
        ({PDF: b"x", RECORDS: b"y"}, "no PDF"),
        (None, "damaged, or is no ZIP"),
    ],
)
def test_a_strange_zip_is_told_so(parts: dict[str, bytes] | None, words: str, tmp_path: Path) -> None:
    file = tmp_path / "strange.zip"
    if parts is None:
        file.write_bytes(b"PK\x03\x04 nothing")
    else:
        with zipfile.ZipFile(file, "w") as packed:
            for name, data in parts.items():
                packed.writestr(name, data)
    code, said = run("verify-dossier", file)
    assert code == 2 and words in said


def test_a_zip_that_was_packed_anew_and_damaged_is_told_so(tmp_path: Path) -> None:
    """Deflated parts fail in the library's other way when a byte of theirs is another one."""
    file = tmp_path / "deflated.zip"
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as packed:
        for name in (PDF, RECORDS):
            packed.writestr(name, bytes(range(256)) * 40)
    whole = file.read_bytes()
    for at in range(40, len(whole) // 2, 7):
        file.write_bytes(whole[:at] + bytes([whole[at] ^ 0xFF]) + whole[at + 1 :])
        code, said = run("verify-dossier", file)
        assert code == 2 and "Traceback" not in said, at


@pytest.mark.files
def test_the_command_writes_one(services: Services, published: int, tmp_path: Path) -> None:
    data = services.files.root.parent
    services.later.flush()  # what is still being written here is no part of what the command does
    services.conclusions.flush()
    for name in ("out.pdf", "out.zip"):
        code, said = run("dossier", str(published), "--out", tmp_path / name, "--data", data)
        assert code == 0, said
        code, said = run("verify-dossier", tmp_path / name, "--trust", data / "signing" / CERTIFICATE)
        assert code == 0 and "the same figures" in said
    assert run("dossier", "99", "--data", data)[0] == 2
    assert run("dossier", str(published), "--out", tmp_path / "out.txt", "--data", data)[0] == 2
