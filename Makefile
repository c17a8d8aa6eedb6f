# Two commands matter: `make demo` and `make test`. Both set up what they need.
PYTHON ?= $(shell command -v python3.11 || command -v python3)
VENV := .venv
BIN := $(VENV)/bin
STAMPS := .stamps
FRONTEND_SOURCES := $(shell find frontend/src frontend/public -type f 2>/dev/null) frontend/index.html frontend/vite.config.ts frontend/vite.drawing.config.ts frontend/vite.page.config.ts

.PHONY: demo test check format wheel pythons lowest bench compare mutants screenshots build setup browser generated bom pins clean

demo: $(STAMPS)/python $(STAMPS)/web
	@$(BIN)/zembra demo

# one worker a core, each with a browser of its own
test: $(STAMPS)/python $(STAMPS)/web browser
	$(BIN)/pytest -n auto --dist worksteal

check: $(STAMPS)/python-dev $(STAMPS)/node
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	cd frontend && npm run --silent lint && npm run --silent types && npm run --silent format:check
	PYTHONPATH=. $(BIN)/python scripts/generate.py --check
	$(BIN)/python scripts/fonts.py --check

format: $(STAMPS)/python-dev $(STAMPS)/node
	$(BIN)/ruff check --fix .
	$(BIN)/ruff format .
	cd frontend && npm run --silent format

# What is generated from the code: demo files, OpenAPI, TypeScript types, the ledger's JSON Schema, docs/entries.md
generated: $(STAMPS)/python-dev $(STAMPS)/node
	PYTHONPATH=. $(BIN)/python scripts/generate.py

# What Zembra is made with, for who must know: CycloneDX
bom: $(STAMPS)/python-dev $(STAMPS)/node
	PYTHONPATH=. $(BIN)/python scripts/bom.py bom.cdx.json

# requirements/*.txt from *.in: what is pinned stays where it still fits, with the digest of every file the registry has
PIP_COMPILE := $(BIN)/pip-compile --quiet --generate-hashes --allow-unsafe --no-header --annotation-style=line \
	--no-emit-index-url --no-emit-find-links --no-emit-trusted-host
# the compiled library that projections are measured against; `make bench` leaves its rows out where it is missing
compare: $(STAMPS)/python-dev
	$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements/compare.txt

# make mutants ROOM=calendar COUNT=60: faults planted one at a time, and how many the tests of the room notice
COUNT ?= 60
mutants: $(STAMPS)/python-dev
	$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements/mutants.txt
	$(BIN)/python scripts/mutants.py "$(ROOM)" $(COUNT)

pins: $(STAMPS)/python-dev
	cd requirements && for set in run dev compare mutants lowest; do \
	  PIP_FIND_LINKS= PIP_EXTRA_INDEX_URL= ../$(PIP_COMPILE) --output-file $$set.txt $$set.in || exit 1; done

bench: $(STAMPS)/python-dev
	$(BIN)/python -m benchmarks

screenshots: $(STAMPS)/python-dev $(STAMPS)/web browser
	PYTHONPATH=. $(BIN)/python scripts/screenshots.py $(SHOTS)

build: $(STAMPS)/web

# one file that pip installs anywhere, with the front end in it
wheel: $(STAMPS)/python-dev $(STAMPS)/web
	$(BIN)/python -m build --quiet --wheel --no-isolation --outdir dist .

# the wheel under every Python of those it allows that is found here
pythons: wheel
	@sh scripts/pythons.sh

# the tests with the oldest packages that pyproject.toml allows
lowest: $(STAMPS)/python-dev $(STAMPS)/web
	$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements/lowest.txt
	@sh scripts/lowest.sh

setup: $(STAMPS)/python-dev $(STAMPS)/web

$(STAMPS)/python: requirements/run.txt pyproject.toml
	@mkdir -p $(STAMPS)
	@test -n "$(PYTHON)" || { echo "Python 3.11 is needed."; exit 1; }
	@test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements/run.txt
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	@# as pip does with what it copies: every command starts sooner
	@$(BIN)/python -m compileall -q src/zembra
	@touch $@

$(STAMPS)/python-dev: requirements/dev.txt $(STAMPS)/python
	$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements/dev.txt
	@touch $@

test: $(STAMPS)/python-dev

$(STAMPS)/node: frontend/package-lock.json
	@mkdir -p $(STAMPS)
	cd frontend && npm ci --silent --no-fund --no-audit
	@touch $@

$(STAMPS)/web: $(STAMPS)/node $(STAMPS)/python $(FRONTEND_SOURCES)
	cd frontend && npm run --silent build
	$(BIN)/python scripts/fonts.py
	$(BIN)/python -m whitenoise.compress --quiet src/zembra/web
	@touch $@

browser:
	@sh scripts/browser.sh

clean:
	rm -rf $(VENV) $(STAMPS) frontend/node_modules src/zembra/web
