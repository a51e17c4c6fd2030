#!/bin/sh
# SPDX-License-Identifier: GPL-3.0-or-later
# Sees whether Qt can open a window and installs what is missing where rights allow; else names one exact command.
PYTHON="$1"
PACKAGES="libegl1 libgl1 libglib2.0-0 libfontconfig1 libdbus-1-3 libxkbcommon0 libxkbcommon-x11-0 libxcb-cursor0 libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-randr0 libxcb-render-util0 libxcb-shape0 libxcb-xinerama0 libxcb-xkb1"

whole() {
    "$PYTHON" - <<'PY'
import ctypes, pathlib, sys
try:
    import PyQt6, PyQt6.QtWidgets
    ctypes.CDLL(str(pathlib.Path(PyQt6.__file__).parent / "Qt6" / "plugins" / "platforms" / "libqxcb.so"))
except (ImportError, OSError) as error:
    print(f"Missing for windows: {error}", file=sys.stderr)
    sys.exit(1)
PY
}

whole && exit 0
if command -v apt-get >/dev/null 2>&1 && [ "$(id -u)" = 0 ]; then
    apt-get update -qq && apt-get install -y -qq $PACKAGES && whole && exit 0
fi
echo "Some system libraries are missing. Install them with this one command, then try again:"
echo "    sudo apt-get install -y $PACKAGES"
QT_QPA_PLATFORM=offscreen "$PYTHON" -c 'import PyQt6.QtWidgets' 2>/dev/null && { echo "Without them everything but the window works."; exit 0; }
exit 1
