"""Unpacks one raw file in a process of its own: a hostile file can end that, and not the window.

Run as `python -m culmo.study.raw_worker size|picture|small`, the file on standard input. What comes out on standard output
is a line of JSON and then the pixels: linear light in the primaries of Display P3, 16 bits, (height, width, 3).
"""

import json
import resource
import sys
from typing import Any

_MEMORY = 3 << 30  # bytes
_SECONDS = 90
NO_LIBRARY = 3  # what the process ends with where LibRaw is not installed
MUCH = 10_000_000  # photosites, from which on four of them become a pixel: it is seen far finer than it is worked on
_LIGHTEST = 0.97  # of the range, where the brightest thousandth is brought to


def main(what: str) -> int:
    """Unpack; 0 where it could be done."""
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY, _MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (_SECONDS, _SECONDS))
    import io

    try:
        import rawpy
    except ImportError:
        return NO_LIBRARY

    with rawpy.imread(io.BytesIO(sys.stdin.buffer.read())) as raw:
        sizes = raw.sizes
        said: dict[str, Any] = {"size": [int(sizes.width), int(sizes.height)], "taken": _taken(raw)}
        if sizes.flip in (5, 6):
            said["size"].reverse()
        if what == "size":
            print(json.dumps(said))
            return 0
        half = what == "small" or sizes.raw_width * sizes.raw_height > MUCH
        pixels = raw.postprocess(
            half_size=half, use_camera_wb=True, no_auto_bright=True, output_bps=16, gamma=(1, 1),
            output_color=rawpy.ColorSpace.P3D65, highlight_mode=rawpy.HighlightMode.Clip,
        )  # fmt: skip
    pixels = _lit(pixels)
    said["pixels"] = list(pixels.shape)
    sys.stdout.write(json.dumps(said) + "\n")
    sys.stdout.flush()
    sys.stdout.buffer.write(pixels.tobytes())
    return 0


def _lit(pixels: Any) -> Any:
    """As bright as the range allows: a raw file is kept dark, so that nothing is burnt."""
    import numpy as np

    top = float(np.quantile(pixels[::8, ::8], 0.999))
    if not 500.0 < top < 0.9 * 65535.0:
        return pixels
    return np.minimum(pixels.astype(np.float32) * (_LIGHTEST * 65535.0 / top), 65535.0).astype(np.uint16)


def _taken(raw: Any) -> str:
    try:
        moment = raw.other.timestamp
        return str(moment.isoformat() if hasattr(moment, "isoformat") else "")
    except (AttributeError, ValueError, OSError, OverflowError):
        return ""


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
