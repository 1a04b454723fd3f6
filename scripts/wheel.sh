#!/usr/bin/env sh
# Makes the wheel in a folder: wheel.sh FOLDER PYTHON. The client must be built before.
set -eu
cd "$(dirname "$0")/.."
folder=$1 python=$2
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
# From a copy: setuptools takes what an earlier client left in its folder of builds.
cp -R pyproject.toml README.md src "$work"
find "$work" -name __pycache__ -prune -exec rm -rf {} +
rm -rf "$work"/src/*.egg-info
# A wheel has no history that says which commit it was made from.
git describe --always --dirty --exclude '*' > "$work/src/gentle_ledger/commit.txt" 2> /dev/null || true
mkdir -p "$folder"
"$python" -m pip wheel -qq --no-deps --no-build-isolation --no-index --wheel-dir "$folder" "$work"
ls "$folder"/gentle_ledger-*.whl
