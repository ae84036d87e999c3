"""Every error that Rulvek raises on purpose, in one tree, split by who can act on it.

    RulvekError
    ├── BadInput            what was entered or sent cannot be used; names the field
    │   └── BadCapture      a recorded waveform cannot be analysed
    ├── NotFound            what was asked for is not in the records
    ├── Conflict            it clashes with what is already there or going on
    │   └── Stale           it was changed since it was looked at
    ├── NotSignedIn         nobody is signed in, or nobody any more
    ├── NotAllowed          the person's roles do not include it
    ├── TooSoon             it was tried too often; wait
    ├── NoRoom              the disk of the records is full
    ├── Unreadable          what is on record cannot be understood; it names itself
    └── BenchFault          the bench or its link failed while a run was on

A ``ValueError`` from the core, in contrast, is a mistake of the calling code.
"""

import errno


class RulvekError(Exception):
    """An error with a stable code, one sentence on what happened and one on what to do."""

    code = "error"

    def __init__(self, what: str, *, todo: str = "", field: str | None = None, code: str | None = None) -> None:
        super().__init__(what)
        self.what = what
        self.todo = todo
        self.field = field
        if code is not None:
            self.code = code


class BadInput(RulvekError):
    """What was entered cannot be used; ``field`` names it."""

    code = "bad-input"


class BadCapture(BadInput):
    """A recorded waveform cannot be analysed."""

    code = "bad-capture"


class NotFound(RulvekError):
    """What was asked for is not in the records."""

    code = "not-found"


class Conflict(RulvekError):
    """The request clashes with what is already there or going on."""

    code = "conflict"


class Stale(Conflict):
    """What is to be changed was changed by somebody since it was looked at."""

    code = "stale"


class NotSignedIn(RulvekError):
    """Nobody is signed in, or nobody any more."""

    code = "not-signed-in"


class NotAllowed(RulvekError):
    """The person's roles do not include it, or the request may have come from elsewhere."""

    code = "not-allowed"


class TooSoon(RulvekError):
    """It was tried too often; it may be tried again after ``seconds``."""

    code = "too-soon"

    def __init__(self, what: str, seconds: float) -> None:
        super().__init__(what)
        self.seconds = seconds


class NoRoom(RulvekError):
    """The disk of the records is full; what was to be written is not, and nothing else is harmed."""

    code = "no-room"
    ERRNO = (errno.ENOSPC, errno.EDQUOT)
    """What the system says of a full disk, and of a full share of one."""

    def __init__(self, what: str = "There is no room left on the disk of the records: nothing was kept.") -> None:
        super().__init__(what, todo="Make room, then do it again; Rulvek goes on by itself.")


class Unreadable(RulvekError):
    """What is on record cannot be understood; ``subject`` is the id of the attempt that it is about."""

    code = "unreadable"

    def __init__(self, what: str, *, todo: str = "", subject: int = 0) -> None:
        super().__init__(what, todo=todo)
        self.subject = subject


class BenchFault(RulvekError):
    """The bench, or the link to it, failed while a run was on."""

    code = "bench-fault"
