# make demo and make test set up all they need on a machine that has Python 3.11 or newer.

PYTHON ?= python3
BIN = .venv/bin
READY = .venv/ready

PACKAGE = build/package

# The program and its tests are started many times, and need not be compiled each time.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: demo test quick package check bench shots clean

$(READY): pyproject.toml
	$(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet --editable '.[development]'
	touch $(READY)

demo: $(READY)
	$(BIN)/hemplit demo demo

test: $(READY)
	$(BIN)/python -m pytest -n auto --dist worksteal

# Between two edits: what takes no servers and no long time.
QUICK = $(filter-out tests/test_servers.py tests/test_documents.py tests/test_file_places.py tests/test_output.py tests/test_drawing.py tests/test_engines.py, $(wildcard tests/test_*.py))
quick: $(READY)
	HEMPLIT_QUICK=1 $(BIN)/python -m pytest -n auto --dist worksteal -m "not slow" $(QUICK)

# The package as it is installed, with the oldest versions that it allows of all that it needs; of each law a few
# examples, and none of what only the core computes beyond the cases, as that is not what is new here; nor what becomes
# of files inside servers, which speak through the libraries that targets try.
CORE = $(addprefix tests/test_,design_edits.py drafts.py exceptions.py later_sheets.py layers.py owners.py proof.py \
	same_things.py shapes.py slips.py steps.py ties.py together.py turned.py)
PACKAGED = $(filter-out $(CORE),$(wildcard tests/test_*.py)) tests/laws/test_files.py tests/laws/test_lossless.py
package: $(READY)
	rm -rf $(PACKAGE)
	$(PYTHON) -m venv $(PACKAGE)/venv
	$(BIN)/python -m pip wheel --quiet --no-deps --wheel-dir $(PACKAGE) .
	$(BIN)/python scripts/oldest.py > $(PACKAGE)/oldest.txt
	$(PACKAGE)/venv/bin/python -m pip install --quiet --no-compile --constraint $(PACKAGE)/oldest.txt "$$(ls $(PACKAGE)/*.whl)[development]"
	test -s $(PACKAGE)/venv/share/man/man1/hemplit.1
	HEMPLIT_EXAMPLES=few $(PACKAGE)/venv/bin/python -m pytest -n auto --dist worksteal -m "not slow" \
		-k "not (test_engines and (postgresql or mariadb))" $(PACKAGED)

check: $(READY)
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/python -m pytest -n auto --dist worksteal

bench: $(READY)
	$(BIN)/python benchmarks/load_sheet.py
	$(BIN)/python benchmarks/read_sheet.py
	$(BIN)/python benchmarks/dependencies.py
	$(BIN)/python benchmarks/wide_sheets.py
	$(BIN)/python benchmarks/judgement.py
	$(BIN)/python benchmarks/together.py
	$(BIN)/python benchmarks/feeds.py
	$(BIN)/python benchmarks/many_sheets.py --rows 20000
	$(BIN)/python benchmarks/topup.py
	$(BIN)/python benchmarks/servers.py
	$(BIN)/python benchmarks/tally.py --rows 200000
	$(BIN)/python benchmarks/growth.py

shots: $(READY)
	scripts/shots.sh

clean:
	rm -rf .venv demo build
