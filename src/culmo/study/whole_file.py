"""Files that are written whole or not at all."""

from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from culmo.errors import CulmoError
from culmo.words import tr


@contextmanager
def whole_file(path: Path) -> Iterator[Path]:
    """A name beside to write to, then put in place: an earlier file stands until the new one is whole.

    Raises
    ------
    CulmoError
        when it can not be written
    """
    if not path.parent.is_dir():
        raise CulmoError(tr('"{path}" can not be written: there is no such folder', path=path))
    beside = path.with_name(f".{path.name}.part")
    try:
        yield beside
        if not beside.is_file() or beside.stat().st_size == 0:
            raise OSError(tr("nothing was written"))
        beside.replace(path)
    except OSError as error:
        raise CulmoError(
            tr('"{path}" can not be written ({value})', path=path, value=error.strerror or error)
        ) from None
    finally:
        with suppress(OSError):
            beside.unlink(missing_ok=True)
