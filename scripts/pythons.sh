#!/bin/sh
# The wheel under every Python of those it allows that is on this machine, and the tests of the core with it.
# Not in `make test`: it downloads all that Zembra needs once a Python. PYTHONS names them, TESTS what is run.
set -eu
cd "$(dirname "$0")/.."
wheel=$(ls -t dist/zembra-*.whl | head -n 1)
tests=${TESTS:-"tests/core tests/intake tests/interface"}
found=${PYTHONS:-$(ls /usr/bin/python3.1[123] /usr/local/bin/python3.1[123] "${PYENV_ROOT:-$HOME/.pyenv}"/versions/3.1[123].*/bin/python3.1[123] 2>/dev/null || true)}
for python in $found; do
  version=$("$python" -c 'import sys; print("%d.%d" % sys.version_info[:2])')
  place=.pythons/$version
  test -x "$place/bin/python" || "$python" -m venv "$place"
  "$place/bin/pip" install --quiet --disable-pip-version-check "$wheel[cluster,office,pictures]" \
    pytest pytest-timeout pytest-xdist hypothesis openpyxl pyarrow odfpy matplotlib jsonschema frictionless pypdf selenium pandas
  "$place/bin/pip" install --quiet --disable-pip-version-check --no-deps --force-reinstall "$wheel"
  echo "Python $version: $("$place/bin/python" -m zembra --version)"
  # the sources are left aside: what is tested is what the wheel has
  "$place/bin/python" -m pytest -q -n auto -p no:cacheprovider $tests
done
