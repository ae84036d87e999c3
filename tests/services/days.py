"""What days at the bench leave on record."""

from rulvek.composition import Services
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.modes import Mode
from tests.conftest import TAMSIN, conducted, write_line


def a_day(services: Services) -> None:
    """A day on the simulated bench: certified, uncertified and burst runs of a unit at two loads, with waveforms."""
    wishes = Wishes(modes=(Mode.CERTIFIED, Mode.UNCERTIFIED, Mode.BURST))
    conducted(services, services.campaigns.create(write_line(services), TAMSIN, wishes).id)
