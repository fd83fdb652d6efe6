#!/usr/bin/env bash
# Tests what computes and what keeps the record on each other Python that this machine has, and says which those are.
set -euo pipefail
venv=${1:?usage: pythons.sh VENV}
export PIP_DISABLE_PIP_VERSION_CHECK=1 QT_QPA_PLATFORM=offscreen
own=$("$venv/bin/python" -c 'import sys; print("%d.%d" % sys.version_info[:2])')
tested=$own

found() { # the interpreter of a version, where it runs
  local candidate
  for candidate in "$(command -v "python$1" || true)" \
    "$(compgen -G "$(pyenv root 2>/dev/null || echo /nonexistent)/versions/$1.*/bin/python$1" | head -1 || true)"; do
    if [ -n "$candidate" ] && "$candidate" -c 'import sqlite3, ssl, venv' 2>/dev/null; then
      echo "$candidate"
      return
    fi
  done
}

for version in 3.11 3.12 3.13; do
  [ "$version" != "$own" ] || continue
  python=$(found "$version")
  if [ -z "$python" ]; then
    echo "Python $version is not on this machine."
    continue
  fi
  there="build/python-$version"
  [ -x "$there/bin/python" ] || "$python" -m venv "$there"
  "$there/bin/python" -m pip install -q --require-hashes -r requirements/dev.txt
  "$there/bin/python" -m pip install -q --no-deps --no-build-isolation -e .
  "$venv/bin/mypy" --python-version "$version"
  "$there/bin/python" -m pytest -n 3 --dist worksteal -m "not long" tests/core tests/study
  tested="$tested, $version"
done
echo "Tested on Python $tested."
