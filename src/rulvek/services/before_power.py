"""What holds, now, of what was seen to before power."""

from rulvek import clock
from rulvek.core.records.before_power import Standing, standing
from rulvek.core.records.campaigns import Campaign
from rulvek.store.engine import Session
from rulvek.store.queries import campaigns as queries


def standing_preparations(session: Session, campaign: Campaign) -> dict[str, Standing]:
    """What still holds for each of a campaign's wirings, by its key, in the days of the server's time zone."""
    last, now = queries.last_set_ups(session, campaign.bench), clock.now().astimezone()
    return {
        key: standing(campaign.seen_to(key), campaign.unit.id, key, last, now, campaign.method.preparations_hold_hours)
        for key in dict.fromkeys(run.wiring_key for run in campaign.runs)
    }
