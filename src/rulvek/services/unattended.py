"""A whole campaign without anybody at the bench: for a simulated one, whose hands are simulated too."""

from collections.abc import Sequence

from rulvek.services.before_power import Item
from rulvek.services.bench_room import BenchRoom
from rulvek.services.campaigns import Campaigns
from rulvek.services.preparing import Preparing


def conduct_all(
    campaigns: Campaigns,
    preparing: Preparing,
    room: BenchRoom,
    campaign_id: int,
    person: str,
    leave_out: Sequence[tuple[Item, str]] = (),
) -> None:
    """Work through every wiring: see to all of the list before power, then conduct each of its runs once.

    ``leave_out`` are items that are skipped, each for its reason.
    """
    seen: set[int] = set()
    for run in campaigns.get(campaign_id).runs:
        if run.state == "done":
            continue
        if run.wiring not in seen:
            for item, reason in leave_out:
                preparing.skip(campaign_id, run.wiring, item, person, reason)
            preparing.see_to_all(campaign_id, run.wiring, person)
            seen.add(run.wiring)
        room.start(run.id, person)
        room.wait()
