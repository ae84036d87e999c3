"""The ways of driving a unit, by the names that people give them."""

from collections.abc import Callable, Generator, Mapping

from rulvek.core.runs.modes import Mode
from rulvek.core.runs.requests import Answer, Outcome, Request
from rulvek.core.runs.search import Read, SearchSettings, search, search_and_push_on

Procedure = Callable[[SearchSettings, Read], Generator[Request, Answer, Outcome]]


def certified(settings: SearchSettings, read: Read) -> Generator[Request, Answer, Outcome]:
    """A steady tone up to the THD+N limit: the only mode that backs a continuous figure."""
    return (yield from search(settings, read))


def uncertified(settings: SearchSettings, read: Read) -> Generator[Request, Answer, Outcome]:
    """A steady tone on into clipping, up to 10 % THD+N (``clip``) or until no more comes out, whichever is first."""
    return (yield from search(settings, read))


def burst(settings: SearchSettings, read: Read) -> Generator[Request, Answer, Outcome]:
    """Repeated short bursts up to the THD+N limit within the burst (the onset), then on to the largest power."""
    return (yield from search_and_push_on(settings, read))


def proof(settings: SearchSettings, read: Read) -> Generator[Request, Answer, Outcome]:
    """A steady tone up to the watts that are claimed and a little more, held there (``held``).

    Where the unit does not get there the run ends as a certified one would, with that reading: it tells how far it is.
    """
    return (yield from search(settings, read))


PROCEDURES: Mapping[Mode, Procedure] = {
    Mode.CERTIFIED: certified,
    Mode.UNCERTIFIED: uncertified,
    Mode.BURST: burst,
    Mode.PROOF: proof,
}
