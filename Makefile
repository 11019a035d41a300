# make demo   sets everything up and starts the app on an invented day
# make run    the same on your own data
# make test   sets everything up and runs every check; long tests do a sample of what they can
# make nightly  the same with every long test whole, in some two hours
# make quick  what a change touches and every lint, within a minute: for each commit
# make lint   every check but the tests, in some ten seconds: before each commit
# make docs   what the documents show of code and guide, made again
VENV   := .venv
BIN    := $(VENV)/bin
SOURCE := lepidos tests bench scripts

.PHONY: demo run test nightly quick lint docs bench screenshots clean setup setup-dev

demo: setup
	@$(BIN)/lepidos demo $(ARGS)

run: setup
	@$(BIN)/lepidos run $(ARGS)

test: setup-dev
	@scripts/check.sh

nightly: setup-dev
	@LEPIDOS_LONG=1 scripts/check.sh

quick: setup-dev
	@$(BIN)/python scripts/quick.py

lint: setup-dev
	@scripts/lint.sh
	@$(BIN)/python -m unittest -q tests.test_structure tests.test_constants

docs: setup-dev
	$(BIN)/python scripts/constants.py docs/constants.md
	$(BIN)/python scripts/hazards.py docs/hazards.md
	$(BIN)/python scripts/plans.py docs/plans --golden tests/guide/plans.json
	$(BIN)/python scripts/fish_sheets.py docs/fish

bench: setup-dev
	$(BIN)/python -m bench.pages

screenshots: setup-dev
	@scripts/screenshots.sh

setup: $(VENV)/.ready
setup-dev: $(VENV)/.ready-dev

$(VENV)/.ready: requirements.txt pyproject.toml scripts/setup.sh
	@scripts/setup.sh run
	@touch $@

$(VENV)/.ready-dev: requirements.txt requirements-dev.txt pyproject.toml scripts/setup.sh scripts/eslint/package-lock.json
	@scripts/setup.sh dev
	@touch $@ $(VENV)/.ready

clean:
	rm -rf $(VENV) .mypy_cache .ruff_cache .hypothesis .coverage .import_linter_cache lepidos.egg-info
