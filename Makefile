# Two commands matter: make demo and make test. Each sets up by itself.
PYTHON ?= $(shell command -v python3.11 || command -v python3)
BIN := .venv/bin
READY := .venv/.ready

.PHONY: setup demo test check bench ratio soak mutants coverage told shots lock examples docs vcut-proof desktop clean

setup: $(READY)

$(READY): requirements/app.txt requirements/dev.txt pyproject.toml
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Python 3.11 or newer is needed."; exit 1; }
	test -x $(BIN)/python || $(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-compile --require-hashes -r requirements/dev.txt
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	sh scripts/system-libraries.sh $(BIN)/python
	$(BIN)/python -m gatepost.machine.standins.motion & $(BIN)/python -m gatepost.core.plan.warm && wait $$!
	touch $(READY)

demo: setup
	$(BIN)/gatepost demo

test: setup
	sh scripts/run-tests.sh $(BIN)/python $(MAKE)

check: setup
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/python -m mypy
	$(BIN)/lint-imports
	$(BIN)/python scripts/make_docs.py --check

bench: setup
	$(BIN)/python benchmarks/bench.py

ratio: setup
	$(BIN)/python benchmarks/ratio.py $(VS)

soak: setup
	$(BIN)/python benchmarks/soak.py $(WORDS)

# What the core's tests reach; compiled kernels are counted by their plain references. Not part of make test.
coverage: setup
	NUMBA_DISABLE_JIT=0 $(BIN)/python -m coverage run --source=src/gatepost/core -m pytest -q -p no:pytest-qt tests/core
	$(BIN)/python -m coverage report --skip-covered --omit="*kernels.py,*scanner.py"

mutants: setup
	$(BIN)/python benchmarks/mutants.py $(WORDS)

shots: setup
	$(BIN)/python scripts/make_shots.py

examples: setup
	$(BIN)/python examples/make_examples.py

told: setup
	$(BIN)/python -m tests.core.told

docs: setup
	$(BIN)/python scripts/make_docs.py

vcut-proof: setup
	$(BIN)/python benchmarks/vcut_proof.py

# Puts the application, its icon and its job files into this user's desktop.
SHARE := $(if $(XDG_DATA_HOME),$(XDG_DATA_HOME),$(HOME)/.local/share)
desktop: setup
	mkdir -p $(SHARE)/applications $(SHARE)/icons/hicolor/scalable/apps $(SHARE)/mime/packages
	sed 's#^Exec=gatepost#Exec=$(CURDIR)/$(BIN)/gatepost#' packaging/gatepost.desktop > $(SHARE)/applications/gatepost.desktop
	cp src/gatepost/assets/icons/gatepost.svg $(SHARE)/icons/hicolor/scalable/apps/
	cp packaging/gatepost-mime.xml $(SHARE)/mime/packages/gatepost.xml
	-update-mime-database $(SHARE)/mime
	-update-desktop-database $(SHARE)/applications

# make lock UPGRADE=--upgrade takes newer versions too.
lock:
	test -x $(BIN)/python || $(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet pip-tools
	$(BIN)/pip-compile --quiet $(UPGRADE) --generate-hashes --allow-unsafe --strip-extras --no-emit-index-url --no-emit-find-links --no-emit-trusted-host --output-file requirements/app.txt requirements/app.in
	$(BIN)/pip-compile --quiet $(UPGRADE) --generate-hashes --allow-unsafe --strip-extras --no-emit-index-url --no-emit-find-links --no-emit-trusted-host --output-file requirements/dev.txt requirements/app.in requirements/dev.in

clean:
	rm -rf .venv build dist demo-results
