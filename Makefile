# One verb each. `make` alone lists them.
SHELL := /bin/bash
.DEFAULT_GOAL := help
.PHONY: help setup start backup restore test demo lint check matrix laws proof faults bench bench-web shots published wheel lock survey-demo

help:          ## list the verbs
	@grep -hE '^[a-z-]+: .*## ' $(MAKEFILE_LIST) | sed -E 's/^([a-z-]+):.*## /  make \1\t/' | expand -t 18

setup:         ## install what is missing (DEV=1 adds what tests need, BROWSER=1 the browser they drive)
	@ops/setup.sh $(if $(DEV),dev) $(if $(BROWSER),browser)

start: setup   ## start Anabasis on http://127.0.0.1:8460 (next free port if taken); Ctrl-C stops it
	@exec .venv/bin/python ops/start.py

backup: setup  ## write everything stored into FILE (anabasis.backup where none is named)
	@.venv/bin/python ops/keep.py backup $(or $(FILE),anabasis.backup)

restore: setup ## put back what FILE holds, in place of what is stored; all of it or nothing
	@.venv/bin/python ops/keep.py restore $(or $(FILE),anabasis.backup)

test:          ## run everything: lint, laws, store, server, front end, browser
	@$(MAKE) --no-print-directory setup BROWSER=1
	@ops/test.sh

demo: setup    ## print the findings and the reach of the demo design
	@.venv/bin/anabasis findings demo/tidewrack.yaml; .venv/bin/anabasis reach demo/tidewrack.yaml

lint:          ## check formatting, types, imports, and the front end
	@$(MAKE) --no-print-directory setup DEV=1
	@ops/lint.sh

check:         ## lint, types, the core's tests and a handful of each law: about a minute, for every save
	@$(MAKE) --no-print-directory setup DEV=1
	@ops/check.sh

matrix:        ## the core's tests under every Python we promise that is here (3.11 to 3.13)
	@$(MAKE) --no-print-directory setup DEV=1
	@ops/matrix.sh

laws:          ## try every law on all its examples: thousands of sites, the single and the double fault among them
	@$(MAKE) --no-print-directory setup DEV=1
	@ANABASIS_LAWS=all .venv/bin/python -m pytest -q -n 2 tests/laws $(ONLY)

proof:         ## send real packets through hand-made sites and 200 generated ones, each with a fault in it (root, with network namespaces)
	@$(MAKE) --no-print-directory setup BROWSER=1
	@ANABASIS_LAWS=all .venv/bin/python -m pytest -q tests/proof tests/packets $(ONLY)

faults:        ## try every fault on what is stored: kills, full disks, lost databases, bad input
	@$(MAKE) --no-print-directory setup DEV=1
	@ANABASIS_LAWS=all .venv/bin/python -m pytest -q -n 2 tests/faults

bench:         ## measure, as ratios in one run
	@$(MAKE) --no-print-directory setup DEV=1
	@.venv/bin/python -m bench

bench-web:     ## measure the screens: frames, nodes, and an edit to its consequences
	@$(MAKE) --no-print-directory setup BROWSER=1
	@.venv/bin/python -m bench.web

shots:         ## take the pictures of docs/screenshots from the demo
	@$(MAKE) --no-print-directory setup BROWSER=1
	@.venv/bin/python ops/shots.py

published:     ## write again what is generated: the schema, the findings, the API and its types
	@.venv/bin/anabasis schema > docs/design.schema.json
	@.venv/bin/anabasis schema --findings > docs/findings.md
	@.venv/bin/anabasis schema --yang > docs/yang/anabasis-site.yang
	@.venv/bin/anabasis openapi > web/src/api/openapi.json
	@cd web && PATH="$$PWD/../.venv/node/bin:$$PATH" npm run --silent api

survey-demo:   ## survey the demo as it stands on loopback, with six differences in it, end to end
	@$(MAKE) --no-print-directory setup
	@ops/survey-demo.sh

lock:          ## write anew which Python packages are installed, with their hashes
	@$(MAKE) --no-print-directory setup
	@ops/lock.sh

wheel: setup   ## build one installable file with the front end in it: dist/anabasis-*.whl, run by `anabasis serve`
	@ops/wheel.sh
