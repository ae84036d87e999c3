"""The lab's signature under a PDF, after PAdES: made with its certificate, and looked at by whoever receives it."""

import io
import os
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from hashlib import sha256
from pathlib import Path

from asn1crypto import x509 as asn1
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID
from pyhanko.keys import load_certs_from_pemder_data
from pyhanko.pdf_utils import embed
from pyhanko.pdf_utils.incremental_writer import IncrementalPdfFileWriter
from pyhanko.pdf_utils.misc import PdfError
from pyhanko.pdf_utils.reader import PdfFileReader
from pyhanko.sign import signers
from pyhanko.sign.fields import SigSeedSubFilter
from pyhanko.sign.general import SigningError
from pyhanko.sign.validation import EmbeddedPdfSignature, validate_pdf_signature
from pyhanko.sign.validation.settings import KeyUsageConstraints
from pyhanko.sign.validation.status import SignatureCoverageLevel
from pyhanko_certvalidator import ValidationContext

from rulvek.core.errors import BadInput, Unreadable

_HOSTILE = (
    PdfError,
    SigningError,
    ValueError,
    LookupError,
    TypeError,
    AttributeError,
    OSError,
    RecursionError,
    zlib.error,
)
"""What a PDF that somebody damaged or made up brings the library to raise."""
KEY, CERTIFICATE = "signing.key", "signing.pem"
YEARS = 10
FIELD = "Lab"


@dataclass(frozen=True, slots=True)
class Signature:
    """A signature as it was found.

    Attributes:
        by: The name in the certificate.
        fingerprint: SHA-256 of the certificate, in hexadecimal: what somebody compares with the lab.
        intact: Whether the file is as it was signed, to its last byte.
        trusted: Whether the certificate is one that was given to be trusted; None where none was given.
    """

    by: str
    fingerprint: str
    intact: bool
    trusted: bool | None


class LabKey:
    """The lab's key and certificate in a folder: the lab's own, or self-signed ones that are made at first use."""

    def __init__(self, folder: Path, lab: str = "") -> None:
        self._folder, self._lab = folder, lab

    @property
    def certificate(self) -> bytes:
        """The certificate as PEM."""
        self._make_at_first()
        return (self._folder / CERTIFICATE).read_bytes()

    def signed(self, pdf: bytes, attached: Mapping[str, bytes]) -> bytes:
        """A PDF with files attached, signed as a whole.

        Raises:
            Unreadable: the key and the certificate in the folder cannot be used.
        """
        self._make_at_first()
        signer = signers.SimpleSigner.load(str(self._folder / KEY), str(self._folder / CERTIFICATE))
        if signer is None:
            raise Unreadable(
                f"{KEY} and {CERTIFICATE} in the folder “{self._folder.name}” cannot be used to sign.",
                todo="Put a PEM key without a password there, and the certificate that belongs to it.",
            )
        writer = IncrementalPdfFileWriter(io.BytesIO(pdf))
        for name, data in attached.items():
            file = embed.EmbeddedFileObject.from_file_data(writer, data=data, compress=True)
            embed.embed_file(writer, embed.FileSpec(file_spec_string=name, file_name=name, embedded_data=file))
        meta = signers.PdfSignatureMetadata(
            field_name=FIELD, md_algorithm="sha256", subfilter=SigSeedSubFilter.PADES, name=self._lab or None
        )
        try:
            signed: io.BytesIO = signers.sign_pdf(writer, meta, signer=signer)
        except SigningError as failure:
            raise Unreadable(f"The dossier cannot be signed: {failure}", todo="Look at the certificate.") from failure
        return signed.getvalue()

    def _make_at_first(self) -> None:
        if (self._folder / KEY).exists():
            return
        self._folder.mkdir(parents=True, exist_ok=True)
        key = ec.generate_private_key(ec.SECP256R1())
        name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, (self._lab or "A lab that works with Rulvek")[:64])])
        now = datetime.now(UTC)
        certificate = (
            x509.CertificateBuilder()
            .subject_name(name)
            .issuer_name(name)
            .public_key(key.public_key())
            .serial_number(x509.random_serial_number())
            .not_valid_before(now - timedelta(days=1))
            .not_valid_after(now + timedelta(days=365 * YEARS))
            .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
            .add_extension(_FOR_SIGNING, critical=True)
            .sign(key, hashes.SHA256())
        )
        plain = serialization.NoEncryption()
        pem = key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, plain)
        (self._folder / CERTIFICATE).write_bytes(certificate.public_bytes(serialization.Encoding.PEM))
        # The key is nobody else's to read, from its first byte on.
        with os.fdopen(os.open(self._folder / KEY, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
            file.write(pem)


_FOR_SIGNING = x509.KeyUsage(
    digital_signature=True,
    content_commitment=True,
    key_encipherment=False,
    data_encipherment=False,
    key_agreement=False,
    key_cert_sign=False,
    crl_sign=False,
    encipher_only=False,
    decipher_only=False,
)


def signature_of(pdf: bytes, trusted: bytes | None = None) -> Signature | None:
    """The signature under a PDF; None where there is none.

    Args:
        trusted: A certificate as PEM that whoever looks knows to be the lab's.

    Raises:
        BadInput: it is no PDF, or is signed more than once.
    """
    try:
        found = PdfFileReader(io.BytesIO(pdf)).embedded_signatures
    except _HOSTILE as failure:
        raise BadInput("This is no PDF that can be read.", field="file") from failure
    if not found:
        return None
    if len(found) > 1:
        raise BadInput("This PDF is signed more than once; a dossier is signed by its lab alone.", field="file")
    (one,) = found
    try:
        certificate = one.signer_cert
        fingerprint = sha256(certificate.dump()).hexdigest()
    except _HOSTILE as failure:
        raise BadInput("The signature in this PDF cannot be read.", field="file") from failure
    known = [sha256(cert.dump()).hexdigest() for cert in _certificates(trusted)] if trusted else None
    context = ValidationContext(trust_roots=[certificate], allow_fetching=False)
    usage = KeyUsageConstraints(key_usage={"digital_signature"})
    try:
        status = validate_pdf_signature(one, context, key_usage_settings=usage)
    except _HOSTILE:
        intact = False
    else:
        whole = status.coverage is SignatureCoverageLevel.ENTIRE_FILE  # what is appended later is not what was signed
        intact = bool(status.bottom_line and whole and _is_plain(pdf, one))
    name = str(certificate.subject.native.get("common_name", ""))
    return Signature(name, fingerprint, intact, None if known is None else fingerprint in known)


def _is_plain(pdf: bytes, one: EmbeddedPdfSignature) -> bool:
    """Whether the place of the signature itself, which it cannot cover, holds it and zeros, and nothing else."""
    _, first, second, _ = (int(at) for at in one.byte_range)
    place: bytes = one.pkcs7_content
    long_form = place[1] & 0x7F if place[1] & 0x80 else 0
    length = int.from_bytes(place[2 : 2 + long_form], "big") if long_form else place[1]
    padding = place[2 + long_form + length :]
    written = pdf[first:second]
    return not any(padding) and written.lower() == b"<" + place.hex().encode() + b">" and _one_case(written)


def _one_case(written: bytes) -> bool:
    return written in (written.lower(), written.upper())


def attached_to(pdf: bytes, name: str) -> bytes | None:
    """A file that is attached to a PDF; None where there is none of that name.

    Raises:
        BadInput: it is no PDF.
    """
    try:
        root = PdfFileReader(io.BytesIO(pdf)).root
        names = root["/Names"]["/EmbeddedFiles"]["/Names"]
        for at in range(0, len(names), 2):
            if str(names[at]) == name:
                data: bytes = names[at + 1]["/EF"]["/F"].data
                return data
    except KeyError:
        return None
    except _HOSTILE as failure:
        raise BadInput("This is no PDF that can be read.", field="file") from failure
    return None


def _certificates(pem: bytes) -> list[asn1.Certificate]:
    try:
        return list(load_certs_from_pemder_data(pem))
    except ValueError as failure:
        raise BadInput("This is no certificate.", field="trust") from failure
