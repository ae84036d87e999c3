"""Published power figures with their conditions, and where the documents that state them disagree."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum


class ClaimKind(StrEnum):
    """What sort of power a figure states."""

    CONTINUOUS = "continuous"
    BURST = "burst"
    MAXIMUM = "maximum"


@dataclass(frozen=True, slots=True)
class Claim:
    """A figure per channel (per pair where bridged) with its conditions; None where the document states none."""

    id: int
    document: str
    group: str
    watts: float
    load_ohms: float
    bridged: bool = False
    kind: ClaimKind = ClaimKind.CONTINUOUS
    supply_volts: float | None = None
    thd_n_percent: float | None = None
    band_low_hz: float | None = None
    band_high_hz: float | None = None

    @property
    def missing_conditions(self) -> tuple[str, ...]:
        """Conditions that the document leaves out, in words."""
        stated = {
            "supply voltage": self.supply_volts,
            "THD+N limit": self.thd_n_percent,
            "band": self.band_low_hz,
        }
        return tuple(name for name, value in stated.items() if value is None)


SAME_FIGURE = 0.005  # figures that differ by less are rounded, not in conflict


def conflicts(claims: Iterable[Claim]) -> dict[int, tuple[int, ...]]:
    """Return, for each claim that another document contradicts, the ids of the contradicting ones.

    Two claims contradict each other when they state different watts for the same group, load, wiring and kind, and
    no stated condition (volts, THD+N limit) sets them apart. A condition that one of them leaves out sets nothing
    apart.
    """
    claims = list(claims)
    found: dict[int, tuple[int, ...]] = {}
    for claim in claims:
        others = tuple(other.id for other in claims if other.id != claim.id and _contradicts(claim, other))
        if others:
            found[claim.id] = others
    return found


def _contradicts(one: Claim, other: Claim) -> bool:
    same_subject = (one.group, one.load_ohms, one.bridged, one.kind) == (
        other.group,
        other.load_ohms,
        other.bridged,
        other.kind,
    )
    set_apart = _differ(one.supply_volts, other.supply_volts) or _differ(one.thd_n_percent, other.thd_n_percent)
    return same_subject and not set_apart and abs(one.watts / other.watts - 1) > SAME_FIGURE


def _differ(one: float | None, other: float | None) -> bool:
    return one is not None and other is not None and one != other
