# Everything a newcomer needs: `make demo` and `make test`.
SHELL := /bin/bash
export PORT ?= 8080
export JOLLY_DATA ?= ./var
# what was compiled or looked at once is taken from Go's cache in every other clone, too
export GOFLAGS := $(shell go env GOFLAGS) -trimpath
GO_FILES := $(wildcard $(shell git ls-files -co --exclude-standard '*.go' 2>/dev/null))
UI_FILES := $(wildcard $(shell git ls-files -co --exclude-standard ui 2>/dev/null))

.PHONY: demo demo-reset test test-moments soak soak-packing fuzz bench screenshots build generate check clean

## demo: install what is missing, build, start everything with demo data
demo: packages-run build
	./bin/jollysatchel demo

## demo-reset: forget the demo's data, so that the next start is the first again
demo-reset: bin/jollysatchel
	./bin/jollysatchel demo-reset

## test: install what is missing, check everything, run every test
test: packages-test build
	scripts/test

## test-moments: the tests as if begun on other days and hours, on a machine in another zone
test-moments: packages-test build
	scripts/moments $(TESTS)

## check: format, vet, staticcheck, types, lint, generated code
check: ui/node_modules/.ready
	@test -z "$$(gofmt -l $(GO_FILES))" || { echo "gofmt would change:"; gofmt -l $(GO_FILES); exit 1; }
	go vet -tags screenshots,soak ./...
	go tool staticcheck -tags screenshots,soak ./...
	scripts/no-large-files
	scripts/generated-is-current
	cd ui && npm run --silent types && npm run --silent lint && npm run --silent format:check && npm run --silent words && npm run --silent contract

## generate: write the Go server types and the TypeScript client types from api/openapi.yaml
generate: ui/node_modules/.ready
	scripts/generate

## bench: the figures of docs/benchmarks.md
bench: packages-run
	go run ./internal/pgserver/withpg go test -run '^$$' -bench . -benchtime 3x -count 3 ./internal/core/... ./internal/tables ./internal/packer ./internal/usecase

## screenshots: docs/screenshots, made from the demo data
screenshots: packages-test build
	JOLLY_SCREENSHOTS=$(CURDIR)/docs/screenshots go run ./internal/pgserver/withpg go test -tags screenshots -count 1 -run TestScreenshots ./e2e

## soak: honest people at work beside an attacker, three minutes (SOAK=10m at most), on loopback
soak: packages-run build
	go run ./internal/pgserver/withpg go test -tags soak -count 1 -timeout 20m -v -run "TestSoak|TestFifty" ./soak
	FULL=1 go run ./internal/pgserver/withpg go test -count 1 -timeout 20m -run 'TestCostOfReading|TestOddRequests' ./internal/tables ./internal/web
	CLOSINGS=100 go run ./internal/pgserver/withpg go test -count 1 -timeout 20m -run 'TestClosesExactly' ./internal/usecase

## soak-packing: packing at full strength: 50 kills, the worst weather, two programs, 60 random
## histories, acts that meet a hundred times each, 1,000 schedules
soak-packing: packages-run
	KILLS=50 HISTORIES=60 WEATHER=full MEETINGS=100 SCHEDULES=1000 go run ./internal/pgserver/withpg go test -count 1 -timeout 110m -parallel 8 -v -run 'TestKilled|TestBadWeather|TestTwoPrograms|TestHistories|TestActsMeet|TestSchedules' ./internal/packer

## fuzz: every fuzz target for three minutes (FUZZ=30s for less)
fuzz: packages-run
	scripts/fuzz $(or $(FUZZ),3m)

build: bin/jollysatchel

bin/jollysatchel: $(GO_FILES) ui/dist/index.html
	go build -o $@ ./cmd/jollysatchel

ui/dist/index.html: ui/node_modules/.ready $(filter ui/src/% ui/index.html ui/vite.config.ts,$(UI_FILES))
	cd ui && npm run --silent build
	@touch $@

ui/node_modules/.ready: ui/package-lock.json
	cd ui && npm ci --ignore-scripts --no-audit --no-fund
	@touch $@

.PHONY: packages-run packages-test
packages-run:
	@scripts/packages postgresql
packages-test:
	@scripts/packages postgresql chromium-headless-shell libreoffice-calc libreoffice-writer python3 unzip unicode-data

clean:
	rm -rf bin ui/dist/assets ui/dist/index.html
