# The two commands: make demo, make test.
# What is said is drafted, and what stands on slides is read, by programs of Debian's.
TOOLS := postgresql ffmpeg pocketsphinx pocketsphinx-en-us sphinxbase-utils espeak-ng tesseract-ocr
BIN := bin/latelantern
GO_FILES := $(shell find . -name '*.go' -not -path './web/node_modules/*' -not -path './var/*') go.mod go.sum $(wildcard demo/media/* internal/platform/postgres/migrations/*)
WEB_FILES := $(shell find web/src web/public -type f) web/index.html web/vite.config.ts web/tsconfig.json

.PHONY: demo test build check audit bench pictures media clean

demo: build
	@scripts/packages $(TOOLS)
	@$(BIN) demo

build: $(BIN)

$(BIN): web/dist/index.html $(GO_FILES)
	go build -o $@ ./cmd/latelantern

web/node_modules/.installed: web/package-lock.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

web/dist/index.html: web/node_modules/.installed $(WEB_FILES)
	cd web && npm run --silent build -- --logLevel warn
	@touch $@

# What of the front end is tested by itself.
web/modules/.built: web/node_modules/.installed web/vite.modules.config.ts $(WEB_FILES)
	cd web && npm run --silent modules -- --logLevel warn
	@touch $@

test: check audit web/modules/.built
	@scripts/packages $(TOOLS) chromium libxml2-utils
	go run ./internal/testdb/run sh -c 'go run ./bench/slowest -p 2 -timeout 40m $$(go list ./... | grep -v /e2e) && go run ./bench/slowest -count=1 -timeout 60m ./e2e'

# Everything that can be said without running the product.
check: build
	@test -z "$$(gofmt -l cmd demo e2e internal bench web/embed.go)" || { gofmt -d cmd demo e2e internal bench web/embed.go; exit 1; }
	go vet ./...
	go tool staticcheck ./...
	@$(BIN) contract | diff -q - web/openapi.json >/dev/null || { echo "web/openapi.json is old: make contract"; exit 1; }
	@for l in en de; do $(BIN) texts $$l | diff -q - web/src/messages/said/$$l.json >/dev/null || { echo "web/src/messages/said/$$l.json is old: make contract"; exit 1; }; done
	cd web && npx --no-install openapi-typescript openapi.json -o node_modules/.schema.d.ts >/dev/null && diff -q node_modules/.schema.d.ts src/api/schema.d.ts
	cd web && npm run --silent types && npm run --silent lint && npm run --silent format:check

# Known faults in what we depend on, where the lists of them can be reached.
audit: web/node_modules/.installed
	scripts/audit

# The contract and the types made from it, and the texts of the server for pages.
.PHONY: contract
contract:
	go run ./cmd/latelantern contract > web/openapi.json
	for l in en de; do go run ./cmd/latelantern texts $$l > web/src/messages/said/$$l.json; done
	cd web && npm run --silent contract

bench: build
	@scripts/packages $(TOOLS) chromium flite nginx-light
	go run ./internal/testdb/run go test -run - -bench . -benchtime 1x -timeout 60m ./bench

# The pictures of docs/screenshots, from a running demonstration.
pictures:
	go run ./e2e/pictures

# The captured lectures of the demonstration, made anew.
media: web/node_modules/.installed
	@scripts/packages ffmpeg chromium flite espeak-ng
	go run ./demo/make

clean:
	rm -rf bin var web/node_modules web/dist/assets web/dist/index.html
