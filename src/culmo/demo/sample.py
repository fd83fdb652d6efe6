"""The sample study as it ships: painted once by `culmo.demo.make` in each language, and copied to where it is opened."""

from importlib.resources import files
from pathlib import Path

from culmo import words
from culmo.study import connection, sidecars
from culmo.study.whole_file import whole_file

FILE_NAME = "Drawer 14 (sample).culmo"


def sample_path(folder: Path) -> Path:
    """Where the sample study lies in a folder."""
    return folder / FILE_NAME


def shipped(language: str) -> bytes:
    """The bytes of the sample study that ships for a language."""
    return files("culmo.data").joinpath("sample", f"{language}.culmo").read_bytes()


def put_sample(folder: Path) -> Path:
    """Write the sample study into a folder, which is made where there is none; an earlier sample is replaced.

    Raises
    ------
    CulmoError
        when the folder can not be written
    """
    folder.mkdir(parents=True, exist_ok=True)
    path = sample_path(folder)
    sidecars.set_all_aside(path)
    with whole_file(path) as part:
        part.write_bytes(shipped(words.language()))
        db = connection.connect(part)
        try:
            connection.new_origin(db)
        finally:
            db.close()
    return path
