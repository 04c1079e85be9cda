"""Files on their way in: refused before their body is read, hashed while it streams, never larger than allowed."""

import contextlib
import hashlib
import os
import tempfile
import weakref
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import IO, Any

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.core.files.uploadhandler import FileUploadHandler
from django.db import OperationalError, connection
from django.http import HttpRequest, HttpResponseBase, JsonResponse

from plinto_server.errors import FullError, TooLargeError
from plinto_server.files import space, store
from plinto_server.files.processes import tag

#: Around the file in a form: boundaries, names and the other fields.
_FORM_BYTES = 64 << 10
_LARGE = ("/api/artworks", "/api/policies/documents")
Answer = Callable[[HttpRequest], HttpResponseBase]


class ArrivedFile(UploadedFile[bytes]):
    """An upload that lies in `incoming/`, hashed and flushed."""

    def __init__(self, file: IO[bytes], part: store.Part, name: str, content_type: str | None) -> None:
        super().__init__(file, name, content_type, part.bytes)
        self.part = part

    def close(self) -> None:
        """Close it, and take it away if nobody kept it."""
        super().close()
        self.part.discard()


class HashingUploadHandler(FileUploadHandler):
    """Writes every file of a form to `incoming/`; what breaks off on the way is removed, at the latest with the request:
    Django does not tell its handlers of a line that was cut or of a disk that is full."""

    _file: "IO[bytes] | None" = None

    def new_file(self, *args: Any, **more: Any) -> None:
        """Begin a file."""
        super().new_file(*args, **more)
        # It stays open from piece to piece; `file_complete` and `upload_interrupted` close it.
        handle, name = tempfile.mkstemp(dir=store.incoming_folder(), prefix=tag(), suffix=".part")
        self._file, self._path = os.fdopen(handle, "w+b"), Path(name)
        self._left_over = weakref.finalize(self, _remove, self._file, self._path)
        self._digest = hashlib.sha256()
        self._size = 0

    def receive_data_chunk(self, raw_data: bytes, start: int) -> None:
        """Take the next piece; the largest size holds while it streams."""
        assert self._file is not None
        self._size += len(raw_data)
        self._digest.update(raw_data)
        with self._or_nothing():
            if self._size > settings.MAX_UPLOAD_BYTES:
                raise TooLargeError(f"The file is larger than {settings.MAX_UPLOAD_BYTES >> 20} MB, the limit here.")
            self._file.write(raw_data)

    def file_complete(self, file_size: int) -> ArrivedFile:
        """The file is whole."""
        assert self._file is not None
        with self._or_nothing():
            self._file.flush()
            os.fsync(self._file.fileno())
            self._file.seek(0)
        part = store.Part(self._path, self._digest.hexdigest(), self._size)
        arrived = ArrivedFile(self._file, part, self.file_name or "file", self.content_type)
        self._left_over.detach()
        self._file = None
        return arrived

    @contextlib.contextmanager
    def _or_nothing(self) -> Iterator[None]:
        try:
            yield
        except BaseException:
            self._left_over()
            raise

    def upload_interrupted(self) -> None:
        """The sender went away."""
        if self._file is not None:
            self._left_over()


def _remove(file: IO[bytes], path: Path) -> None:
    with contextlib.suppress(OSError):
        # What could not be written for a full disk cannot be written on closing either.
        file.close()
    path.unlink(missing_ok=True)


def part_of_upload(upload: "UploadedFile[bytes]") -> store.Part:
    """The part that an upload lies in."""
    return upload.part if isinstance(upload, ArrivedFile) else store.receive(upload.chunks(1 << 20))


def upload_gate(answer: Answer) -> Answer:
    """Middleware: who sends, how much, and whether there is room is known before the first byte of a body is read."""

    def checked(request: HttpRequest) -> HttpResponseBase:
        if not request.path.startswith("/api/"):
            return answer(request)
        try:
            signed_in = _signed_in(request)
        except OperationalError as error:
            if not space.is_full(error):
                raise
            return _refused(space.FULL, 507)
        if request.method in ("GET", "HEAD", "OPTIONS"):
            return answer(request)
        return _too_much(request, signed_in) or answer(request)

    return checked


def _too_much(request: HttpRequest, signed_in: bool) -> HttpResponseBase | None:
    """The refusal of a body that is too long, or anybody's."""
    try:
        length = int(request.META.get("CONTENT_LENGTH") or 0)
    except ValueError:
        return _refused("The request does not say how long it is. Send it again.", 400)
    form = (request.content_type or "").startswith("multipart/")
    if not signed_in and (form or length > _FORM_BYTES):
        return _refused("Sign in first.", 401)
    if form:
        return _form(request, length)
    most = settings.DATA_UPLOAD_MAX_MEMORY_SIZE
    return _refused(f"A request holds {most >> 20} MB at most.", 413) if length > most else None


def _signed_in(request: HttpRequest) -> bool:
    """Whether somebody is signed in. On a full disk not even that can be looked up: then the reserve makes room."""
    try:
        return request.user.is_authenticated
    except OperationalError as error:
        if not space.is_full(error) or not space.give_back_reserve():
            raise
    connection.close()
    return request.user.is_authenticated


def _form(request: HttpRequest, length: int) -> HttpResponseBase | None:
    if "HTTP_TRANSFER_ENCODING" in request.META or not length:
        return _refused("The upload does not say how long it is. Send it again with its length.", 411)
    if not request.headers.get("X-CSRFToken"):
        return _refused("The page is out of date, or this did not come from it. Load it again.", 403)
    most = settings.MAX_UPLOAD_BYTES if request.path.rstrip("/") in _LARGE else settings.MAX_DATA_FILE_BYTES
    if length > most + _FORM_BYTES:
        return _refused(f"This file has {length >> 20} MB; the limit here is {most >> 20} MB.", 413)
    try:
        space.room_for(length, "The upload")
    except FullError as error:
        return _refused(str(error), 507)
    return None


def _refused(detail: str, status: int) -> JsonResponse:
    return JsonResponse({"detail": detail}, status=status)
