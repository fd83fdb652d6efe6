"""Fixtures for all tests."""

import os
from functools import partialmethod

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


@pytest.fixture(autouse=True)
def own_places(tmp_path_factory, monkeypatch):
    """What a test lets Culmo write to the user's own folders stays with the tests."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path_factory.mktemp("data")))
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path_factory.mktemp("state")))
    config = tmp_path_factory.mktemp("config")
    (config / "user-dirs.dirs").write_text(f'XDG_DOCUMENTS_DIR="{tmp_path_factory.mktemp("documents")}"\n')
    monkeypatch.setenv("XDG_CONFIG_HOME", str(config))
    yield
    log.end()


@pytest.fixture
def study(tmp_path):
    """A small study with five paints."""
    from support.builders import make_study

    with make_study(tmp_path / "five.culmo") as found:
        yield found
