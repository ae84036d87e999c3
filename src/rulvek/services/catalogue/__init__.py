"""The catalogue: what is made, what is claimed of it, and which units are here."""

from rulvek.services.catalogue.entries import Entries
from rulvek.services.catalogue.line import Catalogue

__all__ = ["Catalogue", "Entries"]
