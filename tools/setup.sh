#!/usr/bin/env bash
# Makes the virtual environment in $1, and sees to the system libraries that Qt and a virtual display need: with what the
# program needs to run ("use"), or with what tests and checks it besides ("develop").
set -euo pipefail
venv=${1:?usage: setup.sh VENV use|develop}
stage=${2:?usage: setup.sh VENV use|develop}
python=${PYTHON:-python3}
"$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Culmo needs Python 3.11 or newer; $python is older. Try: make PYTHON=python3.11 ..." >&2; exit 1; }

# library (or program) -> Debian package
declare -A wanted=(
  [libxcb-icccm.so.4]=libxcb-icccm4 [libxcb-keysyms.so.1]=libxcb-keysyms1 [libxcb-cursor.so.0]=libxcb-cursor0
  [libxcb-image.so.0]=libxcb-image0 [libxcb-render-util.so.0]=libxcb-render-util0 [libxcb-shape.so.0]=libxcb-shape0
  [libxcb-randr.so.0]=libxcb-randr0 [libxcb-xkb.so.1]=libxcb-xkb1 [libxkbcommon.so.0]=libxkbcommon0
  [libxkbcommon-x11.so.0]=libxkbcommon-x11-0 [libEGL.so.1]=libegl1 [libGL.so.1]=libgl1
  [libdbus-1.so.3]=libdbus-1-3 [libfontconfig.so.1]=libfontconfig1 [libglib-2.0.so.0]=libglib2.0-0
)
known=$( { /sbin/ldconfig -p 2>/dev/null || ldconfig -p; } || true)
missing=()
for library in "${!wanted[@]}"; do
  grep -qF "$library" <<<"$known" || missing+=("${wanted[$library]}")
done
command -v Xvfb >/dev/null || missing+=(xvfb)
"$python" -c 'import ensurepip' 2>/dev/null || missing+=(python3-venv)
if [ ${#missing[@]} -gt 0 ]; then
  asroot=""
  if [ "$(id -u)" != 0 ]; then
    if command -v sudo >/dev/null && sudo -n true 2>/dev/null; then asroot="sudo -n"; else asroot="-"; fi
  fi
  if [ "$asroot" != "-" ] && command -v apt-get >/dev/null; then
    echo "Installing system libraries: ${missing[*]}"
    $asroot apt-get update -qq
    DEBIAN_FRONTEND=noninteractive $asroot apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
  else
    echo "Culmo needs these system packages. Please run this line, then try again:" >&2
    echo "    sudo apt-get install ${missing[*]}" >&2
    exit 1
  fi
fi

# what only the tests ask, to check files against other programs and to let writes fail; without them those tests are
# skipped
declare -A judges=([desktop-file-validate]=desktop-file-utils [appstreamcli]=appstream [qpdf]=qpdf [colverify]=argyll [gcc]=gcc [zsh]=zsh [fish]=fish [dbus-run-session]=dbus [openbox]=openbox [xwininfo]=x11-utils)
wished=()
for program in "${!judges[@]}"; do
  command -v "$program" >/dev/null || wished+=("${judges[$program]}")
done
# a screen reader's bus, and its library for the system's own Python
/usr/bin/python3 -c 'import gi; gi.require_version("Atspi", "2.0"); from gi.repository import Atspi' 2>/dev/null ||
  wished+=(at-spi2-core gir1.2-atspi-2.0 python3-gi)
if [ "$stage" = develop ] && [ ${#wished[@]} -gt 0 ] && [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
  echo "Installing programs that check Culmo's files: ${wished[*]}"
  { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${wished[@]}"; } \
    >/dev/null || echo "They could not be installed; the tests that need them are skipped."
fi

[ -x "$venv/bin/python" ] || "$python" -m venv "$venv"
export PIP_DISABLE_PIP_VERSION_CHECK=1
if [ "$stage" = develop ]; then
  "$venv/bin/python" -m pip install -q --require-hashes -r requirements/dev.txt
else
  "$venv/bin/python" -m pip install -q --require-hashes -r requirements/runtime.txt
  # what builds the package is pinned with what develops it
  builder=$(mktemp)
  trap 'rm -f "$builder"' EXIT
  sed -n '/^setuptools==/,/[^\\]$/p' requirements/dev.txt >"$builder"
  "$venv/bin/python" -m pip install -q --require-hashes -r "$builder"
fi
"$venv/bin/python" -m pip install -q --no-deps --no-build-isolation -e .
