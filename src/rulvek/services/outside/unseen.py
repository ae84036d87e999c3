"""Campaigns of many readings: written in small pieces that nobody sees, then shown at once.

No transaction of theirs is long, so that a run on a bench never waits for one.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

import structlog

from rulvek.core.records.actor import Actor
from rulvek.core.records.campaigns import Campaign
from rulvek.services.campaigns import save_campaign
from rulvek.store import audit, save, seals
from rulvek.store.engine import Database
from rulvek.store.queries import campaigns as queries

log = structlog.get_logger()
AT_ONCE = 50
"""Readings written in one transaction: others must not wait for a long one."""
GIVEN_UP = timedelta(minutes=10)
"""What was not shown by then never will be; before, another server on the same records may be at it."""


@dataclass(frozen=True, slots=True)
class Unseen:
    """A campaign that was written and that nobody sees yet."""

    campaign_id: int
    attempt_ids: tuple[int, ...]


def write_unseen(database: Database, campaign: Campaign) -> Unseen:
    """Write a campaign and its attempts, some at a time; the ids are in the order of the attempts'."""
    with database.writing() as session:
        campaign_id, run_ids = save_campaign(session, campaign, arriving=True)
    by_id = {attempt.id: (run_ids[run.position - 1], attempt) for run, attempt in campaign.attempts()}
    rows = [by_id[one] for one in sorted(by_id)]
    ids: list[int] = []
    for start in range(0, len(rows), AT_ONCE):
        with database.writing() as session:
            ids += save.attempts(session, rows[start : start + AT_ONCE])
            if start + AT_ONCE >= len(rows):
                save.count_left(session, [campaign_id])
    return Unseen(campaign_id, tuple(ids))


def show_together(
    database: Database, written: Sequence[Unseen], texts: Sequence[str], action: str, actor: Actor
) -> None:
    """Show campaigns all at once, each with its text and its seals in the audit chain."""
    deeds = []
    with database.reading() as session:
        for one, text in zip(written, texts, strict=True):
            ids = one.attempt_ids
            sealed = [
                seal
                for at in range(0, len(ids), AT_ONCE)
                for seal in seals.attempt_seals(session, ids[at : at + AT_ONCE])
            ]
            deeds.append(audit.Deed(action, f"campaign/{one.campaign_id}", {"text": text}, sealed))
    drafts = audit.draft_all(actor, deeds)
    with database.writing() as session:
        save.arrived(session, [one.campaign_id for one in written])
        audit.append(session, drafts)


def clear_unseen(database: Database, given_up: timedelta = GIVEN_UP) -> None:
    """Remove what was never completed: nobody has seen it."""
    with database.reading() as session:
        left = queries.arriving_campaigns(session, datetime.now(UTC) - given_up)
    for campaign_id in left:
        while _remove_some(database, campaign_id):
            pass
        log.warning("readings that were not completed were removed", campaign=campaign_id)


def _remove_some(database: Database, campaign_id: int) -> int:
    with database.writing() as session:
        return save.remove_arriving(session, campaign_id, AT_ONCE)
