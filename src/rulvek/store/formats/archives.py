"""What a damaged or made-up ZIP brings the library to raise, told in one clear sentence."""

import errno
import lzma
import struct
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager

from rulvek.core.errors import BadInput

_DAMAGE = (
    *(zipfile.BadZipFile, zlib.error, lzma.LZMAError, struct.error),
    *(KeyError, EOFError, NotImplementedError, RuntimeError, UnicodeError, OverflowError),
)


@contextmanager
def of_somebody_else(words: str) -> Iterator[None]:
    """Read a ZIP that somebody brought.

    Raises:
        BadInput: it is damaged or none, in these words; a full disk is no fault of the file's.
    """
    try:
        yield
    except _DAMAGE:
        raise BadInput(words, field="file") from None
    except OSError as fault:
        if fault.errno not in (None, errno.EINVAL):
            raise
        raise BadInput(words, field="file") from None  # it names places before its own beginning
