"""Bundles: a model, unit or campaign from one lab to another and back."""

from rulvek.services.bundles.bundles import Bundles, Packed, opened
from rulvek.store.formats.bundles import schema as bundle_schema

__all__ = ["Bundles", "Packed", "bundle_schema", "opened"]
