# Everything runs from here. `make demo` and `make test` do all of the set-up by themselves.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
SHELL := /bin/bash

# What is imported is compiled once, and not anew by each worker and each command under test.
unexport PYTHONDONTWRITEBYTECODE

PREFIX ?= $(HOME)/.local

.PHONY: setup use demo test test-long bench soak lint shots model-page tables sample man words sdist pythons install uninstall lock clean

# What the program needs to run, and what it takes to develop it, each installed when it is first asked for.
use: $(VENV)/.use
setup: $(VENV)/.done

$(VENV)/.use: requirements/runtime.txt pyproject.toml tools/setup.sh
	PYTHON=$(PYTHON) bash tools/setup.sh $(VENV) use
	touch $@

$(VENV)/.done: $(VENV)/.use requirements/dev.txt pyproject.toml tools/setup.sh
	PYTHON=$(PYTHON) bash tools/setup.sh $(VENV) develop
	touch $@

demo: use
	bash tools/demo.sh $(BIN)

# What is run at every change, without the tests that take long.
test: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -n 3 --dist worksteal --durations 20 --durations-min 5 -m "not long"
	CULMO_TEST_LANGUAGE=de QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -n 2 tests/desk -k "wider or cut_off"

# Those: pictures by foreign cameras, another physics, kills and damage, walks through every language and size. A file stays
# with one worker, which makes its pictures once.
test-long: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -n 3 --dist loadfile --durations 50 --durations-min 5 -m long

bench: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m tools.bench

soak: setup
	QT_QPA_PLATFORM=offscreen CULMO_SOAK=1 $(BIN)/python -m pytest -m "soak or not soak"

lint: setup
	$(BIN)/ruff format --check src tests tools
	$(BIN)/ruff check src tests tools
	$(BIN)/mypy
	$(BIN)/lint-imports

shots: setup
	bash tools/demo.sh $(BIN) docs/screenshots

model-page: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m tools.model_page

# Needs the colour-science package of requirements/dev.txt; the result is committed.
tables: setup
	$(BIN)/python -m tools.make_tables
	$(BIN)/python -m tools.typical_curves
	$(BIN)/python -m tools.typical_cameras

# The sample study, painted anew in each language; the result is committed.
sample: setup
	QT_QPA_PLATFORM=offscreen OPENBLAS_NUM_THREADS=1 $(BIN)/python -m tools.sample

# The manual page from the command line's own words; the result is committed.
man: setup
	$(BIN)/python -m tools.man_page

# The strings of the window into the catalogues, and the translations into what it reads; the result is committed.
words: setup
	$(BIN)/python -m tools.catalogue

# What computes and what keeps the record, on each other Python that is there.
pythons: setup
	bash tools/pythons.sh $(VENV)

# Everything that it takes to test and to install it, as one file in dist/.
sdist: setup
	$(BIN)/python -c "from setuptools import build_meta; print('dist/' + build_meta.build_sdist('dist'))"

# For one user, without the tools that develop it: the program, its entry in the menu, its file type, its manual page.
install:
	PYTHON=$(PYTHON) bash tools/install.sh "$(PREFIX)"

uninstall:
	bash tools/install.sh --remove "$(PREFIX)"

lock:
	cd requirements && pip-compile -q --allow-unsafe --generate-hashes --no-emit-index-url --no-emit-find-links --no-header --strip-extras runtime.in -o runtime.txt
	cd requirements && pip-compile -q --allow-unsafe --generate-hashes --no-emit-index-url --no-emit-find-links --no-header --strip-extras dev.in -o dev.txt

clean:
	rm -rf build $(VENV) .mypy_cache .ruff_cache .pytest_cache .hypothesis
