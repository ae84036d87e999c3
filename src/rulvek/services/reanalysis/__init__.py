"""The archive of waveforms, read again."""

from rulvek.services.reanalysis.archive import Archive, Reanalysis, Tell, as_data
from rulvek.services.reanalysis.reading import AT_ONCE, Task, processes, read_all

__all__ = ["AT_ONCE", "Archive", "Reanalysis", "Task", "Tell", "as_data", "processes", "read_all"]
