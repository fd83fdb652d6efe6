"""Writes `src/culmo/core/colour/tables.py` from the public tables of the colour-science package."""

from pathlib import Path

import colour
import numpy as np

TARGET = Path(__file__).resolve().parents[1] / "src" / "culmo" / "core" / "colour" / "tables.py"
HEAD = '''"""CIE tables at the bands of Culmo, 380 to 730 nm every 10 nm. Made by `make tables`; do not edit.

Sources: CIE 1931 2 degree standard observer (CIE 015:2018); illuminants D65 and A (CIE 015:2018);
LED-B5, a cool phosphor LED (CIE 015:2018, table of typical LED lamps), as published in the
colour-science package (BSD-3-Clause).
"""

import numpy as np

'''


def block(name: str, values: np.ndarray, note: str) -> str:
    """One array as Python source, eight numbers a line."""
    flat = [f"{value:.8g}" for value in values.ravel()]
    lines = [", ".join(flat[i : i + 8]) + "," for i in range(0, len(flat), 8)]
    shape = f".reshape({', '.join(map(str, values.shape))})" if values.ndim > 1 else ""
    body = "\n        ".join(lines)
    return f"{name} = np.array(\n    [\n        {body}\n    ]\n){shape}  # fmt: skip\n# {note}\n\n"


def main() -> None:
    """Sample the tables at the bands and write the module."""
    shape = colour.SpectralShape(380, 730, 10)
    observer = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(shape)
    text = HEAD + block("OBSERVER", observer.values, "(36, 3): x-bar, y-bar, z-bar")
    for name, source in (("D65", "D65"), ("WARM_LAMP", "A"), ("COOL_LED", "LED-B5")):
        light = colour.SDS_ILLUMINANTS[source].copy().align(shape)
        text += block(name, np.asarray(light.values), f"(36,): relative power, {source}")
    TARGET.write_text(text.rstrip() + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
