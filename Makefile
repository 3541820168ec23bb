# make demo and make test set up all they need on a machine that has Python 3.11 or newer.

PYTHON ?= python3
BIN = .venv/bin
READY = .venv/ready

.PHONY: demo test check bench shots clean

$(READY): pyproject.toml
	$(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet --editable '.[development]'
	touch $(READY)

demo: $(READY)
	$(BIN)/hemplit demo demo

test: $(READY)
	$(BIN)/python -m pytest -n auto --dist loadfile

check: $(READY)
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/python -m pytest -n auto --dist loadfile

bench: $(READY)
	$(BIN)/python benchmarks/load_sheet.py
	$(BIN)/python benchmarks/read_sheet.py
	$(BIN)/python benchmarks/dependencies.py
	$(BIN)/python benchmarks/wide_sheets.py
	$(BIN)/python benchmarks/judgement.py
	$(BIN)/python benchmarks/together.py
	$(BIN)/python benchmarks/topup.py
	$(BIN)/python benchmarks/servers.py

shots: $(READY)
	scripts/shots.sh

clean:
	rm -rf .venv demo build
