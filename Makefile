# make demo: set up, load the demo job, serve on 127.0.0.1:8000. make test: set up what the tests need and run them all.
SHELL := /bin/bash
PYTHON ?= python3.11
VENV := .venv
BIN := $(VENV)/bin

.PHONY: benches demo phone test setup browsers paper check unit lock warm schema words

setup: $(VENV)/.run

$(VENV)/.run: requirements.lock
	test -x $(BIN)/python || $(PYTHON) -m venv $(VENV) || { $(MAKE) python-venv && $(PYTHON) -m venv --clear $(VENV); }
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -r requirements.lock
	touch $@

$(VENV)/.test: requirements-test.lock $(VENV)/.run
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -r requirements-test.lock
	touch $@

.PHONY: python-venv
python-venv:
	@echo "Installing Debian's python3.11-venv"; tools/as_root.sh apt-get install -y --no-install-recommends python3.11-venv

# Compiles the core's loops into CANTREL_VAR, so that nobody waits for that at a bench.
warm:
	$(BIN)/python -m treecore warm

demo: setup warm paper
	$(BIN)/python manage.py migrate -v0
	$(BIN)/python manage.py collectstatic --noinput -v0
	$(BIN)/python manage.py load_demo
	$(BIN)/python -m cantrel.serve

# For phones on the same network: by https, with a certificate of this machine's own that a page leads through trusting.
phone: setup warm paper
	$(BIN)/python manage.py migrate -v0
	$(BIN)/python manage.py collectstatic --noinput -v0
	$(BIN)/python -m cantrel.phone

# What PDF is drawn with.
paper:
	@ldconfig -p | grep -q libpangoft2-1.0 && ldconfig -p | grep -q libharfbuzz-subset || { tools/as_root.sh apt-get update -q && tools/as_root.sh apt-get install -y -q --no-install-recommends libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0; }

browsers:
	@command -v chromium >/dev/null && command -v chromedriver >/dev/null && command -v certutil >/dev/null || { tools/as_root.sh apt-get update -q && tools/as_root.sh apt-get install -y -q --no-install-recommends chromium chromium-driver libnss3-tools; }

check: $(VENV)/.test
	$(BIN)/ruff check .
	$(BIN)/ruff format --check --quiet .
	$(BIN)/djade --check --target-version 5.2 $$(find apps cantrel -name "*.html")
	$(BIN)/vulture
	$(BIN)/mypy
	PYTHONPATH=. $(BIN)/lint-imports
	$(BIN)/python manage.py makemigrations --check --dry-run -v0
	$(BIN)/python manage.py check --deploy --fail-level WARNING
	$(BIN)/python tools/bill.py --check

unit: $(VENV)/.test warm
	$(BIN)/python -W error::DeprecationWarning:cantrel -W error::DeprecationWarning:apps -W error::DeprecationWarning:treecore manage.py test --noinput --parallel auto

test: $(VENV)/.test browsers paper check
	$(MAKE) unit

# A round of each bench, so that none of them has stopped running; figures come from running them by hand.
benches: $(VENV)/.test browsers paper
	$(BIN)/python bench/speed.py once
	$(BIN)/python bench/work_day.py once

# Writes the schemas anew from the declarations; a test fails while they are not current.
schema: $(VENV)/.run
	$(BIN)/python -m treecore schema

# Gathers every word a page may say into var/words/django.pot, and compiles the catalogues; after words were changed.
words: $(VENV)/.run
	@command -v msgfmt >/dev/null || { tools/as_root.sh apt-get update -q && tools/as_root.sh apt-get install -y -q --no-install-recommends gettext; }
	$(BIN)/python tools/words.py
	xgettext --from-code=UTF-8 --language=Python --keyword=gettext_lazy --keyword=gettext_noop --output=var/words/django.pot \
	  var/words/core.py var/words/pages.py $$(find apps cantrel -name "*.py" -not -path "*/tests/*" -not -path "*/migrations/*")
	msgfmt --output-file=cantrel/locale/en_US/LC_MESSAGES/django.mo cantrel/locale/en_US/LC_MESSAGES/django.po

# Pins anew from pyproject.toml; run by hand, then commit both files.
lock: $(VENV)/.test
	$(BIN)/python -m pip install --quiet pip-tools
	$(BIN)/pip-compile --quiet --strip-extras --generate-hashes --no-emit-options --no-emit-index-url --no-emit-find-links -o requirements.lock pyproject.toml
	$(BIN)/pip-compile --quiet --strip-extras --generate-hashes --no-emit-options --no-emit-index-url --no-emit-find-links --extra test -c requirements.lock -o requirements-test.lock pyproject.toml
