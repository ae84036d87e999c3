"""What one method profile has otherwise than another."""

from dataclasses import dataclass, fields
from typing import Any

from rulvek.core.method.origins import ORIGINS
from rulvek.core.method.profile import MethodProfile


@dataclass(frozen=True, slots=True)
class Difference:
    """A field of the profile with both values, and where the usual one is from."""

    field: str
    here: Any
    there: Any
    origin: str


def differences(here: MethodProfile, there: MethodProfile) -> tuple[Difference, ...]:
    """Field by field; the names of profiles are none.

    >>> from dataclasses import replace
    >>> usual = MethodProfile()
    >>> [(one.field, one.here, one.there) for one in differences(replace(usual, thd_n_limit_percent=10.0), usual)]
    [('thd_n_limit_percent', 10.0, 1.0)]
    """
    return tuple(
        Difference(one.name, getattr(here, one.name), getattr(there, one.name), ORIGINS.get(one.name, ""))
        for one in fields(MethodProfile)
        if one.name not in ("name", "unread") and getattr(here, one.name) != getattr(there, one.name)
    )
