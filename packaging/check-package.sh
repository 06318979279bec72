#!/bin/sh
# Builds the wheel, installs it into an environment of its own and tries it; validates what the desktop reads.
set -eu
cd "$(dirname "$0")/.."
made=$(mktemp -d)
trap 'rm -rf "$made"' EXIT

desktop-file-validate packaging/org.kymaton.Kymaton.desktop
appstreamcli validate --no-net packaging/org.kymaton.Kymaton.metainfo.xml

"$PYTHON" -m hatchling build -t wheel -d "$made"
python3 -m venv "$made/venv"
"$made/venv/bin/pip" install --quiet --disable-pip-version-check --require-hashes -r requirements.lock
"$made/venv/bin/pip" install --quiet --disable-pip-version-check --no-deps "$made"/*.whl

cd "$made"
kymaton="$made/venv/bin/kymaton"
"$kymaton" --version
demo=$("$made/venv/bin/python" -c 'from kymaton.store.demo import demo_show; print(demo_show())')
code=0
"$kymaton" check "$demo" | tail -n 1 || code=$?
"$kymaton" check "$demo" >/dev/null || code=$?
[ "$code" = 1 ] || { echo "the demo has no faults in the wheel (exit code $code)"; exit 1; }
"$kymaton" render "$demo" --cue guest-talk --listener ilse -o "$made/ilse.wav"
for file in applications/org.kymaton.Kymaton.desktop metainfo/org.kymaton.Kymaton.metainfo.xml mime/packages/kymaton.xml \
    man/man1/kymaton.1 bash-completion/completions/kymaton zsh/site-functions/_kymaton doc/kymaton/licences.md \
    icons/hicolor/scalable/apps/kymaton.svg; do
    [ -f "$made/venv/share/$file" ] || { echo "the wheel lacks share/$file"; exit 1; }
done
QT_QPA_PLATFORM=offscreen "$made/venv/bin/python" - <<'TRY'
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication
from kymaton.app import run
started = run.application
def application():
    made = started()
    QTimer.singleShot(1000, QApplication.closeAllWindows)
    return made
run.application = application
raise SystemExit(run.run(None))
TRY
echo "the wheel installs, runs and opens its window"
