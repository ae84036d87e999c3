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
class NowView(View):
    """What the benches do, and what was changed; give ``last_change`` as ``after`` the next time."""

    benches: list[BenchView]
    last_change: int
    changes: list[ChangeView]
