"""The archive of waveforms, read again."""

from rulvek.services.reanalysis.archive import Archive, Reanalysis, Tell, as_data
from rulvek.services.reanalysis.reading import AT_ONCE, Task, processes, read_all
from rulvek.services.reanalysis.rereading import Rereading

__all__ = ["AT_ONCE", "Archive", "Reanalysis", "Rereading", "Task", "Tell", "as_data", "processes", "read_all"]
