"""The benches: what each is doing, who holds it, and off."""

from collections.abc import Sequence
from typing import Annotated

from fastapi import Query, Request
from pydantic import Field

from rulvek.api.asking import AnyPerson, Person, Use
from rulvek.api.calls import Calls
from rulvek.api.schemas import LARGEST_ID, Body, HandAnswerIn, ReasonIn
from rulvek.services.views.campaign import BenchView
from rulvek.services.views.now import NowView

router = Calls("bench")
Bench = Annotated[int | None, Query(ge=1, le=LARGEST_ID, description="number of the bench; the first one left out")]

Editing = Annotated[
    Sequence[Annotated[str, Field(max_length=80)]],
    Query(max_length=6, description="what the person has a form open on, as “model/3”"),
]
Known = Annotated[int | None, Query(ge=0, le=LARGEST_ID, description="`last_change` of the answer before")]


class AnswerIn(Body):
    """The holder's answer to someone who asks for the bench."""

    grant: bool


@router.get("/benches")
def list_benches(use: Use) -> list[BenchView]:
    """What every bench is doing."""
    return use.benches.states()


@router.get("/now")
def get_now(use: Use, person: Person, after: Known = None, editing: Editing = ()) -> NowView:
    """What every bench is doing, what was changed on record past a known change, and what others edit."""
    return use.now.since(after, person.name, editing)


@router.get("/bench")
def get_bench(use: Use, bench: Bench = None) -> BenchView:
    """What a bench is doing."""
    return use.benches.room_by_id(bench).state()


@router.post("/bench/off")
async def switch_off(request: Request, person: AnyPerson, bench: Bench = None) -> BenchView:
    """Stop whatever is running and make the bench safe, or every bench; needs no name.

    It runs in the event loop, past every queue: it asks no thread, no database, nothing but the bench.
    """
    benches = request.app.state.services.benches
    states: list[BenchView] = benches.off(person, bench)
    return states[0] if states else benches.known_rooms()[0].state()


@router.post("/bench/hold")
def ask_for_bench(use: Use, person: Person, bench: Bench = None) -> BenchView:
    """Take a bench if it is free, else ask the one who holds it."""
    room = use.benches.room_by_id(bench)
    room.hold.ask(person.name, room.busy)
    return room.state()


@router.post("/bench/hold/answer")
def answer_for_bench(body: AnswerIn, use: Use, person: Person, bench: Bench = None) -> BenchView:
    """Hand a bench over, or keep it."""
    room = use.benches.room_by_id(bench)
    room.hold.answer(person.name, body.grant)
    return room.state()


@router.post("/bench/hold/leave")
def leave_bench(use: Use, person: Person, bench: Bench = None) -> BenchView:
    """Leave a bench free for others."""
    room = use.benches.room_by_id(bench)
    room.hold.leave(person.name)
    return room.state()


@router.post("/bench/answers")
def answer_bench(body: HandAnswerIn, use: Use, person: Person, bench: Bench = None) -> BenchView:
    """Say that what the bench asks was done, or what was read."""
    return use.benches.room_by_id(bench).answer(body.question, body.value, person)


@router.post("/bench/hurry")
def hurry(body: ReasonIn, use: Use, person: Person, bench: Bench = None) -> BenchView:
    """Start the waiting run although its start window is not met."""
    room = use.benches.room_by_id(bench)
    room.hurry(person, body.reason)
    return room.state()
