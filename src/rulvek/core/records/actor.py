"""Who did something: a person by name, the program itself, or somebody who did not say."""

from dataclasses import dataclass
from enum import StrEnum


class ActorKind(StrEnum):
    """What sort of actor."""

    PERSON = "person"
    PROGRAM = "program"
    UNNAMED = "unnamed"


@dataclass(frozen=True, slots=True)
class Actor:
    """Who acts. ``name`` is a person's, and means nothing beyond that person."""

    name: str
    kind: ActorKind = ActorKind.PERSON

    @property
    def words(self) -> str:
        """As people read it."""
        return {ActorKind.PROGRAM: "the program", ActorKind.UNNAMED: "somebody unnamed"}.get(self.kind, self.name)


PROGRAM = Actor("", ActorKind.PROGRAM)
UNNAMED = Actor("", ActorKind.UNNAMED)
"""Off needs no name."""
