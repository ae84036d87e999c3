"""Several things side by side: what is said of each, and where they differ."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

NOTHING = ""
"""What stands where nobody said anything."""

Saying = tuple[str, str, str]
"""A section, a label within it, and what is said there."""


@dataclass(frozen=True, slots=True)
class Difference:
    """A row of the table: one label of one section, with what each thing says there."""

    section: str
    label: str
    values: tuple[str, ...]

    @property
    def is_same(self) -> bool:
        """Whether all say the same."""
        return len(set(self.values)) == 1


def side_by_side(things: Sequence[Iterable[Saying]]) -> tuple[Difference, ...]:
    """One row for each label that any of the things has, sections and labels in the order in which they first come.

    >>> rows = side_by_side([[("inside", "fan", "yes")], [("inside", "fan", "no"), ("inside", "bridge", "MUR")]])
    >>> [(row.label, row.values, row.is_same) for row in rows]
    [('fan', ('yes', 'no'), False), ('bridge', ('', 'MUR'), False)]
    """
    said: list[dict[tuple[str, str], str]] = []
    order: dict[str, dict[str, None]] = {}
    for thing in things:
        own: dict[tuple[str, str], str] = {}
        for section, label, words in thing:
            # What is said twice under one label is one cell.
            known = own.get((section, label))
            own[section, label] = words if known is None else f"{known}; {words}"
            order.setdefault(section, {}).setdefault(label, None)
        said.append(own)
    return tuple(
        Difference(section, label, tuple(own.get((section, label), NOTHING) for own in said))
        for section, labels in order.items()
        for label in labels
    )
