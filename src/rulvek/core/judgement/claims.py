"""Where the documents that state power figures disagree."""

from collections.abc import Iterable

from rulvek.core.records.claims import Claim
from rulvek.core.runs.spec import same_place

SAME_FIGURE = 0.005  # figures that differ by less are rounded, not in conflict


def conflicts(claims: Iterable[Claim]) -> dict[int, tuple[int, ...]]:
    """Return, for each claim that another document contradicts, the ids of the contradicting ones.

    Two claims contradict each other when they state different watts for the same group, load, wiring and kind, and
    no stated condition (volts, THD+N limit, band, driven channels) sets them apart. One that either of them leaves out
    sets nothing apart.
    """
    claims = list(claims)
    found: dict[int, tuple[int, ...]] = {}
    for claim in claims:
        others = tuple(other.id for other in claims if other.id != claim.id and _contradicts(claim, other))
        if others:
            found[claim.id] = others
    return found


def _contradicts(one: Claim, other: Claim) -> bool:
    same_subject = same_place(one.place, other.place) and (one.kind, one.linked) == (other.kind, other.linked)
    conditions = (
        "supply_volts",
        "supply_high_volts",
        "thd_n_percent",
        "band_low_hz",
        "band_high_hz",
        "driven_channels",
    )
    set_apart = any(_differ(getattr(one, name), getattr(other, name)) for name in conditions)
    return same_subject and not set_apart and abs(one.each_watts / other.each_watts - 1) > SAME_FIGURE


def _differ(one: float | None, other: float | None) -> bool:
    return one is not None and other is not None and one != other
