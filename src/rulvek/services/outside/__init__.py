"""What people bring from outside the bench: readings by hand, recordings, tables, second instruments."""

from rulvek.services.outside.bulk_import import Imported, Job, import_one, read_list
from rulvek.services.outside.by_hand import ByHand
from rulvek.services.outside.earlier_results import EarlierResults, Table
from rulvek.services.outside.headings import Field
from rulvek.services.outside.inbox import RecordingSetup
from rulvek.services.outside.recordings import Recordings
from rulvek.services.outside.second_instrument import SecondInstrument

__all__ = [
    "ByHand",
    "EarlierResults",
    "Field",
    "Imported",
    "Job",
    "RecordingSetup",
    "Recordings",
    "SecondInstrument",
    "Table",
    "import_one",
    "read_list",
]
