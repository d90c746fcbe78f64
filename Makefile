# Everything is set up by the first target that needs it; a fresh machine needs only Python 3.11, git and make.
PYTHON ?= python3
BIN := .venv/bin

.PHONY: demo test check bench fuzz campaign clean

demo: .venv/installed
	@$(BIN)/newburrow demo --out demo-move

test: .venv/installed-dev
	@./tools/ensure-programs nginx:nginx-light apache2:apache2 haproxy:haproxy caddy:caddy lighttpd:lighttpd chromium:chromium xmllint:libxml2-utils
	@$(BIN)/python -W error::ResourceWarning -m tests

check: .venv/installed-dev
	@$(BIN)/ruff check src tests bench
	@$(BIN)/ruff format --check --quiet src tests bench
	@$(BIN)/mypy

bench: .venv/installed-dev
	@$(BIN)/python bench/run.py

# make fuzz MINUTES=60: all parsers, for so long; what is found is kept in fuzz-found/
MINUTES ?= 10
fuzz: .venv/installed-dev
	@$(BIN)/python -m tests.fuzz $(MINUTES)

# Drawn sites and broken exports, 25 times as many as in the tests; moves that are killed, lack room or meet, 200 rounds
campaign: .venv/installed-dev
	@NEWBURROW_ROUNDS=25 $(BIN)/python -m unittest tests.test_fuzz tests.test_fuzz_readers tests.test_nothing_is_lost tests.attacks.test_scripts tests.store.test_split_reading
	@NEWBURROW_ROUNDS=67 $(BIN)/python -m unittest tests.attacks.test_chaos

clean:
	rm -rf .venv demo-move build

.venv/bin/python:
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || \
	  { echo "New Burrow needs Python 3.11 or later; name one with: make PYTHON=python3.12 $(MAKECMDGOALS)"; exit 1; }
	@echo "Setting up .venv (once; about a minute) ..."
	@$(PYTHON) -m venv .venv || \
	  { echo "Python's venv module is missing; on Debian: apt-get install python3-venv"; rm -rf .venv; exit 1; }

.venv/installed: .venv/bin/python pyproject.toml
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable .
	@$(BIN)/python -m compileall -q src/newburrow  # where Python may not write bytecode, every command would compile anew
	@touch $@

.venv/installed-dev: .venv/installed
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable '.[dev]'
	@touch $@

# A target that does not exist, most likely a typing error.
.DEFAULT:
	@echo "There is no target '$@'. These exist: make demo, make test, make check, make bench, make fuzz, make campaign, make clean"; exit 2
