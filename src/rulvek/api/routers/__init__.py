"""Routers by place; none imports another."""

from fastapi import APIRouter

from rulvek.api.routers import (
    assembling,
    benches,
    bundles,
    by_hand,
    campaigns,
    desk,
    dossiers,
    earlier_results,
    entries,
    evidence,
    files,
    gear,
    house,
    line,
    people,
    practice,
    queue,
    ratings,
    recordings,
    rereading,
    shared,
)

# What every open page asks all the time is found first.
ALL: tuple[APIRouter, ...] = (
    benches.router,
    assembling.router,
    line.router,
    entries.router,
    dossiers.router,
    files.router,
    bundles.router,
    campaigns.router,
    evidence.router,
    queue.router,
    gear.router,
    by_hand.router,
    recordings.router,
    shared.router,
    earlier_results.router,
    desk.router,
    ratings.router,
    people.router,
    practice.router,
    rereading.router,
    house.router,
)
