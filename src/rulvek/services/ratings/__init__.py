"""Ratings: what the units on record say of a production."""

from rulvek.services.ratings.ratings import Ratings

__all__ = ["Ratings"]
