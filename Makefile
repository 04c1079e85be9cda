# Two commands do everything: `make demo` and `make test`. Each installs what it needs and is quick when run again.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
PORT ?= 8000
export PLINTO_DATA ?= $(CURDIR)/var
export NUMBA_CACHE_DIR ?= $(CURDIR)/var/kernels
export PLINTO_SHOP ?= $(CURDIR)/var/shop
export PLINTO_CACHE ?= $(CURDIR)/var/cache

.PHONY: demo test shop bench faults throughput fuzz backup restore lint lint-python lint-web check-types types-python types-web test-core test-server test-command test-web test-browser test-browser-bench test-browser-rooms test-scale clean

demo: $(VENV)/.base web/dist/index.html
	@PLINTO_DEMO=1 $(BIN)/python manage.py migrate --verbosity 0
	@echo "Loading the made-up shop (the first time takes about three minutes: eight charts are printed, measured and profiled)"
	@PLINTO_DEMO=1 $(BIN)/python manage.py load_demo
	@PLINTO_DEMO=1 $(BIN)/python scripts/serve.py --port $(PORT)

test:
	@# The shop first, for all tests use it; then the longest. Three at a time on two cores, for the browser's tests alone
	@# leave nearly half of both idle.
	$(MAKE) --output-sync=target -j3 shop lint check-types test-web test-browser test-core test-server test-command

# The shop's profiles, made once for whatever runs after: tests, demo, bench.
shop: $(VENV)/.dev
	@$(BIN)/python -m plinto_demo.build

bench: $(VENV)/.dev web/dist/index.html /usr/bin/chromium
	$(BIN)/python scripts/bench.py
	$(BIN)/python scripts/bench_conditions.py
	$(BIN)/python scripts/bench_color.py
	$(BIN)/python scripts/bench_pdf.py
	$(BIN)/python scripts/bench_routes.py
	$(BIN)/python scripts/bench_browser.py

# Worker and server killed, disk full, database held, clock stepped, worker frozen; fifty clients and twenty viewers.
faults: $(VENV)/.dev web/dist/index.html
	$(BIN)/python scripts/faults.py

# 200 pictures of 20 MP with the worker killed twice; 1,000 files by a hostile hand; a batch of ten thousand. An hour.
throughput: $(VENV)/.dev web/dist/index.html
	$(BIN)/python scripts/throughput.py

# 20,000 broken files of each kind through the sandboxed decoders, 10,000 broken documents; ink sets of every size.
fuzz: $(VENV)/.dev
	PLINTO_FUZZ=20000 $(BIN)/pytest tests/core/test_mutated.py tests/core/test_ink_sets.py tests/core/test_pdf_policy.py -s

# The database and the files it names, consistent while Plinto runs; see README.
backup: $(VENV)/.base
	@$(BIN)/python manage.py backup $(TO)

restore: $(VENV)/.base
	@$(BIN)/python manage.py restore $(FROM)

lint: lint-python lint-web

lint-python: $(VENV)/.dev
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .

lint-web: web/node_modules/.installed
	cd web && npx biome check --error-on-warnings src

check-types: types-python types-web

types-python: $(VENV)/.dev
	$(BIN)/mypy

types-web: $(VENV)/.dev web/node_modules/.installed
	cd web && npx tsc --noEmit
	@# The front end's types come from the server's description: both are kept, and must be current.
	PLINTO_DATA=$$(mktemp -d) $(BIN)/python manage.py export_openapi_schema --api plinto_server.api.api --indent 1 | diff - web/openapi.json
	cd web && npx openapi-typescript openapi.json --default-non-nullable=false | diff - src/api/schema.d.ts

# The longest first: two run beside each other, and whoever is done takes the next.
test-core: shop
	$(BIN)/pytest --doctest-modules tests/core src/plinto_core

test-server: shop web/dist/index.html
	$(BIN)/pytest tests/server

test-command: shop
	$(BIN)/pytest tests/command

test-web: web/node_modules/.installed
	cd web && npx vitest run

# Two houses, each with a browser of its own: one after the other they were what all else waited for.
test-browser: test-browser-bench test-browser-rooms

BENCH_TESTS := $(addprefix tests/browser/test_,bench.py bench_in_full.py colors_and_batches.py conditions.py)
test-browser-bench: shop web/dist/index.html /usr/bin/chromium
	$(BIN)/pytest $(BENCH_TESTS)

test-browser-rooms: shop web/dist/index.html /usr/bin/chromium
	$(BIN)/pytest tests/browser $(addprefix --ignore=,$(BENCH_TESTS))

# Two machines over a database, a queue and a store of their own; workers killed, lines cut. See docs/machines.md.
test-scale: shop web/dist/index.html $(VENV)/.machines /usr/bin/redis-server /usr/lib/postgresql
	$(BIN)/pytest tests/scale

$(VENV)/.base: requirements/base.txt pyproject.toml
	$(PYTHON) -m venv $(VENV)
	$(BIN)/pip install --quiet --disable-pip-version-check -r requirements/base.txt
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps -e .
	@touch $@

$(VENV)/.dev: $(VENV)/.base requirements/dev.txt
	$(BIN)/pip install --quiet --disable-pip-version-check -r requirements/dev.txt
	@touch $@

$(VENV)/.machines: $(VENV)/.dev requirements/machines-dev.txt
	$(BIN)/pip install --quiet --disable-pip-version-check -r requirements/machines-dev.txt
	@touch $@

web/node_modules/.installed: web/package-lock.json
	@# Not `npm ci`: it insists on binaries for platforms that not every registry serves. The lock file pins all the same.
	cd web && npm install --no-save --no-audit --no-fund --loglevel=error
	@touch $@

web/dist/index.html: web/node_modules/.installed web/index.html web/vite.config.mjs docs/guide/settings.md $(shell find web/src web/public -type f)
	cd web && npx vite build --logLevel warn

/usr/bin/chromium:
	apt-get update -qq
	apt-get install -y -qq --no-install-recommends chromium

/usr/bin/redis-server /usr/lib/postgresql &:
	apt-get update -qq
	apt-get install -y -qq --no-install-recommends redis-server postgresql

clean:
	rm -rf $(VENV) web/node_modules web/dist var
