"""Routers by place; none imports another."""

from fastapi import APIRouter

from rulvek.api.routers import (
    benches,
    by_hand,
    campaigns,
    desk,
    earlier_results,
    entries,
    evidence,
    gear,
    house,
    line,
    people,
    recordings,
)

ALL: tuple[APIRouter, ...] = (
    line.router,
    entries.router,
    benches.router,
    campaigns.router,
    evidence.router,
    gear.router,
    by_hand.router,
    recordings.router,
    earlier_results.router,
    desk.router,
    people.router,
    house.router,
)
