"""Paints the sample study anew in each language, as it ships: `make sample`; the result is committed.

Each is made by a process of its own, since what speaks is loaded with the language.
"""

import sqlite3
import subprocess
import sys
import tempfile
from pathlib import Path

from culmo import words

SHIPPED = Path(__file__).parents[1] / "src" / "culmo" / "data" / "sample"
_MAKE = """
import sys
from pathlib import Path
from culmo import words
words.use(sys.argv[1], "," if sys.argv[1] == "de" else ".")
from culmo.demo.make import make_demo
print(make_demo(Path(sys.argv[2])))
"""


def main() -> int:
    """Write one study a language."""
    SHIPPED.mkdir(exist_ok=True)
    for code in words.LANGUAGES:
        with tempfile.TemporaryDirectory() as folder:
            done = subprocess.run(
                [sys.executable, "-c", _MAKE, code, folder], stdout=subprocess.PIPE, text=True, check=True
            )
            made = Path(done.stdout.strip())
            db = sqlite3.connect(made, isolation_level=None)
            db.execute("VACUUM")
            db.close()
            (SHIPPED / f"{code}.culmo").write_bytes(made.read_bytes())
        print(f"{code}: {(SHIPPED / f'{code}.culmo').stat().st_size} bytes")
    return 0


if __name__ == "__main__":
    sys.exit(main())
