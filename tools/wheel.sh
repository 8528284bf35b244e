#!/usr/bin/env bash
# Builds the wheel, unpacks it into a folder of its own and starts what is in it, not the checkout: the command line
# writes the demo, and the window opens on it offscreen.
set -euo pipefail
here="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
. "$here/tools/setup.sh"
avelt_setup "$here" test
work="$(mktemp -d)"
trap 'rm -rf "$work"' EXIT
"$AVELT_PYTHON" -m pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir "$work/dist" "$here"
"$AVELT_PYTHON" -m pip install --quiet --disable-pip-version-check --no-deps --target "$work/installed" "$work"/dist/*.whl
cd "$work"
export PYTHONPATH="$work/installed" QT_QPA_PLATFORM=offscreen
export XDG_STATE_HOME="$work/state" XDG_DATA_HOME="$work/data"
"$AVELT_PYTHON" - "$work/installed" <<'PYTHON'
import sys, avelt
assert avelt.__file__.startswith(sys.argv[1]), avelt.__file__
PYTHON
"$AVELT_PYTHON" -m avelt demo --out "$work/out" >/dev/null
"$AVELT_PYTHON" -m avelt info "$work"/out/*.avelt >/dev/null
"$AVELT_PYTHON" - <<'PYTHON'
from avelt.window.start import application, make_window
window = make_window(demo=True)
window.show()
application().processEvents()
for station in ("frames", "routes", "pairs", "timing", "loops", "rehearse", "handoff"):
    window.go(station)
    application().processEvents()
assert not window.grab().isNull()
PYTHON
echo "The wheel $(basename "$work"/dist/*.whl) was built and started."
