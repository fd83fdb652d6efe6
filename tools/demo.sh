#!/usr/bin/env bash
# Opens the demo study: on the screen where there is one, else in the same real window on a virtual display,
# leaving one picture of each room. With a second argument, pictures go to that folder instead.
set -euo pipefail
bin=${1:?usage: demo.sh BIN [SHOTS_DIR]}
shots=${2:-}
export PYTHONWARNINGS=default
if [ -z "$shots" ] && { [ -n "${DISPLAY:-}" ] || [ -n "${WAYLAND_DISPLAY:-}" ]; }; then
  exec "$bin/culmo" demo --open
fi
if [ -z "$shots" ]; then
  shots=build/shots
  echo "There is no display here: opening the demo on a virtual one, pictures of each room go to $shots/"
fi
mkdir -p build "$shots"
display_file=$(mktemp)
Xvfb -displayfd 3 -screen 0 1920x1200x24 -nolisten tcp >build/xvfb.log 2>&1 3>"$display_file" &
xvfb=$!
trap 'kill $xvfb 2>/dev/null || true; rm -f "$display_file"' EXIT
for _ in $(seq 100); do [ -s "$display_file" ] && break; sleep 0.1; done
[ -s "$display_file" ] || { echo "The virtual display did not start; see build/xvfb.log" >&2; exit 1; }
DISPLAY=":$(cat "$display_file")" QT_QPA_PLATFORM=xcb "$bin/culmo" demo build/demo --open --shots "$shots"
