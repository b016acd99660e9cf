# Two commands carry a fresh machine: make demo (set up and serve), make test (set up and test).
PORT ?= 8765
DATA ?= data
BIN := .venv/bin

.PHONY: demo test bench dev setup check unit types

setup:
	@tools/setup.sh run

demo: setup
	@exec $(BIN)/vireo demo --port $(PORT) --data $(DATA)

test:
	@tools/setup.sh test
	@tools/test.sh

# The property tests on examples nobody has seen.
.PHONY: fuzz
fuzz:
	@tools/setup.sh test
	@VIREO_FUZZ=1 $(BIN)/pytest -n 2 --dist worksteal $$(grep -rl "given(" tests/core tests/server)

bench:
	@tools/setup.sh test
	@$(BIN)/python -m tests.bench

dev: setup
	@tools/dev.sh $(PORT) $(DATA)

# The OpenAPI document and the web types made from it.
types: setup
	@$(BIN)/vireo openapi docs/openapi.json
	@cd web && npx --no-install openapi-typescript ../docs/openapi.json -o src/api/schema.ts

# Pictures of the main views for the README, from the demo data.
.PHONY: pictures
pictures:
	@tools/setup.sh test
	@$(BIN)/python -m tests.browser.screens
