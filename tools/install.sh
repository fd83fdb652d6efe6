#!/usr/bin/env bash
# Installs Culmo for one user, or takes it away: install.sh [--remove] PREFIX
set -euo pipefail
remove=no
if [ "${1:-}" = --remove ]; then remove=yes; shift; fi
prefix=${1:?usage: install.sh [--remove] PREFIX}
python=${PYTHON:-python3}
home="$prefix/lib/culmo"
share="$prefix/share"
shipped=src/culmo/data/desktop
id=org.culmo.Culmo

refresh() {
  # these caches are a courtesy to the desktop; where a program is missing the desktop finds the files by itself
  if command -v update-desktop-database >/dev/null; then update-desktop-database -q "$share/applications" || true; fi
  if command -v update-mime-database >/dev/null; then update-mime-database "$share/mime" >/dev/null || true; fi
  if command -v gtk-update-icon-cache >/dev/null; then
    gtk-update-icon-cache -q -t -f "$share/icons/hicolor" 2>/dev/null || true
  fi
}

if [ "$remove" = yes ]; then
  rm -rf "$home"
  rm -f "$prefix/bin/culmo" "$share/applications/$id.desktop" "$share/mime/packages/$id.xml" \
    "$share/metainfo/$id.metainfo.xml" "$share/man/man1/culmo.1" "$share/icons/hicolor/scalable/apps/$id.svg" \
    "$share/icons/hicolor/scalable/mimetypes/application-x-culmo.svg"
  refresh
  echo "Culmo is removed from $prefix. Studies and settings stay where they are."
  exit 0
fi

mkdir -p "$prefix/bin" "$share/applications" "$share/mime/packages" "$share/metainfo" "$share/man/man1" \
  "$share/icons/hicolor/scalable/apps" "$share/icons/hicolor/scalable/mimetypes" "$prefix/lib"
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
# the desktop may not look into this folder for programs, so the entry names it whole
sed -e "s|^Exec=culmo|Exec=\"$prefix/bin/culmo\"|" -e "s|^TryExec=culmo|TryExec=$prefix/bin/culmo|" \
  "$shipped/$id.desktop" >"$share/applications/$id.desktop"
install -m 644 "$shipped/$id.mime.xml" "$share/mime/packages/$id.xml"
install -m 644 "$shipped/$id.metainfo.xml" "$share/metainfo/$id.metainfo.xml"
install -m 644 "$shipped/$id.svg" "$share/icons/hicolor/scalable/apps/$id.svg"
install -m 644 "$shipped/application-x-culmo.svg" "$share/icons/hicolor/scalable/mimetypes/application-x-culmo.svg"
install -m 644 "$shipped/culmo.1" "$share/man/man1/culmo.1"
refresh
echo "Culmo is installed in $prefix: start it from the menu, or as $prefix/bin/culmo. Remove it with: make uninstall"
