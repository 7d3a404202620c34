"""Uploads go straight to where they are kept from, and are hashed as they come: nothing large is written twice."""

from __future__ import annotations

import hashlib
import os
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.core.files.uploadhandler import FileUploadHandler

from nettlecap.takes.store import Ready, incoming_folder

CHUNK = 1 << 20


class Incoming(UploadedFile):  # type: ignore[type-arg]  # not generic when it runs
    """A file as it came in, complete, with its content's hash; gone when it is closed, unless it was kept."""

    def __init__(self, path: Path, digest: str, name: str, content_type: str | None, size: int) -> None:
        # Opened only while it is read: a clip of a thousand pictures must not hold a thousand files open.
        super().__init__(None, name, content_type, size)
        self.ready = Ready(path, digest, size)

    def chunks(self, chunk_size: int | None = None) -> Iterator[bytes]:
        with self.ready.path.open("rb") as stream:
            while piece := stream.read(chunk_size or CHUNK):
                yield piece

    def close(self) -> None:
        self.ready.path.unlink(missing_ok=True)


class ToIncoming(FileUploadHandler):
    """Writes each file of a request to the incoming folder; how much a request may hold is bounded before it."""

    chunk_size = CHUNK

    def __init__(self, request: Any = None) -> None:
        super().__init__(request)
        self._path: Path | None = None

    def new_file(self, *args: Any, **kwargs: Any) -> None:
        super().new_file(*args, **kwargs)
        handle, name = tempfile.mkstemp(dir=incoming_folder())
        self._path, self._stream, self._whole = Path(name), os.fdopen(handle, "wb"), hashlib.sha256()

    def receive_data_chunk(self, raw_data: bytes, start: int) -> None:
        self._whole.update(raw_data)
        self._stream.write(raw_data)

    def file_complete(self, file_size: int) -> Incoming:
        self._stream.close()
        path, self._path = self._path, None
        assert path is not None  # noqa: S101 (a file is complete after it began)
        return Incoming(path, self._whole.hexdigest(), self.file_name or "clip", self.content_type, file_size)

    def upload_interrupted(self) -> None:
        if self._path is not None:
            self._stream.close()
            self._path.unlink(missing_ok=True)
