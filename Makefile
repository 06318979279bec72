# Two commands for a fresh machine: `make demo` opens the demo show, `make test` runs every test.
VENV := .venv
PYTHON := $(VENV)/bin/python
READY := $(VENV)/.ready
COMPUTING := tests/core tests/language tests/catalogue tests/store tests/cli
COVERED := src/kymaton/core/*,src/kymaton/language/*,src/kymaton/catalogue/*,src/kymaton/store/*
SCREEN := $(VENV)/.screen

.PHONY: demo test cover bench fuzz screenshots lint format mutants pages package schema demo-shows demo-stems system clean

demo: $(READY)
	$(VENV)/bin/kymaton demo

test: $(READY) $(SCREEN)
	QT_QPA_PLATFORM=offscreen $(PYTHON) -m pytest

# which lines and branches of what computes no test of it reaches; fails below the floor in pyproject.toml. The window
# as well: make cover TESTS=tests
cover: $(READY)
	rm -f .coverage .coverage.*
	QT_QPA_PLATFORM=offscreen $(PYTHON) -m coverage run -m pytest $(or $(TESTS),$(COMPUTING))
	$(PYTHON) -m coverage combine --quiet
	$(PYTHON) -m coverage report $(if $(TESTS),,--include='$(COVERED)')

lint: $(READY)
	$(VENV)/bin/ruff check .
	$(VENV)/bin/ruff format --check .
	$(VENV)/bin/mypy
	$(VENV)/bin/lint-imports

format: $(READY)
	$(VENV)/bin/ruff check --fix .
	$(VENV)/bin/ruff format .

# small deliberate changes in one module, and whether its tests notice: make mutants FILE=src/kymaton/core/nets.py
mutants: $(READY)
	$(PYTHON) -m tests.mutants $(FILE) $(TESTS)

# damaged and miswired shows: whatever is in them, there is a sentence or an answer
fuzz: $(READY)
	$(PYTHON) -m tests.fuzz.shows $(or $(MANY),20000) $(or $(SEED),1)
	$(PYTHON) -m tests.fuzz.media $(or $(MANY),5000) $(or $(SEED),1)
	$(PYTHON) -m tests.fuzz.words $(or $(MANY),2000) $(or $(SEED),1)
	$(PYTHON) -m tests.fuzz.kills $(or $(MANY),2000) $(or $(SEED),1)
	$(PYTHON) -m tests.fuzz.window $(or $(MANY),5000) $(or $(SEED),1)

bench: $(READY)
	QT_QPA_PLATFORM=offscreen $(PYTHON) -m benchmarks

screenshots: $(READY)
	QT_QPA_PLATFORM=offscreen $(PYTHON) docs/make_screenshots.py

pages: $(READY)
	$(PYTHON) docs/make_plan.py
	$(PYTHON) docs/make_manual.py
	QT_QPA_PLATFORM=offscreen $(PYTHON) docs/make_sentences.py

schema: $(READY)
	$(VENV)/bin/kymaton schema > docs/show.schema.json

demo-shows: $(READY)
	$(PYTHON) demo/build_shows.py

demo-stems: $(READY)
	$(PYTHON) demo/build_stems.py

# the wheel as somebody installs it, in an environment of its own; desktop entry and AppStream file held to their rules
package: $(READY)
	sh packaging/system-libraries.sh package
	PYTHON=$(PYTHON) sh packaging/check-package.sh

system:
	sh packaging/system-libraries.sh

$(READY): requirements.lock requirements-dev.lock pyproject.toml packaging/system-libraries.sh
	sh packaging/system-libraries.sh
	python3 -m venv $(VENV)
	$(PYTHON) -m pip install --quiet --disable-pip-version-check --require-hashes \
		-r requirements.lock -r requirements-dev.lock
	$(PYTHON) -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	touch $(READY)

# a virtual screen for the tests in a real window; without one they are skipped, in CI they may not be
$(SCREEN): packaging/system-libraries.sh | $(READY)
	sh packaging/system-libraries.sh tests && touch $(SCREEN) || [ -z "$$CI" ]

clean:
	rm -rf $(VENV) build dist .pytest_cache .mypy_cache .ruff_cache
