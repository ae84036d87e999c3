"""What every process does that works beside another one of Rulvek's: it stands back, and ends with that one."""

import multiprocessing
import os
import signal
import threading
from multiprocessing import connection

BY = 10
"""By how much of 0 to 19 a process stands back that nobody waits for."""


def stand_back(by: int = BY) -> None:
    """Set this process up.

    Ctrl+C reaches every process of a terminal: whoever started this one ends it, once what it does is kept. Where that
    one is killed, nobody tells this one, which may wait by a pipe that it holds both ends of.
    """
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    if by and hasattr(os, "nice"):
        os.nice(by)
    if (parent := multiprocessing.parent_process()) is not None:
        threading.Thread(target=_end_with, args=(parent.sentinel,), daemon=True).start()


def _end_with(sentinel: int) -> None:
    connection.wait([sentinel])
    os._exit(1)
