# Rezept. `make demo` to try it, `make test` for all that CI runs, `make help` for the rest.

PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMPS := .stamps
WEB_SOURCES := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts
export PIP_DISABLE_PIP_VERSION_CHECK := 1
# Compiled code is kept: every server, worker and command of a test would be compiled anew, which doubles its start.
export PYTHONDONTWRITEBYTECODE :=

.PHONY: help demo wheel test coverage check fmt bench bench-long plots screenshots update licences build types chromium clean

help:
	@echo "make demo         the demo shop in the browser (first time: installs and builds)"
	@echo "make wheel        one file to install, the web app inside: pipx install build/wheels/rezept-*.whl"
	@echo "make test         everything CI runs: checks, unit tests, browser tests"
	@echo "make coverage     which lines and branches the tests without a browser go through"
	@echo "make check        ruff, mypy, import-linter, tsc, eslint, prettier, fresh API types"
	@echo "make fmt          format and mend what can be mended"
	@echo "make bench        speed, each figure against a reference of the same run"
	@echo "make bench-long   what takes minutes: what is read right of photographs, thirty people, thirty kills"
	@echo "make screenshots  renew docs/screenshots from the demo shop"
	@echo "make plots        renew docs/plots, the bench's laws drawn from its code"
	@echo "make licences     renew docs/licences.md from the lock files"
	@echo "make types        renew the OpenAPI document and the TypeScript types"

# --- installing ------------------------------------------------------------------------------------------

$(STAMPS)/venv: requirements-build.lock
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Rezept needs Python 3.11 or newer."; exit 1; }
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --require-hashes -r requirements-build.lock
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/runtime: $(STAMPS)/venv requirements.lock pyproject.toml
	VIRTUAL_ENV=$(VENV) $(BIN)/uv pip install --quiet --require-hashes -r requirements.lock
	VIRTUAL_ENV=$(VENV) $(BIN)/uv pip install --quiet --no-deps --no-build-isolation -e .
	@touch $@

$(STAMPS)/dev: $(STAMPS)/runtime requirements-dev.lock
	VIRTUAL_ENV=$(VENV) $(BIN)/uv pip install --quiet --require-hashes -r requirements-dev.lock
	@touch $@

$(STAMPS)/node: web/package.json web/package-lock.json
	@node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)' \
		|| { echo "Rezept needs Node 20.19 or newer."; exit 1; }
	cd web && npm ci --ignore-scripts --no-audit --no-fund --loglevel=error
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/web: $(STAMPS)/node $(WEB_SOURCES)
	cd web && npx --no-install vite build --logLevel error
	@touch $@

build: $(STAMPS)/runtime $(STAMPS)/web

# One file with the web app inside. What an earlier build left would go in, too.
WHEELS ?= build/wheels
wheel: build
	@rm -rf build/lib build/bdist.* $(WHEELS)/rezept-*.whl
	@mkdir -p $(WHEELS)
	@$(BIN)/python -m pip wheel --quiet --no-deps --no-build-isolation --no-cache-dir --wheel-dir $(WHEELS) .
	@ls $(WHEELS)/rezept-*.whl

chromium:
	@test -x /usr/bin/chromium || { apt-get update -qq && apt-get install -y -qq chromium; }
	@for reader in rsvg-convert:librsvg2-bin ogr2ogr:gdal-bin pdftotext:poppler-utils zbarimg:zbar-tools nginx:nginx; do \
		command -v $${reader%%:*} >/dev/null || { apt-get update -qq && \
			apt-get install -y -qq --no-install-recommends $${reader##*:}; }; \
	done

update:
	git pull --ff-only
	$(MAKE) build
	@echo "Up to date. Start the server again."

# --- using -----------------------------------------------------------------------------------------------

demo: build
	$(BIN)/rezept demo --data .demo

test: $(STAMPS)/dev $(STAMPS)/web chromium
	$(BIN)/python tests/run.py

coverage: $(STAMPS)/dev $(STAMPS)/web
	@mkdir -p build
	$(BIN)/coverage run tests/run.py --places tests/core tests/store tests/formats tests/link tests/actions tests/server
	$(BIN)/coverage report

check: $(STAMPS)/dev $(STAMPS)/node
	$(BIN)/python tests/run.py --only-checks

fmt: $(STAMPS)/dev $(STAMPS)/node
	$(BIN)/ruff check --fix --quiet src tests benchmarks docs; $(BIN)/ruff format --quiet src tests benchmarks docs
	cd web && npx --no-install eslint --fix . && npx --no-install prettier --log-level warn --write .

types: $(STAMPS)/runtime $(STAMPS)/node
	$(BIN)/python -m rezept.server.openapi > web/src/api/openapi.json
	cd web && npm run --silent types

bench: $(STAMPS)/dev $(STAMPS)/web chromium
	$(BIN)/python -m benchmarks

bench-long: $(STAMPS)/dev $(STAMPS)/web chromium
	$(BIN)/python -m benchmarks --long

plots: $(STAMPS)/dev
	$(BIN)/python docs/plot_bench.py

screenshots: $(STAMPS)/dev $(STAMPS)/web chromium
	$(BIN)/python docs/take_screenshots.py

clean:
	rm -rf $(VENV) $(STAMPS) web/node_modules src/rezept/server/static .demo

licences: $(STAMPS)/runtime
	$(BIN)/python docs/list_licences.py
