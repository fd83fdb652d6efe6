"""A raw file as a camera would write it: a Bayer mosaic in a DNG, written here from the published layout (DNG 1.4)."""

import struct

import numpy as np

XYZ_TO_SRGB = (
    (3.2404542, -1.5371385, -0.4985314),
    (-0.9692660, 1.8760108, 0.0415560),
    (0.0556434, -0.2040259, 1.0572252),
)
_BLACK, _WHITE = 256, 4095
_KINDS = {"B": 1, "A": 2, "H": 3, "I": 4, "R": 5, "S": 10}


def dng_bytes(linear, neutral=(0.5, 1.0, 0.65), orientation=1, taken="2026:03:04 10:20:30"):
    """A picture of linear sRGB light, (h, w, 3) float 0..1, as a raw file whose camera sees in the primaries of sRGB.

    Parameters
    ----------
    linear : (h, w, 3) float
    neutral : (3,) float, what the camera sees of white
    orientation : int, as in Exif
    taken : str, as in Exif
    """
    seen = np.clip(linear * np.asarray(neutral), 0, 1)
    height, width = (side // 2 * 2 for side in seen.shape[:2])
    mosaic = np.empty((height, width))
    for row, column, channel in ((0, 0, 0), (0, 1, 1), (1, 0, 1), (1, 1, 2)):
        mosaic[row::2, column::2] = seen[row:height:2, column:width:2, channel]
    data = np.round(_BLACK + mosaic * (_WHITE - _BLACK)).astype("<u2").tobytes()
    tags = [
        (254, "I", [0]), (256, "I", [width]), (257, "I", [height]), (258, "H", [16]), (259, "H", [1]), (262, "H", [32803]),
        (271, "A", b"Made up\0"), (272, "A", b"Model\0"), (273, "I", [0]), (274, "H", [orientation]), (277, "H", [1]),
        (278, "I", [height]), (279, "I", [len(data)]), (306, "A", taken.encode() + b"\0"), (33421, "H", [2, 2]),
        (33422, "B", bytes([0, 1, 1, 2])), (50706, "B", bytes([1, 4, 0, 0])), (50707, "B", bytes([1, 1, 0, 0])),
        (50708, "A", b"Made up Model\0"), (50714, "H", [_BLACK]), (50717, "H", [_WHITE]),
        (50721, "S", [(round(v * 10000), 10000) for row in XYZ_TO_SRGB for v in row]),
        (50728, "R", [(round(v * 10000), 10000) for v in neutral]), (50778, "H", [21]),
    ]  # fmt: skip
    after = 8 + 2 + 12 * len(tags) + 4
    entries, body, strip_at = b"", b"", 0
    for key, kind, values in tags:
        code = _KINDS[kind]
        count = len(values)
        if kind in "BA":
            packed = bytes(values)
        elif kind in "RS":
            packed = b"".join(struct.pack("<ii" if kind == "S" else "<II", *pair) for pair in values)
        else:
            packed = struct.pack(f"<{count}{kind}", *values)
        if key == 273:
            strip_at = len(entries) + 8
        if len(packed) <= 4:
            field = packed.ljust(4, b"\0")
        else:
            field = struct.pack("<I", after + len(body))
            body += packed + b"\0" * (len(packed) % 2)
        entries += struct.pack("<HHI", key, code, count) + field
    entries = entries[:strip_at] + struct.pack("<I", after + len(body)) + entries[strip_at + 4 :]
    return b"II*\0" + struct.pack("<I", 8) + struct.pack("<H", len(tags)) + entries + b"\0" * 4 + body + data
