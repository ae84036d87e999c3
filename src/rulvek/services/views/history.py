"""Answers about what was done to something."""

from datetime import datetime
from typing import Any, Protocol

from rulvek.core.records.actor import Actor
from rulvek.core.records.facts import label_of
from rulvek.services.views.base import Page, View, view


class ChainEntry(Protocol):
    """An entry of the audit chain, as the store gives it."""

    @property
    def id(self) -> int:
        """Its number in the chain."""

    @property
    def at(self) -> datetime:
        """When."""

    @property
    def actor(self) -> Actor:
        """Who."""

    @property
    def action(self) -> str:
        """What was done."""

    @property
    def subject(self) -> str:
        """To what, as “model/3”."""

    @property
    def detail(self) -> dict[str, Any]:
        """What else is known of it."""

    @property
    def hash(self) -> str:
        """Its seal."""


@view
class FieldChangeView(View):
    """A field that was changed, in words; empty where there was nothing."""

    field: str
    before: str
    after: str


@view
class ChangeEntryView(View):
    """An entry of the audit chain: who did what to what, and what it was before and after."""

    id: int
    at: datetime
    person: str
    action: str
    subject: str
    text: str
    changes: list[FieldChangeView]
    hash: str


@view
class ChangesView(Page):
    """A page of them, the latest first."""

    entries: list[ChangeEntryView]


def change_entry_view(entry: ChainEntry) -> ChangeEntryView:
    """An entry of the chain, as people see it."""
    detail = entry.detail
    before, after = detail.get("before"), detail.get("after")
    if isinstance(before, dict) and isinstance(after, dict):
        changes = [_change(name, before.get(name), after.get(name)) for name in after]
    elif isinstance(before, str) and isinstance(after, str):
        changes = [_change("", before, after)]
    else:
        changes = []
    return ChangeEntryView(
        id=entry.id,
        at=entry.at,
        person=entry.actor.words,
        action=entry.action,
        subject=entry.subject,
        text=str(detail.get("text", "")),
        changes=changes,
        hash=entry.hash,
    )


def _change(field: str, before: Any, after: Any) -> FieldChangeView:
    return FieldChangeView(field=label_of(field), before=_words(before), after=_words(after))


def _words(value: Any) -> str:
    match value:
        case None | "" | [] | {}:
            return ""
        case bool():
            return "yes" if value else "no"
        case float():
            return f"{value:g}"
        case list():
            return "; ".join(filter(None, (_words(one) for one in value)))
        case dict():
            pairs = ((name.replace("_", " "), _words(one)) for name, one in value.items())
            return ", ".join(f"{name} {words}" for name, words in pairs if words)
        case _:
            return str(value)
