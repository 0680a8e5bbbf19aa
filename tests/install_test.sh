#!/usr/bin/env bash
# Installs a build into an empty prefix and uses what is there, with the source tree's data out of reach.
set -euo pipefail
build=$1
prefix=$(mktemp -d)
trap 'rm -rf "$prefix"' EXIT
cmake --install "$build" --prefix "$prefix" >/dev/null
export HOME=$prefix/home XDG_RUNTIME_DIR=$prefix/run
unset VINEGAR_DATA
mkdir -p "$HOME" "$XDG_RUNTIME_DIR"
share=$prefix/share/vinegar

"$prefix/bin/vinegar-cli" check "$share/samples/slipway.vinegar"
"$prefix/bin/vinegar" --shot "$prefix/shot.png" --size 1280x800
[ "$(stat -c %s "$prefix/shot.png")" -gt 20000 ] || { echo "the installed window drew nothing"; exit 1; }
# A tube that only the installed folder has must be found: the program reads its own data, not the source tree's.
sed 's/"12AX7"/"12ZZ7"/; s/"ECC83"/"ZZZ83"/; s/"7025"/"7zz5"/' "$share/tubes/12AX7.json" >"$share/tubes/12ZZ7.json"
sed 's/"V": {"name": "V1a"}/"V": {"name": "V1a", "tube": "12ZZ7"}/' "$share/samples/slipway.vinegar" >"$prefix/mine.vinegar"
"$prefix/bin/vinegar-cli" op "$prefix/mine.vinegar" | grep -q 12ZZ7

desktop-file-validate "$prefix/share/applications/vinegar.desktop"
appstreamcli validate --no-net "$prefix"/share/metainfo/*.xml >/dev/null
for file in share/icons/hicolor/scalable/apps/vinegar.svg share/mime/packages/vinegar.xml share/man/man1/vinegar.1 \
  share/vinegar/fonts/OFL.txt; do
  [ -s "$prefix/$file" ] || { echo "not installed: $file"; exit 1; }
done
echo "the installed tree works"
