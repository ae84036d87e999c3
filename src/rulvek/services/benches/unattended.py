"""A whole campaign without anybody at the bench: for a simulated one, whose hands are simulated too."""

from collections.abc import Sequence

from rulvek.core.records.actor import Actor
from rulvek.core.records.before_power import Item
from rulvek.core.records.standing import RunState, state_of
from rulvek.core.runs.cause import Cause
from rulvek.services.benches.preparations import Preparations
from rulvek.services.benches.rooms import Benches
from rulvek.store import load
from rulvek.store.engine import Database


def conduct_all(
    database: Database,
    preparations: Preparations,
    benches: Benches,
    campaign_id: int,
    actor: Actor,
    leave_out: Sequence[tuple[Item, str]] = (),
    again: tuple[Cause, str] | None = None,
) -> None:
    """Work through every wiring: see to all of the list before power, then conduct each of its runs once.

    ``leave_out`` are items that are skipped, each for its reason; ``again`` says why what was cut off is repeated.
    """
    wired: int | None = None
    with database.reading() as session:
        campaign = load.campaign(session, campaign_id)
    room = benches.room(campaign.bench)
    for run in campaign.runs:
        if state_of(run) is RunState.DONE:
            continue
        if run.wiring != wired:
            for item, reason in leave_out:
                preparations.skip(campaign_id, run.wiring, item, actor, reason)
            preparations.see_to_all(campaign_id, run.wiring, actor)
            wired = run.wiring
        room.start(run.id, actor, *(again if again and run.attempts else ()))
        room.wait()
    room.hold.leave(actor.name)  # nobody stands there
