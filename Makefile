# Every target makes what it needs; `make` alone lists them.
PYTHON ?= python3
RUN := .venv/bin/python

.PHONY: help demo test coverage lint bench attack shots schema lock clean
help:
	@echo "make demo    open True Compass with the demo rigs"
	@echo "make test    run every check (no display needed)"
	@echo "make coverage  the tests again, counting which lines they run"
	@echo "make lint    only the checks that read the code"
	@echo "make bench   print speed and memory, as medians and ratios"
	@echo "make attack  give the program five minutes of inputs that nobody should"
	@echo "make shots   retake the pictures in docs/screenshots"
	@echo "make schema  write docs/engine.schema.json anew from the model"
	@echo "make lock    choose new library versions for the lock files"

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

shots:
	@$(PYTHON) tools/setup_env.py test
	@QT_QPA_PLATFORM=offscreen $(RUN) -m tools.shots

schema:
	@$(PYTHON) tools/setup_env.py test
	@$(RUN) tools/make_schema.py

lock:
	@$(PYTHON) tools/setup_env.py lock

clean:
	rm -rf .venv .mypy_cache .ruff_cache .pytest_cache .hypothesis .coverage
