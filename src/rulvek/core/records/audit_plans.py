"""Plans of audits: how many units of a model are to be looked at in which months, at which loads."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any, ClassVar

from annotated_types import Ge, Le, Len

from rulvek.core.errors import BadInput
from rulvek.core.quantities import ENTERED, Name, Ohms, Text
from rulvek.core.runs.spec import Place

MOST_YEARS = 5


@dataclass(frozen=True, slots=True)
class AuditPlace:
    """A load of a channel group at which units are audited."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    group: Name
    load_ohms: Ohms
    bridged: bool = False

    @property
    def place(self) -> Place:
        """As everything else names it."""
        return self.group, self.load_ohms, self.bridged


@dataclass(frozen=True, slots=True)
class AuditPlanEntry:
    """A production audit of a model.

    Attributes:
        starts_on: A day of the first month.
        units: How many of each period.
        every_months: How many months a period has.
        places: Where a rating is to be proven; wherever one is published where none is named.
        runs: Whether runs of units on one side speak for a change, as the Western Electric rules have it, and not only
            one beyond three sigma.
        good_lot_percent: How often a lot that is as good as promised is to be accepted by its units' mean and spread.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    starts_on: date
    units: Annotated[int, Ge(1), Le(50)] = 2
    every_months: Annotated[int, Ge(1), Le(12)] = 1
    places: Annotated[tuple[AuditPlace, ...], Len(0, 20)] = ()
    remarks: Text = ""
    runs: bool = True
    good_lot_percent: Annotated[float, Ge(50), Le(99.9)] = 95.0

    @property
    def words(self) -> str:
        """What it asks for.

        >>> AuditPlanEntry(date(2026, 9, 1)).words, AuditPlanEntry(date(2026, 9, 1), 1, 3).words
        ('2 units every month', '1 unit every 3 months')
        """
        units = "1 unit" if self.units == 1 else f"{self.units} units"
        return f"{units} every {'month' if self.every_months == 1 else f'{self.every_months} months'}"


def refuse_far_off(plan: AuditPlanEntry, today: date) -> None:
    """See that an audit starts about now.

    Raises:
        BadInput: it starts more than five years from today, before or after.
    """
    if abs(plan.starts_on.year - today.year) > MOST_YEARS:
        raise BadInput(f"{plan.starts_on.isoformat()} is too far from today to be right.", field="starts_on")
