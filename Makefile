# One command each. “make” alone prints them.
PYTHON ?= python3
PORT ?= 8000
HOST ?= 127.0.0.1
SCHOOL_PORT ?= 8801
export SCHOOL_PORT
VENV := .venv
PY := $(VENV)/bin/python
CHROMIUM ?= $(shell command -v chromium)

help: ## print these commands
	@grep -hE '^[a-z-]+:.*## ' $(MAKEFILE_LIST) | sed -E 's/^([a-z-]+):.*## /  make \1\t/' | expand -t 22

$(VENV)/.runtime: requirements.txt
	@echo "Setting up; the first time this takes a minute or two."
	@test -x $(PY) || $(PYTHON) -m venv $(VENV) || { echo "Python's venv is missing: apt-get install python3-venv"; exit 1; }
	@$(PY) -m pip install --quiet --disable-pip-version-check -r requirements.txt
	@touch $@

$(VENV)/.dev: $(VENV)/.runtime requirements-dev.txt
	@$(PY) -m pip install --quiet --disable-pip-version-check -r requirements-dev.txt
	@touch $@

setup: $(VENV)/.runtime pango ## install what the application needs

# Only pages to print need it; without it everything else works.
pango:
	@ldconfig -p | grep -q libpangoft2 || { echo "Installing Pango, which sets the type of pages to print."; \
	  apt-get update -qq && apt-get install -y -qq --no-install-recommends libpango-1.0-0 libpangoft2-1.0-0 >/dev/null; } \
	  || echo "Pango could not be installed; guides cannot be printed as PDF, everything else works."

# Somebody reads along, and wants to see what goes wrong.
demo: export LOG_FORMAT ?= plain
demo: setup ## start the application with the demo data
	@$(PY) manage.py migrate --verbosity 0
	@$(PY) manage.py collectstatic --no-input --verbosity 0
	@$(PY) manage.py load_demo
	@exec $(PY) manage.py serve --host $(HOST) --port $(PORT) --demo

demo-reset: setup ## forget everything that was entered, and start the demo anew
	@rm -rf $${NETTLECAP_DATA:-var}
	@$(MAKE) --no-print-directory demo

chromium:
	@command -v chromium >/dev/null || { echo "Installing Chromium for the browser tests."; \
	  apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium fonts-dejavu-core >/dev/null; }

# The server and its programs; nothing of it is started here.
postgres:
	@ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || { echo "Installing PostgreSQL for the tests."; \
	  apt-get update -qq && apt-get install -y -qq --no-install-recommends postgresql >/dev/null; }

# Each run has a database and files of its own, so the pages' tests, which take half of the time, run beside all others.
RUN_TESTS = $(PY) manage.py test --settings tests.settings --timing

test: $(VENV)/.dev chromium pango postgres ## run all tests
	@pages=$$(mktemp); $(RUN_TESTS) tests.web >$$pages 2>&1 & pid=$$!; \
	  $(RUN_TESTS) tests.browser; browser=$$?; \
	  echo "The core's:"; $(RUN_TESTS) tests.core; core=$$?; \
	  echo "Several machines, on SQLite and on PostgreSQL:"; $(RUN_TESTS) tests.several; several=$$?; \
	  $(PY) -m tests.postgres $(RUN_TESTS) tests.several; postgres=$$?; \
	  wait $$pid; web=$$?; echo "The pages':"; cat $$pages; rm -f $$pages; \
	  test $$browser -eq 0 -a $$core -eq 0 -a $$several -eq 0 -a $$postgres -eq 0 -a $$web -eq 0

test-postgres: $(VENV)/.dev pango postgres ## run the tests of pages and worker on PostgreSQL (half an hour)
	@$(PY) -m tests.postgres $(RUN_TESTS) tests.several tests.web

test-core: $(VENV)/.dev ## run the core's tests alone
	@$(PY) -m unittest discover -s tests/core -t .

test-hard: $(VENV)/.dev ## fuzz, kill and overload the application as it is served (ten minutes)
	@$(PY) -m tests.hard

test-seeds: $(VENV)/.dev ## analyse three hundred clips as drills show them (ten minutes)
	@$(PY) -W ignore -m tests.hard.seeds

bench-load: $(VENV)/.dev postgres ## a marking night: 300 students hand in, 15 mark; on both databases (an hour)
	@$(PY) -W ignore -m bench.load $(LOAD)

lint: $(VENV)/.dev ## check style, types, layers, templates and vendored files
	@$(VENV)/bin/ruff check .
	@$(VENV)/bin/ruff format --check .
	@$(VENV)/bin/mypy
	@$(VENV)/bin/mypy --config-file nettlecap/mypy.ini
	@$(VENV)/bin/lint-imports --no-cache
	@$(VENV)/bin/djlint nettlecap/templates --lint --quiet
	@$(PY) -m tests.vendored

account: $(VENV)/.dev ## write docs/checks.md and its pictures anew from the checks themselves
	@$(PY) -m motion.account docs/checks.md nettlecap/static/img/checks

bench: $(VENV)/.dev ## measure accuracy and speed, and print the tables; ONLY="walks speed" prints some
	@$(PY) -m bench $(ONLY)

.PHONY: help setup pango postgres test-postgres bench-load demo demo-reset chromium test test-core test-hard test-seeds lint account bench
