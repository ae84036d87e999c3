"""The catalogue: what is made, what is claimed of it, and which units are here."""

from rulvek.services.catalogue.dossiers import Dossiers
from rulvek.services.catalogue.entries import Entries
from rulvek.services.catalogue.exchange import LineExchange
from rulvek.services.catalogue.files import Files
from rulvek.services.catalogue.history import Histories
from rulvek.services.catalogue.line import Catalogue
from rulvek.services.catalogue.side_by_side import SideBySide, sort_of

__all__ = ["Catalogue", "Dossiers", "Entries", "Files", "Histories", "LineExchange", "SideBySide", "sort_of"]
