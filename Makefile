# Wahrheit: `make demo` runs it, `make test` tests it.
VENV := .venv
PY := $(VENV)/bin/python
PORT ?= 8000
HOST ?= 127.0.0.1
.DEFAULT_GOAL := help
# Frames of decoded photographs stay with the process: handing each back to the system costs a tenth of all computing.
export MALLOC_MMAP_THRESHOLD_ ?= 1073741824
export MALLOC_TRIM_THRESHOLD_ ?= 1073741824
# Matrices here are small: threads that wait for each other cost more than they bring.
export OMP_NUM_THREADS ?= 1

.PHONY: help demo demo-pack serve test lint bench bench-rendered study abuse doors-mutants screenshots

help:            ## this list
	@grep -hE '^[a-z-]+: .*##|^[a-z-]+:  .*##' Makefile | sed 's/:.*##/ -/'

$(VENV)/.installed: requirements.lock
	@echo "Installing what it needs into $(VENV): about a minute, once."
	python3 -m venv $(VENV)
	$(PY) -m pip install --quiet --disable-pip-version-check --only-binary :all: --no-binary bagit --requirement requirements.lock
	touch $@

# What only tests, benches and the farm of other machines need.
# Reads print on labels and tags; without it people type.
$(VENV)/.printing: requirements-print.lock $(VENV)/.installed
	$(PY) -m pip install --quiet --disable-pip-version-check --only-binary :all: --requirement requirements-print.lock
	touch $@

$(VENV)/.developing: requirements-dev.lock $(VENV)/.printing
	$(PY) -m pip install --quiet --disable-pip-version-check --only-binary :all: --no-binary bagit --requirement requirements-dev.lock
	touch $@

demo: $(VENV)/.printing  ## install, unpack the demo, serve on 127.0.0.1:PORT
	PY=$(PY) PORT=$(PORT) HOST=$(HOST) sh bin/demo

demo-pack: $(VENV)/.printing  ## draw the demo's photographs and measure them anew (half an hour of computing)
	WAHRHEIT_DATA=data/demo-pack $(PY) manage.py migrate --verbosity 0
	WAHRHEIT_DATA=data/demo-pack $(PY) manage.py demo_pack

serve: $(VENV)/.installed  ## for good: behind a proxy that speaks HTTPS, see docs/running.md
	PY=$(PY) PORT=$(PORT) HOST=$(HOST) sh bin/serve

test: $(VENV)/.developing  ## every test, the browser's included
	sh bin/need-chromium
	PY=$(PY) ONLY="$(ONLY)" sh bin/test

lint: $(VENV)/.developing  ## style, imports, forgotten migrations
	$(VENV)/bin/ruff check .
	$(VENV)/bin/ruff format --check .
	$(VENV)/bin/mypy
	$(VENV)/bin/djlint --lint --quiet casework drills guides reports wahrheit
	$(VENV)/bin/oxlint --quiet casework drills reports wahrheit demo
	$(PY) manage.py makemigrations --check --dry-run

bench: $(VENV)/.developing  ## accuracy and speed of the measures, as a table
	$(PY) -m tests.bench

bench-rendered: $(VENV)/.developing  ## a rendered shoe set up as a small shop would; FOLDER holds its photographs and truth
	$(PY) -m tests.bench.practice.rendered $(FOLDER) --details

study: $(VENV)/.developing  ## how well the decision rules decide on populations drawn in numbers, as a table
	$(PY) -m tests.study

abuse: $(VENV)/.developing  ## hostile files, malformed posts, workers killed, hundreds of each
	ABUSE_FILES=600 ABUSE_POSTS=40 $(PY) manage.py test --noinput tests.test_abuse
	$(PY) -m tests.abuse.hostile
	$(PY) -m tests.abuse.kills 100
	$(PY) -m tests.abuse.crowd 60

doors-mutants: $(VENV)/.developing  ## every rights check taken out in turn: does a test notice?
	$(PY) -m tests.doors_mutants

screenshots: $(VENV)/.developing  ## refresh docs/screenshots from the demo that `make demo` serves
	sh bin/need-chromium
	$(PY) manage.py screenshots
