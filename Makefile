# Vexel: `make demo` starts it with the demo project, `make test` passes the tests.
# Both install what they need; the second time they only look whether anything changed.
# Options come from the environment: PORT=8123 PROJECT=~/films make demo

SHELL := /bin/bash
PORT ?= 8137
PROJECT ?= demo-project
PYTHON ?= python3

DRAWING := chromium-headless-shell libegl1 libgl1 libgl1-mesa-dri libxrender1 python3-venv
TESTING := chromium ffmpeg
FONTS := fonts-wqy-microhei fonts-lohit-deva fonts-noto-color-emoji
STAMPS := .stamps
UI_FILES := $(shell find ui/src ui/public docs/guides docs/GLOSSARY.md -type f -not -name generated.ts) ui/index.html ui/vite.config.ts
API_FILES := $(shell find src/vexel/web src/vexel/core -name "*.py")

.PHONY: wheel help demo test test-long lint tests ui setup setup-dev bench screenshots clean

help:
	@echo "make demo        start Vexel with the demo project   (PORT=$(PORT) PROJECT=$(PROJECT))"
	@echo "make test        lint, types and all tests"
	@echo "make test-long   the same, with ten times as many random examples"
	@echo "make bench       measure, and print the figures of docs/MEASURED.md"
	@echo "make wheel       build an installable wheel with the interface in it, into wheels/"
	@echo "make ui          build the interface alone"

demo: setup ui
	.venv/bin/vexel demo --home "$(PROJECT)" --port $(PORT)

test: lint tests

tests: setup-dev ui
	.venv/bin/python -m tests.run

test-long: export VEXEL_TEST_LONG = 1
test-long: test

lint: setup-dev ui
	.venv/bin/ruff check .
	.venv/bin/ruff format --check .
	.venv/bin/mypy
	cd ui && npm run --silent check

bench: setup-dev ui
	.venv/bin/python -m bench

screenshots: setup-dev ui
	.venv/bin/python tools/screenshots.py

setup: $(STAMPS)/python $(STAMPS)/node
setup-dev: setup $(STAMPS)/dev
ui: $(STAMPS)/ui

$(STAMPS)/drawing: tools/need-debian Makefile
	@mkdir -p $(STAMPS)
	tools/need-debian $(DRAWING)
	@touch $@

$(STAMPS)/fonts: tools/need-debian tools/ship-fonts Makefile
	@mkdir -p $(STAMPS)
	tools/need-debian $(FONTS)
	tools/ship-fonts $(FONTS)
	@touch $@

$(STAMPS)/python: requirements.txt pyproject.toml | $(STAMPS)/drawing $(STAMPS)/fonts
	@$(PYTHON) -c 'import sys; sys.exit("Vexel needs Python 3.11 or newer") if sys.version_info < (3, 11) else None'
	test -x .venv/bin/python || $(PYTHON) -m venv .venv
	.venv/bin/python -m pip install --quiet --disable-pip-version-check -r requirements.txt
	.venv/bin/python -m pip install --quiet --disable-pip-version-check --no-deps --editable .
	@touch $@

$(STAMPS)/dev: requirements-dev.txt $(STAMPS)/python
	tools/need-debian $(TESTING)
	.venv/bin/python -m pip install --quiet --disable-pip-version-check -r requirements-dev.txt
	@touch $@

$(STAMPS)/node: ui/package-lock.json
	@mkdir -p $(STAMPS)
	@node -e 'if (+process.versions.node.split(".")[0] < 20) { console.error("Vexel needs Node 20 or newer"); process.exit(1) }'
	cd ui && npm ci --silent
	@touch $@

$(STAMPS)/ui: $(UI_FILES) $(API_FILES) $(STAMPS)/python $(STAMPS)/node
	.venv/bin/python -m vexel.web.openapi > ui/openapi.json
	cd ui && npm run --silent types && npm run --silent build -- --logLevel warn
	@touch $@

wheel: ui
	rm -rf build
	.venv/bin/python -m pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir wheels .
	@ls wheels/*.whl

clean:
	rm -rf .venv .stamps wheels build ui/node_modules ui/openapi.json ui/src/api/generated.ts src/vexel/web/dist src/vexel/fonts
