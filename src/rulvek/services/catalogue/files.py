"""Files that people bring: looked at for what they are, kept by their bytes, told apart from what may be run."""

import io
from pathlib import Path, PurePosixPath

import soundfile

from rulvek import clock
from rulvek.core.errors import BadInput
from rulvek.core.records.actor import Actor
from rulvek.core.records.documents import FileEntry
from rulvek.services.views.kept import FileView, file_view
from rulvek.store import audit, kept
from rulvek.store.engine import Database
from rulvek.store.files import FileStore
from rulvek.store.formats.pictures import looks_like_picture, read_picture

MOST_BYTES = 40 * 2**20
JPEG = "image/jpeg"


class Files:
    """Documents, pictures and recordings of a wire. What a file is, its bytes say, never its name or its sender."""

    def __init__(self, database: Database, files: FileStore) -> None:
        self._database, self._files = database, files

    def take(self, content: bytes, name: str, actor: Actor) -> FileView:
        """Keep a file; pictures are written anew without what the camera said of the place.

        Raises:
            BadInput: nothing in it, too much, or neither a picture nor PDF nor WAV.
        """
        called = PurePosixPath(name.replace("\\", "/")).name.strip()[:120] or "file"
        if not content:
            raise BadInput("The file is empty.", field="file")
        if len(content) > MOST_BYTES:
            raise BadInput(f"A file has at most {MOST_BYTES // 2**20} MB.", field="file")
        new = put_away(self._files, content, called)
        with self._database.writing() as session:
            found = kept.add_file(session, new, actor.name, clock.now())
            text = f"{called}, {new.bytes} bytes"
            audit.note(session, actor, "brought a file", f"file/{found.sha256}", text=text, sha256=found.sha256)
        return file_view(found)

    def entry(self, sha256: str) -> FileEntry:
        """A file on record.

        Raises:
            NotFound: there is none.
        """
        with self._database.reading() as session:
            return kept.file(session, sha256)

    def path(self, sha256: str, small: bool) -> tuple[FileEntry, Path]:
        """A file on disk, or the small one of a picture.

        Raises:
            NotFound: there is none.
        """
        found = self.entry(sha256)
        return found, self._files.path(found.parts[-1 if small else 0][0])


def put_away(store: FileStore, content: bytes, name: str, *, as_it_is: bool = False) -> FileEntry:
    """Put a file away by what is in it; a picture ``as_it_is`` comes from a lab that has written it anew already.

    Raises:
        BadInput: neither a picture nor PDF nor WAV, or one that is damaged or too large.
    """
    if looks_like_picture(content[:32]):
        picture = read_picture(content)
        stored = store.put(content if as_it_is else picture.jpeg, ".jpg")
        small, size = store.put(picture.thumbnail, ".jpg"), (picture.width, picture.height)
        return FileEntry(stored.sha256, stored.path, name, JPEG, stored.bytes, *size, small.sha256)
    media, suffix = media_of(content)
    stored = store.put(content, suffix)
    return FileEntry(stored.sha256, stored.path, name, media, stored.bytes)


def media_of(content: bytes) -> tuple[str, str]:
    """What a file is that is no picture, as HTTP names it, and its suffix.

    Raises:
        BadInput: something that is not taken.
    """
    if content.startswith(b"%PDF-"):
        return "application/pdf", ".pdf"
    if content.startswith((b"RIFF", b"RF64")) and content[8:12] == b"WAVE":
        try:
            soundfile.info(io.BytesIO(content))
        except soundfile.LibsndfileError:
            raise BadInput("The WAV file cannot be read.", field="file") from None
        return "audio/wav", ".wav"
    raise BadInput("A file is a picture (JPEG, PNG, WebP), a PDF or a WAV recording.", field="file")
