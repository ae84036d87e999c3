"""People: accounts and their roles, signing in, sessions and tokens."""

from rulvek.services.people.accounts import Accounts
from rulvek.services.people.sessions import Entry, Limits, Sessions, SignedIn, Visitor

__all__ = ["Accounts", "Entry", "Limits", "Sessions", "SignedIn", "Visitor"]
