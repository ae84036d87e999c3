"""Papers that state figures, files that are kept, and what a document is held to."""

from dataclasses import dataclass
from datetime import date
from enum import StrEnum
from typing import Annotated, Any, ClassVar

from annotated_types import Len

from rulvek.core.quantities import ENTERED, Name, Title

Digest = Annotated[str, Len(64, 64)]
"""SHA-256 in hexadecimal: how a kept file is named."""


class DocumentKind(StrEnum):
    """What sort of paper."""

    MANUAL = "manual"
    CARTON = "carton"
    WEB_PAGE = "web page"
    PRINT = "print on the unit"
    CATALOGUE = "catalogue"
    OTHER = "other"


@dataclass(frozen=True, slots=True)
class DocumentEntry:
    """A paper; ``name`` is what claims call it, ``file`` its own, where there is one."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    name: Title
    kind: DocumentKind = DocumentKind.OTHER
    revision: Name = ""
    dated: date | None = None
    language: Name = ""
    file: Digest | None = None


@dataclass(frozen=True, slots=True)
class FileEntry:
    """A file that is kept, by the digest of its bytes.

    Attributes:
        media: As HTTP names it; one of those that are taken, never what a sender claimed.
        width, height: Of a picture, in pixels, upright.
        thumbnail: The digest of a small one of a picture.
    """

    sha256: str
    path: str
    name: str
    media: str
    bytes: int
    width: int | None = None
    height: int | None = None
    thumbnail: str | None = None

    @property
    def parts(self) -> tuple[tuple[str, str], ...]:
        """Where in the folder of files it lies, and its small one, each with its digest."""
        small = self.thumbnail
        return ((self.path, self.sha256), *([(f"{small[:2]}/{small}.jpg", small)] if small else []))


def kind_of(name: str) -> DocumentKind:
    """What sort of paper a name speaks of.

    >>> kind_of("Owner's manual, revision C"), kind_of("Print on the heat sink"), kind_of("Leaflet")
    (<DocumentKind.MANUAL: 'manual'>, <DocumentKind.PRINT: 'print on the unit'>, <DocumentKind.OTHER: 'other'>)
    """
    words = name.casefold()
    for kind, word in (
        (DocumentKind.MANUAL, "manual"),
        (DocumentKind.CARTON, "carton"),
        (DocumentKind.WEB_PAGE, "web"),
        (DocumentKind.PRINT, "print"),
        (DocumentKind.CATALOGUE, "catalog"),
    ):
        if word in words:
            return kind
    return DocumentKind.OTHER
