"""How long a picture of 24 megapixels with 144 cells takes to read, against its decoding alone."""

import io
import tempfile
import time
from pathlib import Path

import numpy as np

from tools.benches import show


def run() -> bool:
    """Decode and read a JPEG of 24 megapixels; and one of 50, to see that it works."""
    from PIL import Image

    from culmo.core.capture.camera import Exposure
    from culmo.core.capture.read import read_sheet
    from culmo.study.pictures import jpeg_bytes, open_photo
    from support.photos import paint_sheet

    painted, fine = paint_sheet("grid", 12, "A3", seed=3), True
    shot = Exposure(
        6000, tilt_deg=12, toward_deg=30, falloff=0.3, kelvin=4500, balance=0.4, noise=0.006, curl_mm=2
    )
    practice, _ = painted.shoot(shot, 1)
    data = jpeg_bytes(practice.pixels)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "p.jpg"
        path.write_bytes(data)
        decode, whole = [], []
        for _ in range(5):
            start = time.perf_counter()
            pixels = np.asarray(Image.open(io.BytesIO(data)))
            decode.append(time.perf_counter() - start)
            start = time.perf_counter()
            reading = read_sheet(open_photo(path), painted.sheet)
            whole.append(time.perf_counter() - start)
        assert len(reading.readings) == 144
        megapixels = pixels.shape[0] * pixels.shape[1] / 1e6
        fine &= show(f"decoding {megapixels:.0f} megapixels", min(decode), 5.0, " s")
        fine &= show("opening and reading 144 cells", min(whole), 3 * min(decode) + 1, " s")
        large = Image.fromarray(practice.pixels).resize((8600, 5900))
        large.save(path, quality=85)
        start = time.perf_counter()
        assert len(read_sheet(open_photo(path), painted.sheet).readings) == 144
        fine &= show("opening and reading 51 megapixels", time.perf_counter() - start, 8.0, " s")
    return fine
