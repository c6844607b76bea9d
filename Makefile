# Every target sets up what it needs. Python 3.11, make and git are enough to start.

PYTHON ?= python3.11
VENV := .venv
BIN := $(VENV)/bin
PORT ?= 5080
STAMP := $(VENV)/.ready
# One more than there are processors, since tests wait for browsers and servers; four at most.
WORKERS ?= $(shell n=$$(nproc 2>/dev/null || echo 2); [ $$n -gt 3 ] && echo 4 || echo $$((n + 1)))

.PHONY: setup demo test deep lint bench mutants screenshots vendor lock schema clean

setup: $(STAMP)

$(STAMP): requirements.lock pyproject.toml
	@command -v $(PYTHON) >/dev/null || { echo "Python 3.11 is needed (looked for $(PYTHON)); say which with make PYTHON=..."; exit 1; }
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements.lock
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	$(BIN)/python -m compileall -q src
	@touch $(STAMP)

demo: setup
	$(BIN)/fence demo --port $(PORT)

test: setup
	bash tools/chromium.sh
	bash tools/dissector.sh
	$(BIN)/python -c "from fence.web.compiled import compile_all; compile_all()"
	$(BIN)/python -m pytest -n $(WORKERS) --dist worksteal

lint: setup
	$(BIN)/ruff check src tests bench tools
	$(BIN)/ruff format --check src tests bench tools
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/djlint --lint --quiet src/fence/web/templates
	$(BIN)/python tools/templates.py --check
	$(BIN)/python tools/assets.py --check
	$(BIN)/codespell README.md CHANGELOG.md docs src tests bench tools
	$(BIN)/codespell --dictionary tools/spelling/british.txt $$(git ls-files '*.md' '*.py' '*.html')
	$(BIN)/python tools/figures.py

# The properties with many more examples, for the night: about half an hour, and no part of CI.
deep: setup
	FENCE_DEEP=20 $(BIN)/python -m pytest -n auto --dist worksteal -m "hypothesis or many" tests/promises tests/core tests/formats

bench: setup
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements-bench.lock
	bash tools/chromium.sh
	$(BIN)/python bench/check.py
	$(BIN)/python bench/talk.py
	$(BIN)/python bench/stall.py
	$(BIN)/python bench/ends.py
	$(BIN)/python bench/command.py
	$(BIN)/python bench/pages.py
	$(BIN)/python bench/paper.py
	$(BIN)/python bench/paint.py
	$(BIN)/python bench/hostile.py
	$(BIN)/python bench/writers.py
	$(BIN)/python bench/nudge.py
	$(BIN)/python bench/modes.py
	$(BIN)/python bench/repair.py
	$(BIN)/python bench/picture.py
	$(BIN)/python bench/lines.py
	$(BIN)/python bench/pieces.py
	$(BIN)/python bench/network.py
	$(BIN)/python bench/log.py
	$(BIN)/python bench/crew.py
	$(BIN)/python bench/practice.py
	$(BIN)/python bench/troubleshooting.py
	$(BIN)/python bench/output.py
	$(BIN)/python bench/matching.py

# Small changes to the core, one at a time: do the tests notice? Takes about an hour, and is no part of CI.
mutants: setup
	$(BIN)/python tools/mutants.py

screenshots: setup
	bash tools/chromium.sh
	$(BIN)/python tools/screenshots.py

schema: setup
	$(BIN)/python tools/write_schema.py

# Refresh the shipped styles, scripts and fonts from the pinned npm packages (needs node and npm, only here).
vendor:
	cd tools/vendor && npm ci --ignore-scripts --no-audit --no-fund
	$(PYTHON) tools/vendor/copy_assets.py

lock: setup
	$(BIN)/pip-compile --quiet --allow-unsafe --generate-hashes --no-emit-index-url --no-emit-trusted-host \
		--no-emit-find-links --strip-extras --extra dev -o requirements.lock pyproject.toml
	$(BIN)/pip-compile --quiet --allow-unsafe --generate-hashes --no-emit-index-url --no-emit-trusted-host \
		--no-emit-find-links --strip-extras --extra bench --constraint requirements.lock \
		-o requirements-bench.lock pyproject.toml

clean:
	rm -rf $(VENV) .mypy_cache .ruff_cache .pytest_cache .hypothesis
