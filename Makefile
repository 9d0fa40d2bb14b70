# Earnest Pony. `make demo` and `make test` do everything, on a fresh Debian machine with Go and Node.
SHELL := /bin/bash
.SHELLFLAGS := -euo pipefail -c
.DEFAULT_GOAL := help
export CGO_ENABLED := 0

web_sources := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts web/package-lock.json
staticcheck := go tool -modfile=tools/go.mod staticcheck
golangci := go tool -modfile=tools/lint/go.mod golangci-lint

.PHONY: help demo demo-reset dev test test-fast test-full stop build generate check-generated check lint shots look bench count calibration torture fuzz faults house setup setup-test

help: ## say what there is
	@awk -F ':.*## ' '/^[a-z-]+:.*## / { printf "  make %-16s %s\n", $$1, $$2 }' $(MAKEFILE_LIST)

demo: setup build ## serve the demo shop; the first time it is made, later its data are kept
	@bin/pony demo

demo-reset: setup build ## make the demo shop anew and serve it
	@bin/pony demo --reset

stop: build ## stop the private PostgreSQL servers
	@bin/pony stop

# The page's tests, and what checks looks at, run beside Go's: a browser test waits more than it works.
# Garbage is collected less often: the tests have more memory than processors.
test: export GOGC := 400
test: setup-test build ## pass every test: page, core, store, API, browser
	@trap 'bin/pony stop --tests' EXIT; said=$$(mktemp); ($(MAKE) check check-generated && cd web && npm run -s typecheck && npm run -s test) >$$said 2>&1 & page=$$!; \
	echo go test ./...; go test -count=1 -vet=off -timeout 30m ./... && went=0 || went=$$?; wait $$page || went=$$?; cat $$said; rm $$said; exit $$went

test-fast: setup build ## what is wrong most often, in under a minute: vet, core, rooms, page
	@go vet ./...
	@trap 'bin/pony stop --tests' EXIT; (cd web && npm run -s typecheck && npx --no-install vitest run --reporter=dot) & page=$$!; \
	go test -short ./core/... ./internal/calc ./internal/formats ./internal/live ./internal/outside ./internal/store $$(go list ./internal/shop/... | tail -n +2); wait $$page

test-full: setup-test build ## the exhaustive tests with nothing sampled, every screen in every theme and width, and all that make test does
	@trap 'bin/pony stop --tests' EXIT; PONY_TEST_FULL=1 go test -count=1 -timeout 60m ./core/... ./internal/demo
	@trap 'bin/pony stop --tests' EXIT; PONY_TEST_FULL=1 go test -count=1 -vet=off -timeout 60m ./e2e -run '^(TestEveryScreen|TestSetUpInEveryLook)$$'
	@$(MAKE) test

dev: setup web/dist/index.html ## the page with hot reload, against a demo server that restarts on change
	@scripts/dev.sh

setup:
	@scripts/setup.sh run
setup-test:
	@scripts/setup.sh test

build: web/dist/index.html ## build the page and the program
	@go build -o bin/pony ./cmd/pony

web/dist/index.html: $(web_sources) | setup
	@cd web && npm run -s build -- --logLevel error

generate: setup ## generate server interface and client from api/openapi.yaml
	go generate ./...
	cd web && npm run -s generate

check-generated: setup ## fail when what is generated is not what api/openapi.yaml says
	@fresh=$$(mktemp -d); trap 'rm -rf "$$fresh"' EXIT; \
	go tool oapi-codegen -config api/oapi-codegen.yaml -o $$fresh/api.gen.go api/openapi.yaml; \
	(cd web && npx --no-install openapi-typescript ../api/openapi.yaml -o $$fresh/schema.d.ts >/dev/null 2>&1); \
	cmp $$fresh/api.gen.go internal/httpapi/apigen/api.gen.go && cmp $$fresh/schema.d.ts web/src/api/schema.d.ts || \
	{ echo "generated code is not current: run make generate and commit" >&2; exit 1; }

lint: check ## all of check, and golangci-lint: errors nobody looks at, cases forgotten, contexts lost (its first run builds it)
	$(golangci) run ./...

check: setup web/dist/index.html ## go vet, staticcheck, gofmt, biome, the contract: what make test looks at
	@unformatted=$$(gofmt -l $$(git ls-files '*.go')); [ -z "$$unformatted" ] || { echo "gofmt: $$unformatted" >&2; exit 1; }
	go vet ./...
	$(staticcheck) ./...
	cd web && npm run -s lint

shots: setup-test build ## take the pictures in docs/screenshots from the demo shop
	@bin/pony demo --load-only --reset --state .local/shots
	@bin/pony demo --state .local/shots --addr 127.0.0.1:8329 2>.local/shots/server.log >/dev/null & server=$$!; \
	trap 'kill $$server; bin/pony stop --state .local/shots' EXIT; \
	for i in {1..100}; do curl -sf http://127.0.0.1:8329/readyz >/dev/null && break; sleep 0.1; done; \
	PONY_SHOTS=$(CURDIR)/docs/screenshots PONY_SHOTS_DEMO=127.0.0.1:8329 go test -count=1 -run '^TestShots$$' ./e2e

look: setup-test build ## draw a screen at three widths, by day and by night: make look SCREEN=bike, SCREEN=bike..., UNITS=inches
	@bin/pony demo --load-only --state .local/look
	@bin/pony demo --state .local/look --addr 127.0.0.1:8331 2>.local/look/server.log >/dev/null & server=$$!; \
	trap 'kill $$server; bin/pony stop --state .local/look' EXIT; \
	for i in {1..100}; do curl -sf http://127.0.0.1:8331/readyz >/dev/null && break; sleep 0.1; done; \
	PONY_LOOK=$(CURDIR)/.local/look/drawn PONY_LOOK_DEMO=127.0.0.1:8331 PONY_LOOK_SCREEN='$(SCREEN)' PONY_LOOK_UNITS='$(UNITS)' \
	go test -count=1 -timeout 30m -run '^TestLook$$' ./e2e; ls .local/look/drawn

bench: setup build ## measure what is asked to be fast
	go test -run '^$$' -bench . -benchmem ./core/... ./internal/...
	@bin/pony bigshop --state .local/bench --out docs/bench.md; bin/pony stop --state .local/bench; cat docs/bench.md

torture: setup-test build ## kill servers and the database fifty times each while eight writers write, and judge the history
	@trap 'bin/pony stop --tests' EXIT; PONY_TORTURE=50 go test -count=1 -v -timeout 60m -run '^TestTorture' ./e2e

fuzz: setup-test ## feed each parser of foreign bytes for a minute with what nobody thought of
	@trap 'bin/pony stop --tests' EXIT; grep -rE '^func Fuzz[A-Za-z]+' --include=*_test.go core internal | sed -E 's/^(.*)\/[^/]*:func (Fuzz[A-Za-z]+).*/\1 \2/' | while read -r package target; do \
	echo "== $$target in $$package"; go test -run '^$$' -fuzz "^$$target$$" -fuzztime 60s -fuzzminimizetime 5s ./$$package; done

faults: setup-test ## replay what was found wrong and print what is answered now: docs/faults.md
	@trap 'bin/pony stop --tests' EXIT; PONY_FAULTS=print go test -count=1 -v -run '^TestFaults$$' ./internal/httpapi | grep -E '^([A-C][0-9]|    answered |.*(FAIL|Error:))'

calibration: setup build ## hold the forecast against simulated chains: docs/calibration.md
	@bin/pony calibration | tee docs/calibration.md

house: setup ## the rooms of the shop by the type checker: sizes, who imports whom, what has no room
	@cd tools && go run ./house

count: ## lines of code, and which share of them are tests
	@scripts/count.sh
