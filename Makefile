# Two commands: `make demo` starts Rulvek with demo records, `make test` proves it.
PORT ?= 8470
DATA ?= data
PYTHON ?= python3
UV := .tools/bin/uv
BIN := .venv/bin
INSTALL := UV_PYTHON_DOWNLOADS=never $(UV) pip install -q --python $(BIN)/python
WORKERS := 3
# Records of tests live in memory where there is room for it: what is tested is not how long a disk takes.
TESTS = TMPDIR=$(shell test -w /dev/shm && echo /dev/shm || echo /tmp) OPENBLAS_NUM_THREADS=1 $(BIN)/python -m pytest -n $(WORKERS)
WEB_SOURCES := $(shell find web/src -type f 2>/dev/null) web/index.html web/vite.config.ts

.PHONY: demo serve build wheel test test-long test-all test-postgres check check-python check-web types bench audit soak screenshots clean

demo: build ## set up, serve on PORT, and conduct the demo meanwhile if nothing is on record
	@RULVEK_DATA_FOLDER=$(DATA) RULVEK_PORT=$(PORT) exec $(BIN)/rulvek serve --demo

serve: build ## serve what is on record in DATA, or an empty folder, on PORT
	@RULVEK_DATA_FOLDER=$(DATA) RULVEK_PORT=$(PORT) exec $(BIN)/rulvek serve

build: ## all that is needed to serve; both halves at once, as somebody waits for it
	@$(MAKE) --no-print-directory -j2 .stamps/run web/dist/index.html

wheel: build ## a wheel with the built front end in it, in dist/
	rm -rf .stamps/wheel dist && mkdir -p .stamps/wheel/requirements dist
	cp -r src pyproject.toml .stamps/wheel/ && cp requirements/run.in requirements/cluster.in .stamps/wheel/requirements/
	cp -r web/dist .stamps/wheel/src/rulvek/web
	cd .stamps/wheel && $(CURDIR)/$(BIN)/python -c "from setuptools import build_meta; build_meta.build_wheel('$(CURDIR)/dist')" > /dev/null
	@ls dist

.tools/bin/uv:
	$(PYTHON) -m venv .tools
	.tools/bin/pip install -q uv==0.13.9

.stamps/run: requirements/run.txt pyproject.toml | .tools/bin/uv
	@mkdir -p .stamps
	test -x $(BIN)/python || $(PYTHON) -m venv .venv
	$(INSTALL) --require-hashes --compile-bytecode -r requirements/run.txt
	$(INSTALL) --no-deps --no-build-isolation --compile-bytecode -e .
	@touch $@

.stamps/dev: requirements/dev.txt .stamps/run
	$(INSTALL) --require-hashes --compile-bytecode -r requirements/dev.txt
	@touch $@

web/node_modules/.stamp: web/package-lock.json
	cd web && npm ci --no-progress
	@touch $@

web/dist/index.html: web/node_modules/.stamp $(WEB_SOURCES)
	cd web && npx vite build --logLevel warn
	@touch $@

test-all: ## all thousands of trials: hours on a slow machine
	RULVEK_OFFS=1 RULVEK_KILLS=1 RULVEK_HOSTILE=1 RULVEK_LARGE_PAGES=1 RULVEK_ACCEPTED=1 $(MAKE) test-long EXAMPLES=20 PASSED_OVER= MARKED='long or hypothesis'

ON_A_SERVER ?= tests/store tests/services tests/api
test-postgres: build .stamps/dev | /usr/lib/postgresql ## records on a database server: a private one, on loopback
	RULVEK_TEST_POSTGRES=1 $(TESTS) --dist loadfile $(ON_A_SERVER) --ignore tests/api/test_schema_fuzz.py
	RULVEK_TEST_POSTGRES=1 $(TESTS) -m long tests/api/test_crash.py

/usr/lib/postgresql:
	apt-get update -qq && apt-get install -y -qq --no-install-recommends postgresql

/usr/bin/chromium:
	apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium

/usr/bin/jackd:
	-apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends jackd2 libportaudio2

test: check ## everything: style, types, contracts, the core's examples, tests, Chromium included
	$(TESTS) --dist loadfile --doctest-modules src/rulvek/core src/rulvek/malformed.py tests

EXAMPLES ?= 2
# Properties have had their turn in `make test`; `make test-all` tries them on twenty times as many examples.
MARKED ?= long
# Every call under generated input has had its turn in `make test`.
PASSED_OVER ?= --ignore tests/api/test_schema_fuzz.py
test-long: WORKERS := 4 # half of them wait for Off most of the time
test-long: build .stamps/dev ## what takes long; a part of the thousands of trials
	RULVEK_EXAMPLES=$(EXAMPLES) $(TESTS) --dist loadscope -m '$(MARKED)' tests $(PASSED_OVER)

check: build .stamps/dev | /usr/bin/chromium /usr/bin/jackd ## style, types, contracts, the front end's own tests
	$(MAKE) --no-print-directory -j2 check-python check-web

check-python:
	$(BIN)/ruff format --check src tests tools
	$(BIN)/ruff check src tests tools
	$(BIN)/mypy
	$(BIN)/lint-imports

check-web:
	cd web && npx eslint --max-warnings 0 src && npx vue-tsc --noEmit && npx vitest run --reporter=dot

types: .stamps/run web/node_modules/.stamp ## renew docs/openapi.json and the front end's types after the API changed
	$(BIN)/python -m rulvek.api.schema > docs/openapi.json
	$(BIN)/rulvek judge --schema > docs/judge.schema.json
	$(BIN)/rulvek simulate --schema > docs/simulate.schema.json
	$(BIN)/rulvek bundle --schema > docs/bundle.schema.json
	$(BIN)/rulvek verify-dossier --schema > docs/basis.schema.json
	cd web && npm run --silent types

audit: .tools/bin/pip-audit ## what Rulvek is built of: pinned, and without known advisories; asks the registries
	$(PYTHON) tools/audit.py

.tools/bin/pip-audit: | .tools/bin/uv
	.tools/bin/pip install -q pip-audit==2.10.1

soak: build .stamps/dev ## ten minutes of a lab's busiest hour, with a kill every twenty seconds
	$(BIN)/python -m tests.long.soak

bench: build .stamps/dev | /usr/bin/chromium ## speed, as ratios within one run
	$(BIN)/python tools/speed.py

screenshots: build .stamps/dev | /usr/bin/chromium ## renew docs/screenshots from fresh demo records
	$(BIN)/python tools/screenshots.py

clean:
	rm -rf .venv .tools .stamps web/node_modules web/dist
