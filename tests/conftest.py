"""Fixtures for all tests."""

import os
from functools import partialmethod
from itertools import count

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from culmo import log, words

# the window in another language: what speaks is loaded after this
if os.environ.get("CULMO_TEST_LANGUAGE"):
    words.use(os.environ["CULMO_TEST_LANGUAGE"], ",")

import pytest
from hypothesis import HealthCheck, settings
from pytestqt.qtbot import QtBot

from support.patience import LONG_MS

collect_ignore = ["support"]  # no tests; some choose a language or an error as they are loaded

# what a window should do at once is waited for as patiently as all else
for _wait in ("waitUntil", "waitSignal"):
    setattr(QtBot, _wait, partialmethod(getattr(QtBot, _wait), timeout=LONG_MS))

settings.register_profile(
    "culmo",
    deadline=None,
    max_examples=40,
    suppress_health_check=[HealthCheck.function_scoped_fixture],
    database=None,
)
settings.load_profile("culmo")


def pytest_collection_modifyitems(config, items):
    """Long campaigns run by `make soak` alone."""
    if os.environ.get("CULMO_SOAK"):
        return
    long_ones = [item for item in items if item.get_closest_marker("soak")]
    items[:] = [item for item in items if item not in long_ones]
    config.hook.pytest_deselected(items=long_ones)


@pytest.fixture(scope="session")
def all_places(tmp_path_factory):
    """Where each test has folders of its own; numbered here, since pytest looks through all folders for a new number."""
    folder = tmp_path_factory.mktemp("places")
    return (folder / str(number) for number in count())


@pytest.fixture(autouse=True)
def own_places(all_places, monkeypatch):
    """What a test lets Culmo write to the user's own folders stays with the tests."""
    home = next(all_places)
    for name in ("data", "state", "config", "documents"):
        (home / name).mkdir(parents=True)
    for name in ("data", "state", "config"):
        monkeypatch.setenv(f"XDG_{name.upper()}_HOME", str(home / name))
    (home / "config" / "user-dirs.dirs").write_text(f'XDG_DOCUMENTS_DIR="{home / "documents"}"\n')
    yield
    log.end()


@pytest.fixture
def study(tmp_path):
    """A small study with five paints."""
    from support.builders import make_study

    with make_study(tmp_path / "five.culmo") as found:
        yield found
