# Vexel: `make demo` starts it with the demo project, `make test` passes the tests.
# Both install what they need; the second time they only check whether anything has changed.
# Options come from the environment: PORT=8123 PROJECT=~/films make demo

SHELL := /bin/bash
PORT ?= 8137
PROJECT ?= demo-project
PYTHON ?= python3

DRAWING := chromium-headless-shell libegl1 libgl1 libgl1-mesa-dri libxrender1 python3-venv
TESTING := chromium ffmpeg
FONTS := fonts-wqy-microhei fonts-lohit-deva fonts-noto-color-emoji
STAMPS := .stamps
UI_FILES := $(shell find ui/src ui/public docs/guides docs/GLOSSARY.md tools/plain_zero.py -type f -not -name generated.ts -not -path "ui/src/fonts/*") ui/index.html ui/vite.config.ts
API_FILES := $(shell find src/vexel/web src/vexel/core -name "*.py")

.PHONY: wheel release help demo test test-long lint tests ui setup setup-dev bench screenshots clean

help:
	@echo "make demo        start Vexel with the demo project   (PORT=$(PORT) PROJECT=$(PROJECT))"
	@echo "make test        lint, types and all tests"
	@echo "make test-long   the same, with ten times as many random examples"
	@echo "make bench       measure, and print the figures of docs/MEASURED.md"
	@echo "make wheel       build an installable wheel with the interface in it, into wheels/"
	@echo "make release     build wheel and source archive, and try the wheel in an empty environment"
	@echo "make ui          build the interface alone"

demo: setup ui
	.venv/bin/vexel demo --home "$(PROJECT)" --port $(PORT)

test: lint tests

tests: setup-dev ui
	.venv/bin/python -m tests.run

test-long: export VEXEL_TEST_LONG = 1
test-long: test release

lint: setup-dev ui
	.venv/bin/ruff check .
	.venv/bin/ruff format --check .
	.venv/bin/mypy
	cd ui && npm run --silent check

bench: setup-dev ui
	.venv/bin/python -m bench

screenshots: setup-dev ui
	.venv/bin/python tools/screenshots.py

setup: $(STAMPS)/machine $(STAMPS)/debian $(STAMPS)/python $(STAMPS)/node
setup-dev: $(STAMPS)/machine $(STAMPS)/debian-dev setup $(STAMPS)/dev
ui: $(STAMPS)/ui

# What make cannot install is checked before the minute of installing.
$(STAMPS)/machine: tools/check-machine
	@tools/check-machine $(PYTHON)
	@mkdir -p $(STAMPS)
	@touch $@

$(STAMPS)/debian: tools/need-debian tools/ship-fonts Makefile | $(STAMPS)/machine
	@tools/need-debian $(DRAWING) $(FONTS)
	@tools/ship-fonts $(FONTS)
	@touch $@

# All packages at once, so that a person without root is asked once.
$(STAMPS)/debian-dev: tools/need-debian Makefile | $(STAMPS)/machine
	@tools/need-debian $(DRAWING) $(FONTS) $(TESTING)
	@touch $@

PIP := .venv/bin/python -m pip
PIP_INSTALL := $(PIP) install --quiet --disable-pip-version-check
UNREACHED = { echo "The $(1) packages could not be installed: see the lines above; if the index cannot be reached, check the network, then run make again." >&2; exit 1; }

$(STAMPS)/python: requirements.txt pyproject.toml | $(STAMPS)/machine $(STAMPS)/debian
	@test -x .venv/bin/python || $(PYTHON) -m venv .venv
	@$(PIP_INSTALL) -r requirements.txt || $(call UNREACHED,Python)
	@$(PIP_INSTALL) --no-deps --editable . || $(call UNREACHED,Python)
	@touch $@

$(STAMPS)/dev: requirements-dev.txt $(STAMPS)/python | $(STAMPS)/debian-dev
	@$(PIP_INSTALL) -r requirements-dev.txt || $(call UNREACHED,Python)
	@touch $@

$(STAMPS)/node: ui/package-lock.json | $(STAMPS)/machine
	@cd ui && npm ci --silent || $(call UNREACHED,Node)
	@touch $@

$(STAMPS)/ui: $(UI_FILES) $(API_FILES) $(STAMPS)/python $(STAMPS)/node
	.venv/bin/python -m vexel.web.openapi > ui/openapi.json
	.venv/bin/python tools/plain_zero.py ui/src/fonts
	cd ui && npm run --silent types && npm run --silent build -- --logLevel warn
	@touch $@

wheel: ui
	rm -rf build
	$(PIP) wheel --quiet --disable-pip-version-check --no-deps --wheel-dir wheels .
	@ls wheels/*.whl

# Builds both archives, and tries the wheel in an empty environment.
release: setup-dev ui
	rm -rf build wheels
	.venv/bin/python -m build --outdir wheels .
	tools/try-wheel wheels/*.whl

clean:
	rm -rf .venv .stamps wheels build bench/out ui/node_modules ui/openapi.json ui/src/api/generated.ts ui/src/fonts
	rm -rf src/vexel/web/dist src/vexel/fonts src/*.egg-info .mypy_cache .ruff_cache .hypothesis
	find . -name __pycache__ -type d -prune -exec rm -rf {} +
	@if [ -e "$(PROJECT)" ]; then echo "$(PROJECT) stays: it may hold your work"; fi
