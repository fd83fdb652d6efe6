#!/usr/bin/env bash
# Installs Culmo for one user, or takes it away: install.sh [--remove] PREFIX
set -euo pipefail
remove=no
if [ "${1:-}" = --remove ]; then remove=yes; shift; fi
prefix=${1:?usage: install.sh [--remove] PREFIX}
python=${PYTHON:-python3}
home="$prefix/lib/culmo"
share="$prefix/share"

if [ "$remove" = yes ]; then
  if [ -x "$home/bin/culmo" ]; then "$home/bin/culmo" --remove-desktop "$share" >/dev/null; fi
  rm -f "$prefix/bin/culmo"
  rm -rf "$home"
  echo "Culmo is removed from $prefix. Studies and settings stay where they are."
  exit 0
fi

mkdir -p "$prefix/bin" "$prefix/lib"
[ -x "$home/bin/python" ] || "$python" -m venv "$home"
export PIP_DISABLE_PIP_VERSION_CHECK=1
"$home/bin/python" -m pip install -q --require-hashes -r requirements/runtime.txt
# what builds the package is pinned with what develops it
builder=$(mktemp)
trap 'rm -f "$builder"' EXIT
sed -n '/^setuptools==/,/[^\\]$/p' requirements/dev.txt >"$builder"
"$home/bin/python" -m pip install -q --require-hashes -r "$builder"
"$home/bin/python" -m pip install -q --no-deps --no-build-isolation --force-reinstall .
ln -sf "$home/bin/culmo" "$prefix/bin/culmo"
# the menu names the program by this link, which stays where it is
"$prefix/bin/culmo" --install-desktop "$share" >/dev/null
echo "Culmo is installed in $prefix: start it from the menu, or as $prefix/bin/culmo. Remove it with: make uninstall"
