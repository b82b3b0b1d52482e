# Two commands do everything: make demo, make test.
PORT ?= 8484
VERSION ?= $(shell git describe --tags --always --dirty 2>/dev/null || echo dev)
export GOFLAGS ?= -buildvcs=false

.DEFAULT_GOAL := help
.PHONY: help cases demo demo-reset build assets test oracle mutants lint fmt bench bench-diagnosis bench-kilovolts bench-size fit-kilovolts bench-proof trial shots fuzz clean

help: ## list what there is
	@grep -hE '^[a-z-]+:.*## ' $(MAKEFILE_LIST) | sed -E 's/:[^#]*## /\t/' | expand -t 14

demo: need-demo build ## install what is missing, build, and serve the demo on http://127.0.0.1:8484 (PORT= overrides)
	@exec bin/glenmist demo --listen 127.0.0.1:$(PORT)

demo-reset: need-demo build ## the same, with the demo's data from the start
	@exec bin/glenmist demo --reset --listen 127.0.0.1:$(PORT)

build: assets ## leave bin/glenmist
	@go build -ldflags "-X main.version=$(VERSION)" -o bin/glenmist ./cmd/glenmist

test: need-test assets ## install what tests need, and run everything
	@go vet ./...
	@go test -short -timeout 40m ./...

oracle: assets ## the slow oracles in full: enumeration, golden figures, alarms, the reports
	@go test ./core/... ./sim/... ./scripts/bench-diagnosis ./scripts/bench-kilovolts

mutants: need-test assets ## score of the tests on mutated code: MUTANTS= (a count for each package), SEED=
	@go run ./scripts/mutants -n $(MUTANTS) -seed $(SEED)

lint: assets ## golangci-lint (with vet and staticcheck), and govulncheck where its database can be reached
	@scripts/lint.sh

fmt: ## format
	@gofmt -w $$(git ls-files '*.go')

bench: assets ## Go benchmarks of reasoning, plan and job page
	@go test ./core/... ./sim/... ./web -run '^$$' -bench . -benchmem

SEED ?= 6
MUTANTS ?= 20
N ?= 3000
OUT ?= docs
bench-diagnosis: ## measure the reasoning on hidden faults: SEED=, N= (400 a sample: half an hour on two cores), OUT= (a folder)
	@go run ./scripts/bench-diagnosis -seed $(SEED) -n $(if $(filter file,$(origin N)),400,$(N)) -out $(OUT) -commit "$(VERSION)"

bench-kilovolts: ## measure the reading of captures: SEED=, N= (600), OUT= (a folder)
	@go run ./scripts/bench-kilovolts -seed $(SEED) -n $(if $(filter file,$(origin N)),600,$(N)) -out $(OUT) -commit "$(VERSION)"

bench-size: assets ## measure a workshop of N= (100000) jobs against one of 100, and 50 readers with 5 writers
	@go run ./scripts/bench-size -n $(if $(filter file,$(origin N)),100000,$(N))

fit-kilovolts: ## fit how often faults show each shape, in tuning worlds: SEED= (40), N= (60 a kind of fault)
	@go run ./scripts/fit-kilovolts -seed $(if $(filter file,$(origin SEED)),40,$(SEED)) -n $(if $(filter file,$(origin N)),60,$(N))

bench-proof: ## measure the test of a repair on simulated drives: SEED=, N= (10000 a case), OUT= (a folder)
	@go run ./scripts/bench-proof -seed $(SEED) -n $(if $(filter file,$(origin N)),10000,$(N)) -out $(OUT) -commit "$(VERSION)"

fuzz: ## each fuzz target FUZZCOUNT= (100000) times; FUZZ= chooses by package and name
	@scripts/fuzz.sh

cases: ## run the reasoning on the case files of docs/formats/cases, and print what holds
	@go run ./scripts/cases

trial: need-demo build ## try whether anything is lost or blocked: kills, stalled clients, bombs, a full disk
	@go run ./scripts/trial

shots: need-test assets ## the pictures in docs/screenshots, from the demo's jobs
	@go run ./e2e/shots

clean: ## remove what was built; the demo's data stays
	@rm -rf bin web/assets/node_modules
	@find web/static -type f ! -name .keep -delete

# What the browser gets: built when it, or what it is built from, has changed.
assets: web/static/manifest.json web/static/licences.txt

web/assets/node_modules/.package-lock.json: web/assets/package-lock.json
	@command -v npm >/dev/null || { echo "glenmist: npm is missing: install Node 20 or newer" >&2; exit 1; }
	@cd web/assets && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

web/static/manifest.json: web/assets/node_modules/.package-lock.json web/assets/build.mjs $(wildcard web/assets/src/* web/assets/src/*/*)
	@cd web/assets && npm run --silent build

web/static/licences.txt: web/assets/node_modules/.package-lock.json go.sum LICENSE scripts/notices/main.go
	@go run ./scripts/notices

.PHONY: need-demo need-test
need-demo need-test: need-%:
	@scripts/need.sh $*
