"""People who work in the records: their roles, and what each role may do."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from rulvek.core.errors import BadInput


class Role(StrEnum):
    """What somebody is to the lab; a person has one or more."""

    VIEWER = "viewer"
    TECHNICIAN = "technician"
    ENGINEER = "engineer"
    REVIEWER = "reviewer"
    MANAGER = "manager"
    ADMIN = "admin"


class Deed(StrEnum):
    """What a role may allow."""

    LOOK = "look"
    """Look at everything, take files along, calculate."""
    MEASURE = "measure"
    """Receive units, photographs and remarks; readings by hand or recorded; conduct planned runs."""
    PLAN = "plan"
    """Plan campaigns, choose attempts, set notes and doubts aside, withdraw readings; gear and calibrations."""
    DESCRIBE = "describe"
    """Enter and change series, models, lots, documents and claims."""
    PROPOSE = "propose"
    """Propose a rating."""
    SIGN = "sign"
    """Sign or send back a proposal; set an invalid finding aside."""
    PUBLISH = "publish"
    """Publish, supersede or withdraw a rating."""
    ADMINISTER = "administer"
    """Accounts, roles, tokens, backups, settings."""


MAY: Mapping[Deed, frozenset[Role]] = {
    Deed.LOOK: frozenset(Role),
    Deed.MEASURE: frozenset({Role.TECHNICIAN, Role.ENGINEER}),
    Deed.PLAN: frozenset({Role.ENGINEER}),
    Deed.DESCRIBE: frozenset({Role.ENGINEER, Role.MANAGER}),
    Deed.PROPOSE: frozenset({Role.ENGINEER, Role.MANAGER}),
    Deed.SIGN: frozenset({Role.REVIEWER}),
    Deed.PUBLISH: frozenset({Role.MANAGER}),
    Deed.ADMINISTER: frozenset({Role.ADMIN}),
}
"""Which roles allow a deed. Switching off is not among them: everyone may, also without an account."""

DEED_WORDS: Mapping[Deed, str] = {
    Deed.LOOK: "look at the records",
    Deed.MEASURE: "receive units, conduct runs and put readings on record",
    Deed.PLAN: "plan campaigns, choose attempts, set doubts aside, withdraw readings, keep gear and methods",
    Deed.DESCRIBE: "enter and change series, models and claims",
    Deed.PROPOSE: "propose a rating",
    Deed.SIGN: "sign a proposal, approve a method, or set an invalid finding aside",
    Deed.PUBLISH: "publish a rating",
    Deed.ADMINISTER: "look after accounts and backups",
}


def may(roles: Iterable[Role], *deeds: Deed) -> bool:
    """Whether somebody with these roles may do any of the deeds.

    >>> may([Role.TECHNICIAN], Deed.MEASURE), may([Role.TECHNICIAN], Deed.PLAN)
    (True, False)
    >>> may([Role.REVIEWER], Deed.PLAN, Deed.SIGN)
    True
    """
    mine = frozenset(roles)
    return any(MAY[deed] & mine for deed in deeds)


def who_may(*deeds: Deed) -> str:
    """The roles that allow any of the deeds, in words.

    >>> who_may(Deed.DESCRIBE)
    'an engineer or a manager'
    """
    allowed = frozenset[Role]().union(*(MAY[deed] for deed in deeds))
    names = [f"{'an' if role[0] in 'ae' else 'a'} {role.value}" for role in Role if role in allowed]
    return " or ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


@dataclass(frozen=True, slots=True)
class Person:
    """Somebody with an account. One who left is closed, never deleted, and stays named in what they did.

    ``demo`` people belong to the demo: on the machine itself a newcomer may be any of them without a password.
    """

    id: int
    name: str
    roles: frozenset[Role]
    closed_at: datetime | None = None
    demo: bool = False
    has_password: bool = False


def refuse_unfit_name(name: str) -> str:
    """A person's name as it is kept.

    Raises:
        BadInput: nothing, too much, or something that cannot be printed.
    """
    kept = " ".join(name.split())
    if not kept or len(kept) > 80 or not kept.isprintable():
        raise BadInput("A name has 1 to 80 characters.", field="name")
    return kept


def refuse_no_admin(people: Iterable[Person]) -> None:
    """Hold accounts to it that somebody is left who looks after them.

    Raises:
        BadInput: no open account has the role of an admin.
    """
    if not any(Role.ADMIN in one.roles and one.closed_at is None for one in people):
        raise BadInput("The last admin stays: make somebody else an admin first.", field="roles", code="last-admin")
