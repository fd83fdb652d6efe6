"""Runs the examples in the docstrings of the core."""

import doctest
import pkgutil
import sys
from importlib import import_module

import culmo.core


def main() -> int:
    """All examples; prints how many."""
    failed = tried = 0
    for found in pkgutil.walk_packages(culmo.core.__path__, "culmo.core."):
        result = doctest.testmod(import_module(found.name))
        failed, tried = failed + result.failed, tried + result.attempted
    print(f"doctests: {tried} tried, {failed} failed")
    return 1 if failed or not tried else 0


if __name__ == "__main__":
    sys.exit(main())
