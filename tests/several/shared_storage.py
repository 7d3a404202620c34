"""A storage that several machines share, simulated: it speaks S3 on this machine, and is gone with the tests."""

from __future__ import annotations

import logging
import os
import secrets
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from unittest import mock

import boto3
from django.conf import settings
from django.core.files.storage import storages
from django.test import override_settings
from moto.server import ThreadedMotoServer

KEYS = {"AWS_ACCESS_KEY_ID": "simulated", "AWS_SECRET_ACCESS_KEY": "simulated"}


@contextmanager
def shared_storage() -> Iterator[dict[str, str]]:
    """Files are kept in it until the block ends; the environment by which other processes find it."""
    logging.getLogger("werkzeug").setLevel(logging.ERROR)
    server = ThreadedMotoServer(port=0, verbose=False)
    server.start()
    host, port = server.get_host_and_port()
    endpoint = f"http://{host}:{port}"
    # What it was given before stays with the process.
    bucket = f"nettlecap-{secrets.token_hex(4)}"
    environment = {"FILES_BUCKET": bucket, "FILES_ENDPOINT": endpoint, **KEYS}
    options = {
        "bucket_name": bucket,
        "endpoint_url": endpoint,
        "region_name": "us-east-1",
        "default_acl": None,
        "file_overwrite": True,
        "max_memory_size": 1_000_000,
    }
    shared: dict[str, Any] = {"BACKEND": "storages.backends.s3.S3Storage", "OPTIONS": options}
    try:
        with mock.patch.dict(os.environ, KEYS), override_settings(STORAGES={**settings.STORAGES, "shared": shared}):
            boto3.client("s3", endpoint_url=endpoint, region_name="us-east-1").create_bucket(Bucket=bucket)
            yield environment
    finally:
        server.stop()
        storages._storages.pop("shared", None)


@contextmanager
def another_machine() -> Iterator[Path]:
    """Go on as another machine of the same school would: with nothing of its own in its folder."""
    with tempfile.TemporaryDirectory(prefix="nettlecap-other-") as folder, override_settings(MEDIA_ROOT=Path(folder)):
        yield Path(folder)
