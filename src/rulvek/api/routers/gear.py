"""The gear register."""

from rulvek.api.asking import Person, Use
from rulvek.api.calls import Calls
from rulvek.api.schemas import Id, SeenIfAny, version_seen
from rulvek.core.records.instruments import InstrumentEntry
from rulvek.services.gear.methods import MethodEntry
from rulvek.services.views.gear import GearView
from rulvek.services.views.methods import LabMethodsView, MethodUsedView

router = Calls("gear")


@router.get("/gear")
def get_gear(use: Use) -> GearView:
    """The bench, its loads and its instruments."""
    return use.gear.view()


@router.get("/methods")
def list_methods(use: Use) -> list[MethodUsedView]:
    """The methods that campaigns were planned under, each beside what is proposed today."""
    return use.methods.used()


@router.get("/methods/versions")
def get_lab_methods(use: Use) -> LabMethodsView:
    """The lab's own methods, version by version, and what may be changed in one."""
    return use.methods.lab()


@router.post("/methods", status_code=201)
def propose_method(body: MethodEntry, use: Use, person: Person) -> LabMethodsView:
    """Propose the next version of a method."""
    return use.methods.propose(body, person)


@router.post("/methods/{version_id}/approval")
def approve_method(version_id: Id, use: Use, person: Person) -> LabMethodsView:
    """Approve a version that somebody else proposed: campaigns are planned under it from now on."""
    return use.methods.approve(version_id, person)


@router.post("/gear/instruments", status_code=201)
def enter_instrument(body: InstrumentEntry, use: Use, person: Person, seen: SeenIfAny = None) -> GearView:
    """Put an instrument on the register in place of the entry that was looked at, 0 where there was none."""
    return use.gear.enter(body, person, None if seen is None else version_seen(seen))
