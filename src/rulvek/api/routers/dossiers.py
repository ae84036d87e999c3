"""What is kept with models and units. Every kind has the same five calls: list, add, change, close, versions."""

from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import Field

from rulvek.api.asking import Person, Use
from rulvek.api.calls import Calls
from rulvek.api.schemas import Body, Id, Seen, version_seen
from rulvek.core.records.documents import Digest
from rulvek.core.records.kept import OF, SHAPES, Kind
from rulvek.services.views.kept import (
    AuditPlanView,
    DocumentView,
    InsideView,
    ListeningView,
    LotView,
    PhotographView,
    RevisionView,
    WireView,
)
from rulvek.services.views.line import VersionView

router = Calls("kept")


class CloseIn(Body):
    """Whether it is not used any more."""

    closed: bool


class WireIn(Body):
    """A two-channel recording, volts and amps, with what a full-scale sample of each stands for."""

    recording: Digest
    volts_each: Annotated[float, Field(gt=0, le=10_000)]
    amps_each: Annotated[float, Field(gt=0, le=10_000)]


@dataclass(frozen=True)
class _Calls:
    """A kind with the words of its calls."""

    kind: Kind
    many: str
    answer: Any

    def declare(self) -> None:
        """Put the five calls on the router, with the kind's own shapes."""
        kind, word, many = self.kind, self.kind.value, self.many.replace("-", "_")
        of = f"/{OF[kind]}s/{{of_id}}/{self.many}"
        own = f"/{self.many}/{{kept_id}}"

        def all_of(of_id: Id, use: Use) -> Any:
            return use.dossiers.all_of(kind, of_id)

        def add(of_id: Id, body: Any, use: Use, person: Person) -> Any:
            return use.dossiers.add(kind, of_id, body, person)

        def change(kept_id: Id, body: Any, use: Use, person: Person, seen: Seen) -> Any:
            return use.dossiers.change(kind, kept_id, version_seen(seen), body, person)

        def close(kept_id: Id, body: CloseIn, use: Use, person: Person) -> Any:
            return use.dossiers.close(kind, kept_id, body.closed, person)

        def versions(kept_id: Id, use: Use) -> list[VersionView]:
            return use.entries.versions(f"{word}/{kept_id}")

        for call in (add, change):
            call.__annotations__["body"] = SHAPES[kind]
        answer: Any = self.answer
        routes: list[tuple[str, str, Any, str, Any, str, int]] = [
            ("GET", of, all_of, f"list_{many}", list[answer], f"All of this kind ({word}), closed too.", 200),
            ("POST", of, add, f"add_{word}", answer, "Put one on record.", 201),
            ("PUT", own, change, f"change_{word}", answer, "Change one.", 200),
            ("POST", f"{own}/closed", close, f"close_{word}", answer, "Close one, or open it again.", 200),
            ("GET", f"{own}/versions", versions, f"list_{word}_versions", list[VersionView], "All its versions.", 200),
        ]
        for method, path, call, name, answer, words, status in routes:
            router.add_api_route(
                path, call, methods=[method], name=name, response_model=answer, description=words, status_code=status
            )


for _calls in (
    _Calls(Kind.REVISION, "revisions", RevisionView),
    _Calls(Kind.LOT, "lots", LotView),
    _Calls(Kind.DOCUMENT, "documents", DocumentView),
    _Calls(Kind.INSIDE, "insides", InsideView),
    _Calls(Kind.PHOTOGRAPH, "photographs", PhotographView),
    _Calls(Kind.LISTENING, "listening", ListeningView),
    _Calls(Kind.AUDIT_PLAN, "audit-plans", AuditPlanView),
):
    _calls.declare()


@router.post("/speaker-wire")
def read_wire(body: WireIn, use: Use) -> WireView:
    """Work out volts, amps, phase and power at a loudspeaker's wire from a recording; nothing is stored."""
    return use.dossiers.read_wire(body.recording, body.volts_each, body.amps_each)
