# Two commands do everything on a fresh machine: `make demo` and `make test`.
PY := .venv/bin/python
CLIENT := src/gentle_ledger/web/client/index.html
CLIENT_SOURCES := $(shell find frontend/src frontend/index.html frontend/*.ts frontend/*.json -type f 2>/dev/null | grep -v -e openapi.json -e schema.d.ts)

.PHONY: demo test dev lint bench soak screenshots build wheel clean

demo: .stamps/run $(CLIENT)
	$(PY) -m gentle_ledger.cli demo

test: .stamps/dev .stamps/chromium $(CLIENT)
	cd frontend && npm test --silent
	$(PY) -m pytest --ignore tests/browser --numprocesses auto --maxprocesses 4
	$(PY) -m pytest tests/browser --numprocesses 2 --dist loadfile

lint: .stamps/dev frontend/src/api/schema.d.ts
	$(PY) -m ruff check src tests
	$(PY) -m ruff format --check src tests
	$(PY) -m mypy
	.venv/bin/lint-imports
	cd frontend && npm run --silent lint

# The program with the client's own development server in front; both reload by themselves.
dev: .stamps/dev frontend/src/api/schema.d.ts
	$(PY) -m gentle_ledger.cli demo & trap "kill $$!" EXIT; cd frontend && npm run dev

bench: .stamps/dev .stamps/chromium $(CLIENT)
	$(PY) -m pytest tests/bench --benchmark-only --benchmark-disable-gc --benchmark-columns=min,median,rounds
	$(PY) -m tests.bench.memory
	$(PY) -m tests.bench.program
	$(PY) -m tests.bench.keys
	$(PY) -m tests.bench.sending

# A thousand bad days of the program and its carrier, counted at the carrier, and five hundred pulled plugs while somebody
# types: three hours or more.
soak: .stamps/dev .stamps/chromium $(CLIENT)
	$(PY) -m tests.soak.soak
	$(PY) -m tests.soak.typing

screenshots: .stamps/dev .stamps/chromium $(CLIENT)
	$(PY) -m tests.browser.screenshots

build: $(CLIENT)

# One file with the client in it, for a machine without Node: pip install dist/*.whl
wheel: .stamps/dev $(CLIENT)
	@sh scripts/wheel.sh dist $(PY)

.venv/bin/python:
	python3 -m venv .venv

.stamps/run: requirements.txt pyproject.toml .venv/bin/python
	@test -f .stamps/dev || $(PY) -m pip install -qq --require-hashes -r requirements.txt
	@test -f .stamps/dev || $(PY) -m pip install -qq --no-deps -e .
	@mkdir -p .stamps && touch $@

.stamps/dev: requirements-dev.txt pyproject.toml .venv/bin/python
	$(PY) -m pip install -qq --require-hashes -r requirements-dev.txt
	$(PY) -m pip install -qq --no-deps -e .
	@mkdir -p .stamps && touch $@ .stamps/run

.stamps/chromium:
	@sh scripts/chromium.sh
	@mkdir -p .stamps && touch $@

frontend/node_modules/.package-lock.json: frontend/package-lock.json
	cd frontend && npm ci --silent --no-progress
	@touch $@

# The client is generated from the interface's own description, never written by hand.
frontend/src/api/schema.d.ts: .stamps/run frontend/node_modules/.package-lock.json $(shell find src/gentle_ledger/web src/gentle_ledger/app src/gentle_ledger/core -name '*.py')
	$(PY) -m gentle_ledger.cli openapi > frontend/openapi.json
	cd frontend && npm run --silent api

$(CLIENT): frontend/src/api/schema.d.ts $(CLIENT_SOURCES)
	cd frontend && npm run --silent build
	@touch $@

clean:
	rm -rf .venv .stamps build dist frontend/node_modules src/gentle_ledger/web/client frontend/openapi.json
