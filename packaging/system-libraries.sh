#!/bin/sh
# Installs the system libraries that Qt and sound output need where apt may do so; otherwise names them.
# With `tests`: the virtual screen and the hand that types on it, for the tests in a real window.
# With `package`: what holds the desktop entry and the AppStream file to their rules.
set -u

missing=""
want() { # library file, Debian package
    ldconfig -p 2>/dev/null | grep -q "$1" || [ -e "/usr/lib/$(uname -m)-linux-gnu/$1" ] || missing="$missing $2"
}

PATH="$PATH:/sbin:/usr/sbin"
if [ "${1:-}" = tests ]; then
    command -v Xvfb >/dev/null 2>&1 || missing="$missing xvfb"
    command -v xdotool >/dev/null 2>&1 || missing="$missing xdotool"
elif [ "${1:-}" = package ]; then
    command -v desktop-file-validate >/dev/null 2>&1 || missing="$missing desktop-file-utils"
    command -v appstreamcli >/dev/null 2>&1 || missing="$missing appstream"
else
    want libEGL.so.1 libegl1
    want libGL.so.1 libgl1
    want libxkbcommon-x11.so.0 libxkbcommon-x11-0
    want libxcb-cursor.so.0 libxcb-cursor0
    want libxcb-icccm.so.4 libxcb-icccm4
    want libxcb-keysyms.so.1 libxcb-keysyms1
    want libxcb-image.so.0 libxcb-image0
    want libxcb-render-util.so.0 libxcb-render-util0
    want libxcb-shape.so.0 libxcb-shape0
    want libxcb-xinerama.so.0 libxcb-xinerama0
    want libdbus-1.so.3 libdbus-1-3
    want libfontconfig.so.1 libfontconfig1
    want libglib-2.0.so.0 libglib2.0-0
    want libpulse.so.0 libpulse0
    want libpulse-mainloop-glib.so.0 libpulse-mainloop-glib0
    python3 -c 'import ensurepip, venv' 2>/dev/null || missing="$missing python3-venv"
fi

[ -n "$missing" ] || exit 0

if command -v apt-get >/dev/null 2>&1; then
    if [ "$(id -u)" = 0 ]; then
        as_root=""
    elif command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then
        as_root="sudo"
    else
        as_root="none"
    fi
    if [ "$as_root" != none ]; then
        echo "Installing system libraries:$missing"
        # shellcheck disable=SC2086
        if $as_root apt-get update -qq && $as_root env DEBIAN_FRONTEND=noninteractive \
            apt-get install -y -qq --no-install-recommends $missing >/dev/null; then
            exit 0
        fi
    fi
fi
echo "Some system libraries are missing. Install them with:"
echo "  sudo apt-get install$missing"
exit 1
