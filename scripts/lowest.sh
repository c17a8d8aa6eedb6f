#!/bin/sh
# The tests with the oldest direct dependencies that pyproject.toml allows: a bound that is too low is found here.
# Not in `make test`: it installs all that Zembra needs once more. TESTS names what is run.
set -eu
cd "$(dirname "$0")/.."
uv=$PWD/.venv/bin/uv
place=.pythons/lowest
tests=${TESTS:-"tests/core tests/intake tests/interface tests/store tests/api"}
mkdir -p .pythons
"$uv" pip compile --quiet pyproject.toml --extra office --extra pictures --extra cluster \
  --resolution lowest-direct --only-binary :all: --python-version 3.11 --output-file "$place.txt"
"$uv" venv --quiet --clear --python .venv/bin/python "$place"
"$uv" pip install --quiet --python "$place/bin/python" -r "$place.txt"
# what only tests need, as it is pinned; what Zembra needs stays as old as it is
names() { sed -n 's/^\([A-Za-z0-9._-]*\)==.*/\1/p' "$1" | tr 'A-Z' 'a-z'; }
names "$place.txt" > "$place.names"
sed -n 's/^\([A-Za-z0-9._-]*==[^ ;]*\).*/\1/p' requirements/dev.txt | while read -r pin; do
  echo "${pin%%==*}" | tr 'A-Z' 'a-z' | grep -qxFf "$place.names" || echo "$pin"
done > "$place.dev"
"$uv" pip install --quiet --python "$place/bin/python" --no-deps -r "$place.dev"
PYTHONPATH=src:. ZEMBRA_NO_BROWSER=1 "$place/bin/python" -m pytest -q -n auto -p no:cacheprovider $tests
