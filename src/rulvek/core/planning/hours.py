"""When a lab works: seconds of work counted on the days and at the times that it does."""

import re
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

from rulvek.core.errors import BadInput

DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
MOST_DAYS = 3_700
_SAID = re.compile(r"\s*([A-Za-z]{3})(?:\s*[-–]\s*([A-Za-z]{3}))?\s+(\d{1,2}:\d{2})\s*[-–]\s*(\d{1,2}:\d{2})\s*")


@dataclass(frozen=True, slots=True)
class Hours:
    """Working hours: on some days of the week, 0 for Monday, from one time of day to a later one."""

    days: tuple[int, ...]
    begins: time
    ends: time

    @property
    def words(self) -> str:
        """“Mon–Fri 08:00–17:00”."""
        first, last = DAYS[self.days[0]], DAYS[self.days[-1]]
        days = first if len(self.days) == 1 else f"{first}–{last}"
        return f"{days} {self.begins:%H:%M}–{self.ends:%H:%M}"

    def until(self, start: datetime, end: datetime) -> float:
        """Seconds of work from one moment to another; 0 where the second is not later.

        >>> from datetime import UTC
        >>> week = hours_of("Mon-Fri 08:00-17:00")
        >>> friday, monday = (datetime(2026, 3, day, hour, tzinfo=UTC) for day, hour in ((6, 16), (9, 9)))
        >>> week.until(friday, monday) / 3600
        2.0
        """
        worked, day = 0.0, start.date()
        while day <= end.date():
            if day.weekday() in self.days:
                opens, closes = self._of(day, start)
                worked += max(0.0, (min(closes, end) - max(opens, start)).total_seconds())
            day += timedelta(days=1)
        return worked

    def after(self, start: datetime, seconds: float) -> datetime:
        """When so many seconds of work have passed; of none, now, or when the hours begin.

        >>> from datetime import UTC
        >>> hours_of("Mon-Fri 08:00-17:00").after(datetime(2026, 3, 6, 16, tzinfo=UTC), 2 * 3600)
        datetime.datetime(2026, 3, 9, 9, 0, tzinfo=datetime.timezone.utc)
        """
        left, day = seconds, start.date()
        for _ in range(MOST_DAYS):
            opens, closes = self._of(day, start)
            if day.weekday() in self.days and closes > start:
                begins = max(opens, start)
                there = (closes - begins).total_seconds()
                if left <= there:
                    return begins + timedelta(seconds=left)
                left -= there
            day += timedelta(days=1)
        return datetime.combine(day, self.begins, start.tzinfo)

    def _of(self, day: date, zone_of: datetime) -> tuple[datetime, datetime]:
        zone = zone_of.tzinfo
        return datetime.combine(day, self.begins, zone), datetime.combine(day, self.ends, zone)


def hours_of(text: str) -> Hours | None:
    """Hours as somebody says them, “Mon-Fri 08:00-17:00”; None for nothing: then it is always.

    Raises:
        BadInput: they are none.
    """
    if not text.strip():
        return None
    found = _SAID.fullmatch(text)
    what = f"Working hours are said as “Mon-Fri 08:00-17:00”, not “{text.strip()[:60]}”."
    if found is None:
        raise BadInput(what, field="working_hours")
    names = [one.title() for one in (found[1], found[2] or found[1])]
    try:
        first, last = (DAYS.index(one) for one in names)
        begins, ends = (time.fromisoformat(one.zfill(5)) for one in (found[3], found[4]))
    except ValueError:
        raise BadInput(what, field="working_hours") from None
    if last < first or ends <= begins:
        raise BadInput(f"{what} They end after they begin.", field="working_hours")
    return Hours(tuple(range(first, last + 1)), begins, ends)
