"""Video at a rate, one picture a frame: MP4 and MOV with H.264, WebM with VP9 or AV1, MKV, AVI."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import cast

import av
import numpy as np
from numpy.typing import NDArray

from motion.export.drawn import Drawn, on_paper

CODECS: dict[str, tuple[str, str, dict[str, str]]] = {
    "h264": ("libx264", "yuv420p", {"crf": "18", "preset": "medium"}),
    "vp9": ("libvpx-vp9", "yuv420p", {"crf": "24", "b": "0", "deadline": "good", "cpu-used": "4"}),
    "av1": ("libsvtav1", "yuv420p", {"crf": "30", "preset": "9"}),
    "mjpeg": ("mjpeg", "yuvj420p", {"q:v": "4"}),
    "lossless": ("ffv1", "bgr0", {}),
}
"""Encoder, pixel format and options by name."""


def to_video(drawn: Drawn, path: Path, fps: float, codec: str = "h264", options: dict[str, str] | None = None) -> None:
    """Write a video; the container follows from the path's suffix. Odd sides get one more row or column."""
    encoder, pixels, usual = CODECS[codec]
    rate = Fraction(fps).limit_denominator(1001)
    with av.open(str(path), mode="w") as container:
        stream: av.VideoStream | None = None
        for picture, count in drawn:
            flat = _even(on_paper(picture))
            if stream is None:
                stream = cast("av.VideoStream", container.add_stream(encoder, rate=rate))
                stream.width, stream.height, stream.pix_fmt = flat.shape[1], flat.shape[0], pixels
                stream.options = {**usual, **(options or {})}
            for _ in range(count):
                container.mux(stream.encode(av.VideoFrame.from_ndarray(flat, format="rgb24")))
        if stream is not None:
            container.mux(stream.encode())


def _even(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    rows, columns = picture.shape[0] % 2, picture.shape[1] % 2
    return np.ascontiguousarray(np.pad(picture, ((0, rows), (0, columns), (0, 0)), mode="edge"))
