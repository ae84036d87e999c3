"""Ratings: what the units on record say of a production, and the lives of the figures that are promised of it."""

from rulvek.services.ratings.audits import Audits
from rulvek.services.ratings.board import RatingBoard
from rulvek.services.ratings.dossiers import Checked, RatingDossiers, basis_schema, check_dossier
from rulvek.services.ratings.links import RatingLinks
from rulvek.services.ratings.lives import RatingLives
from rulvek.services.ratings.ratings import Ratings
from rulvek.services.ratings.watch import RatingWatch

__all__ = [
    "Audits",
    "Checked",
    "RatingBoard",
    "RatingDossiers",
    "RatingLinks",
    "RatingLives",
    "RatingWatch",
    "Ratings",
    "basis_schema",
    "check_dossier",
]
