# Every target makes what it needs; `make` alone lists them.
PYTHON ?= python3
RUN := .venv/bin/python

.PHONY: help demo test coverage lint bench attack shots schema lock install uninstall deb chroot wheel icons licences sbom audit clean
help:
	@echo "make demo    open True Compass with the demo rigs"
	@echo "make test    run every check (no display needed)"
	@echo "make coverage  the tests again, counting which lines they run"
	@echo "make lint    only the checks that read the code"
	@echo "make bench   print speed and memory, as medians and ratios"
	@echo "make attack  give the program five minutes of inputs that nobody should"
	@echo "make audit   hold the locked libraries against known advisories (needs a network)"
	@echo "make shots   retake the pictures in docs/screenshots"
	@echo "make schema  write docs/schemas anew from the models"
	@echo "make lock    choose new library versions for the lock files"
	@echo "make install   install for you alone, below ~/.local or PREFIX"
	@echo "make uninstall take it away again; your own work stays"
	@echo "make wheel   build dist/true_compass-VERSION-py3-none-any.whl, for pipx"
	@echo "make deb     build dist/true-compass_VERSION_ARCH.deb, on Debian 12"
	@echo "make chroot  install that package on bare Debian 12 and 13 and start it (root, debootstrap)"
	@echo "make icons   draw the icons in packaging/icons anew"
	@echo "make licences list every part that ships with its licence"
	@echo "make sbom    write dist/true-compass.cdx.json (CycloneDX)"

demo:
	@$(PYTHON) tools/setup_env.py run
	@$(RUN) -m true_compass --demo

test: lint
	@QT_QPA_PLATFORM=offscreen $(RUN) -m pytest -n auto

coverage:
	@$(PYTHON) tools/setup_env.py test
	@$(RUN) -m coverage erase
	@QT_QPA_PLATFORM=offscreen $(RUN) -m coverage run -m pytest -n auto
	@$(RUN) -m coverage combine -q
	@$(RUN) -m coverage report

lint:
	@$(PYTHON) tools/setup_env.py test
	@.venv/bin/ruff check
	@.venv/bin/ruff format --check
	@.venv/bin/mypy
	@.venv/bin/lint-imports --no-cache

bench:
	@$(PYTHON) tools/setup_env.py test
	@QT_QPA_PLATFORM=offscreen $(RUN) tools/bench.py

attack:
	@$(PYTHON) tools/setup_env.py test
	@$(RUN) tools/attack.py --minutes 5

audit:
	@$(PYTHON) tools/audit.py

shots:
	@$(PYTHON) tools/setup_env.py test
	@QT_QPA_PLATFORM=offscreen $(RUN) -m tools.shots

schema:
	@$(PYTHON) tools/setup_env.py test
	@$(RUN) tools/make_schema.py

lock:
	@$(PYTHON) tools/setup_env.py lock

install:
	@$(PYTHON) -m tools.packaging.install install

uninstall:
	@$(PYTHON) -m tools.packaging.install uninstall

wheel:
	@$(PYTHON) -c "from tools.packaging.common import make_wheel; print(make_wheel())"

deb:
	@$(PYTHON) -m tools.packaging.deb

chroot:
	@$(PYTHON) -m tools.packaging.chroot

icons:
	@$(PYTHON) tools/setup_env.py test
	@$(RUN) -m tools.packaging.icons

licences:
	@$(PYTHON) -m tools.packaging.parts licences

sbom:
	@$(PYTHON) -m tools.packaging.parts sbom

clean:
	rm -rf .venv .mypy_cache .ruff_cache .pytest_cache .hypothesis .coverage
