"""Bundles: a model, unit or campaign from one lab to another and back."""

from rulvek.services.bundles.bundles import Bundles, Packed, opened

__all__ = ["Bundles", "Packed", "opened"]
