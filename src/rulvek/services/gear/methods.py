"""The methods that campaigns were planned under, each beside what is proposed today."""

import json
from dataclasses import replace
from typing import Any

from rulvek.core.method.differences import Difference, differences
from rulvek.core.method.profile import MethodProfile
from rulvek.services.views.methods import MethodDifferenceView, MethodUsedView
from rulvek.store.engine import Database
from rulvek.store.queries import methods as queries


class Methods:
    """Reads what was used; a campaign keeps its method for good."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def used(self) -> list[MethodUsedView]:
        """Those used last first; what only an older program stored otherwise is one."""
        with self._database.reading() as session:
            rows = queries.used(session)
        found: dict[str, queries.MethodRow] = {}
        for row in rows:
            key = json.dumps(MethodProfile.from_data(row.method).as_data(), sort_keys=True, default=str)
            held = found.get(key)
            found[key] = row if held is None else _together(held, row)
        return [_view(row) for row in found.values()]


def _together(one: queries.MethodRow, other: queries.MethodRow) -> queries.MethodRow:
    latest = max(one, other, key=lambda row: row.latest_campaign)
    return replace(
        latest,
        campaigns=one.campaigns + other.campaigns,
        first=min(one.first, other.first),
        last=max(one.last, other.last),
    )


def _view(row: queries.MethodRow) -> MethodUsedView:
    method = MethodProfile.from_data(row.method)
    return MethodUsedView(
        name=method.name,
        campaigns=row.campaigns,
        first=row.first,
        last=row.last,
        latest_campaign_id=row.latest_campaign,
        differences=[_difference_view(one) for one in differences(method, MethodProfile())],
    )


def _difference_view(one: Difference) -> MethodDifferenceView:
    return MethodDifferenceView(field=one.field, here=_words(one.here), today=_words(one.there), origin=one.origin)


def _words(value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple):
        return ", ".join(f"{one:g}" for one in value) or "none"
    return f"{value:g}" if isinstance(value, float | int) else str(value)
