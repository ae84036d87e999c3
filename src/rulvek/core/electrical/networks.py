"""Dummy loads combined to a wanted value: every network in series and in parallel of the boxes on a shelf."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations_with_replacement, product
from typing import Literal

from rulvek.core.electrical.loads import LoadBox

SAME_OHMS = 0.01  # a network within 1 % of the wanted value is that value
MOST_PIECES = 5


@dataclass(frozen=True, slots=True)
class LoadNetwork:
    """One box, or networks in series or in parallel.

    ``watts`` is what the whole stands before its first box is at its limit.
    """

    kind: Literal["one", "series", "parallel"]
    ohms: float
    watts: float
    box: LoadBox | None = None
    parts: tuple["LoadNetwork", ...] = ()

    @property
    def boxes(self) -> tuple[LoadBox, ...]:
        """All boxes, in the order of the parts."""
        return tuple(box for box, _ in self.shares(0.0))

    @property
    def steady_watts(self) -> float:
        """What the whole takes for as long as one likes: of boxes with a duty less than ``watts``."""
        return min(box.steady_watts / share for box, share in self.shares(1.0))

    @property
    def inductance_uh(self) -> float | None:
        """Of the whole, where ωL is small beside R; None where that of a box is not known.

        In parallel each branch counts by the square of its share of the current (circuit theory, to first order).

        >>> pair = [LoadBox(8.0, 500.0, 2, inductance_uh=6.0)]
        >>> networks(pair, 4.0)[0].inductance_uh, networks(pair, 16.0)[0].inductance_uh
        (3.0, 12.0)
        """
        if self.box is not None:
            return self.box.inductance_uh
        own = [part.inductance_uh for part in self.parts]
        told = [one for one in own if one is not None]
        if len(told) < len(own):
            return None
        if self.kind == "series":
            return sum(told)
        return sum(one * (self.ohms / part.ohms) ** 2 for one, part in zip(told, self.parts, strict=True))

    @property
    def ppm_per_kelvin(self) -> float | None:
        """How the whole drifts where all boxes are as warm; None where that of one is not known.

        Each counts by its share of the power, in series and in parallel alike (the derivative of either sum).

        >>> drifting = LoadBox(8.0, 500.0, cold_ohms=8.0, warm_ohms=8.16, warm_c=123.0)
        >>> steady = LoadBox(8.0, 500.0, cold_ohms=8.0, warm_ohms=8.0, warm_c=123.0)
        >>> round(networks([drifting, steady], 4.0)[0].ppm_per_kelvin)
        100
        """
        drifts = [(box.ppm_per_kelvin, share) for box, share in self.shares(1.0)]
        told = [ppm * share for ppm, share in drifts if ppm is not None]
        return sum(told) if len(told) == len(drifts) else None

    @property
    def pieces(self) -> int:
        """How many boxes it takes."""
        return 1 if self.box is not None else sum(part.pieces for part in self.parts)

    @property
    def how(self) -> str:
        """In words: "8 Ω + 4 Ω in parallel"; "single" for one box."""
        return "single" if self.box is not None else f"{self._sum()} in {self.kind}"

    def _sum(self) -> str:
        names = [f"{part.box.ohms:g} Ω" if part.box is not None else f"({part.how})" for part in self.parts]
        return " + ".join(names)

    def shares(self, watts: float) -> tuple[tuple[LoadBox, float], ...]:
        """Each box with what it takes of so many watts into the whole."""
        if self.box is not None:
            return ((self.box, watts),)
        pairs = zip(self.parts, self.part_watts(watts), strict=True)
        return tuple(share for part, own in pairs for share in part.shares(own))

    def part_watts(self, watts: float) -> tuple[float, ...]:
        """What each part takes of so many watts into the whole."""
        return tuple(watts * _share(self.kind, part, self.ohms) for part in self.parts)


def networks(
    boxes: Sequence[LoadBox], ohms: float, most_pieces: int = 3, tolerance: float = SAME_OHMS
) -> list[LoadNetwork]:
    """Ways to make ``ohms`` (within the relative tolerance) of the boxes: fewest pieces first, then most watts.

    Raises:
        ValueError: more pieces than can be searched, or a value not above 0.
    """
    if not (ohms > 0 and 1 <= most_pieces <= MOST_PIECES):
        raise ValueError(f"need ohms above 0 and 1 to {MOST_PIECES} pieces, got {ohms} and {most_pieces}")
    near = [n for n in _all(tuple(boxes), most_pieces) if abs(n.ohms / ohms - 1) <= tolerance]
    return sorted(near, key=lambda network: (network.pieces, -network.watts))


@lru_cache(maxsize=16)
def _all(boxes: tuple[LoadBox, ...], most_pieces: int) -> tuple[LoadNetwork, ...]:
    """Every network of every choice of boxes, each once."""
    found: list[LoadNetwork] = []
    known: dict[tuple[int, ...], tuple[LoadNetwork, ...]] = {}
    for pieces in range(1, most_pieces + 1):
        for chosen in combinations_with_replacement(range(len(boxes)), pieces):
            if all(chosen.count(index) <= boxes[index].count for index in set(chosen)):
                known[chosen] = tuple(_of(chosen, boxes, known))
                found += known[chosen]
    return tuple(found)


def _of(
    chosen: tuple[int, ...], boxes: Sequence[LoadBox], known: dict[tuple[int, ...], tuple[LoadNetwork, ...]]
) -> Iterator[LoadNetwork]:
    """Networks of exactly these boxes: two smaller ones joined, in every way that the boxes can be shared out."""
    if len(chosen) == 1:
        box = boxes[chosen[0]]
        yield LoadNetwork("one", box.ohms, box.watts, box)
        return
    seen: set[tuple[object, ...]] = set()
    for one, other in _shared_out(chosen):
        for left, right in product(known[one], known[other]):
            for kind in ("series", "parallel"):
                joined = _joined(kind, left, right)
                key = _key(joined)
                if key not in seen:
                    seen.add(key)
                    yield joined


def _shared_out(chosen: tuple[int, ...]) -> set[tuple[tuple[int, ...], tuple[int, ...]]]:
    """Both halves of every split into two that are not empty; the first half is never the later one of a pair."""
    splits = set()
    for mask in range(1, 2 ** len(chosen) - 1):
        one = tuple(index for place, index in enumerate(chosen) if mask >> place & 1)
        other = tuple(index for place, index in enumerate(chosen) if not mask >> place & 1)
        if (len(one), one) <= (len(other), other):
            splits.add((one, other))
    return splits


def _joined(kind: Literal["series", "parallel"], left: LoadNetwork, right: LoadNetwork) -> LoadNetwork:
    """Two networks as one; parts of the same kind stand side by side, the highest value first."""
    parts = [*(left.parts if left.kind == kind else [left]), *(right.parts if right.kind == kind else [right])]
    parts.sort(key=lambda part: (-part.ohms, -part.watts))
    ohms = sum(part.ohms for part in parts) if kind == "series" else 1 / sum(1 / part.ohms for part in parts)
    watts = min(part.watts / _share(kind, part, ohms) for part in parts)
    return LoadNetwork(kind, ohms, watts, None, tuple(parts))


def _share(kind: str, part: LoadNetwork, ohms: float) -> float:
    """A part's share of the power: in series the current is common, in parallel the voltage is."""
    return part.ohms / ohms if kind == "series" else ohms / part.ohms


def _key(network: LoadNetwork) -> tuple[object, ...]:
    if network.box is not None:
        return ("one", network.box)
    return (network.kind, *(_key(part) for part in network.parts))
