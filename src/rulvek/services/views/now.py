"""Answers about this moment."""

from rulvek.services.views.base import View, view
from rulvek.services.views.campaign import BenchView


@view
class ChangeView(View):
    """Something that was changed on record, by whom; ``subject`` is what, as “campaign/3”."""

    id: int
    person: str
    action: str
    subject: str
    text: str


@view
class EditorView(View):
    """Somebody else who has a form open on something, as “unit/12”."""

    person: str
    subject: str


@view
class WorkView(View):
    """Something that this server is at work on for everybody: how much of it is done, or why it ended.

    It is told in ``things``, as “units”; ``note`` says what to expect until it is done.
    """

    what: str
    done: int
    of: int
    things: str
    note: str
    problem: str


@view
class NowView(View):
    """What the benches do, what was changed, and what others edit; give ``last_change`` as ``after`` the next time."""

    benches: list[BenchView]
    last_change: int
    changes: list[ChangeView]
    editing: list[EditorView]
    work: WorkView | None
