# Shortcuts; the README's commands do not need make.
.PHONY: build test real-schemas demo bench lint

build:
	CGO_ENABLED=0 go build -trimpath -ldflags='-s -w' -o echo-atlas ./cmd/echo-atlas

test:
	./scripts/test

real-schemas:
	./scripts/real-schemas

demo:
	go run ./cmd/echo-atlas demo

bench:
	go test -run '^$$' -bench . -benchtime 5x ./...

lint:
	gofmt -l cmd internal
	go vet ./...
	staticcheck ./...
