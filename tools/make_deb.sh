#!/usr/bin/env bash
# One Debian package with everything inside, from the lock: tools/make_deb.sh [OUT]   (OUT: ./out)
# It is for the Python that makes it: of Debian 12 (3.11) or Ubuntu 24.04 (3.12); set PYTHON to another interpreter.
# Nothing of it is run as root but by dpkg; it is taken out by "apt remove nafas", and updated by installing the next one.
set -euo pipefail
cd "$(dirname "$0")/.."
PYTHON=${PYTHON:-.venv/bin/python}
out=${1:-out}
version=$("$PYTHON" -c 'import tomllib; print(tomllib.load(open("pyproject.toml", "rb"))["project"]["version"])')
minor=$("$PYTHON" -c 'import sys; print(sys.version_info[1])')
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
lib=$work/tree/usr/lib/nafas
mkdir -p "$lib" "$work/tree/usr/bin" "$work/tree/usr/share/doc/nafas" "$work/tree/DEBIAN" "$out"

"$PYTHON" -m pip install -q --disable-pip-version-check --require-hashes --no-compile --target "$lib" -r requirements/run.lock
"$PYTHON" -m pip wheel -q --disable-pip-version-check --no-deps -w "$work" .
"$PYTHON" -m pip install -q --disable-pip-version-check --no-deps --no-compile --target "$lib" "$work"/nafas-*.whl
rm -rf "$lib/bin"
"$PYTHON" tools/trim.py "$lib"

cat >"$work/tree/usr/bin/nafas" <<LAUNCH
#!/usr/bin/python3.$minor -I
import sys
sys.path.insert(1, "/usr/lib/nafas")
from nafas.__main__ import run
sys.exit(run())
LAUNCH
chmod 755 "$work/tree/usr/bin/nafas"

# Menu entry, icons, file types, manual page and completion, by the program itself.
PYTHONPATH=$lib NAFAS_STATE=$work/state XDG_DATA_HOME=$work/tree/usr/share QT_QPA_PLATFORM=offscreen \
    "$PYTHON" -c 'import sys; from nafas.integration import install as i; i.command_path = lambda: "/usr/bin/nafas"
i._TOOLS = ()
from nafas.cli.main import main; sys.exit(main(["--install-desktop"]))' >/dev/null
gzip -9n "$work/tree/usr/share/man/man1/nafas.1"
cp LICENSE "$work/tree/usr/share/doc/nafas/copyright"
gzip -9nc CHANGELOG.md >"$work/tree/usr/share/doc/nafas/changelog.gz"
(cd "$work/tree" && "$OLDPWD/$PYTHON" -m compileall -q -s "$lib" -p /usr/lib/nafas --invalidation-mode unchecked-hash usr/lib/nafas) || true
find "$work/tree" -type d -exec chmod 755 {} +
find "$work/tree" -type f ! -path "*/bin/*" -exec chmod 644 {} +
chmod 755 "$work/tree/usr/bin/nafas"

depends="python3.$minor"
for package in $("$PYTHON" tools/qt_libraries.py --packages); do
    [ "$package" = libglib2.0-0 ] && package="libglib2.0-0 | libglib2.0-0t64"
    depends="$depends, $package"
done
cat >"$work/tree/DEBIAN/control" <<CONTROL
Package: nafas
Version: $version
Architecture: $(dpkg --print-architecture)
Maintainer: The Nafas team <nafas@localhost>
Installed-Size: $(du -sk "$work/tree/usr" | cut -f1)
Depends: $depends
Section: sound
Priority: optional
Description: Script, time, mix and prove guided breathing recordings
 A desktop application and a command. Breathing practice can hurt: it gives no
 medical advice and does not replace licensed care.
CONTROL
file=$out/nafas_${version}_py3${minor}_$(dpkg --print-architecture).deb
dpkg-deb --root-owner-group -Zxz --build "$work/tree" "$file" >/dev/null
printf '%s: %s MB, %s MB installed\n' "$file" "$(du -m "$file" | cut -f1)" "$(du -sm "$work/tree/usr" | cut -f1)"
