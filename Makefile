# Two commands do everything on a machine with the .NET SDK, Node and npm:
#   make demo              the story, up to where somebody has to resume; the service stays up
#   make demo ARGS=--once  the whole story, and the service is stopped
#   make format            brings code into its form, which make test checks
#   make test              every test there is; make test-long the same with 200 kills
SHELL := /bin/bash
.SHELLFLAGS := -euo pipefail -c
CONFIG ?= Release
export DOTNET_CLI_TELEMETRY_OPTOUT := 1
export DOTNET_NOLOGO := 1

.PHONY: install package demo docs format test test-long bench pictures api build program console clean

console/node_modules/.installed: console/package-lock.json
	cd console && npm ci --no-audit --no-fund --loglevel=error
	touch $@

console/dist/index.html: console/node_modules/.installed $(shell find console/src console/public console/index.html console/vite.config.ts -type f)
	cd console && npx --no-install vite build --logLevel warn

console: console/dist/index.html

program:
	dotnet build standins/GateChain.StandIns -c $(CONFIG) -v quiet -p:RunAnalyzers=false
	dotnet build src/GateChain.Cli -c $(CONFIG) -v quiet -p:RunAnalyzers=false

# Both at once; the console goes beside the program. Analyzers and type checks run with the tests.
build:
	$(MAKE) --no-print-directory -j2 console program
	mkdir -p artifacts/bin/GateChain.Cli/$$(tr A-Z a-z <<< $(CONFIG))/console
	cp -r console/dist/. artifacts/bin/GateChain.Cli/$$(tr A-Z a-z <<< $(CONFIG))/console/

demo: build
	demo/play.sh $(ARGS)

test: console
	tests/run.sh

# Brings all code into its form: CSharpier for C#, Prettier for the console and scripts.
format: console/node_modules/.installed
	dotnet tool restore > /dev/null
	dotnet csharpier format src tests bench standins
	cd console && npm run --silent format

# The long suite: 200 kills of the service and 50 of nodes, three times as many random runs, a million malformed
# requests, the whole engine on PostgreSQL too, the console through a node that owns no run, longer pauses in typing;
# the Debian package built, installed, at work and removed.
test-long: console
	deploy/try-package.sh
	AnalyzeTests=true GATECHAIN_ON_POSTGRES= GATECHAIN_CLUSTER=1 GATECHAIN_KILLS=200 GATECHAIN_RANDOM=3 GATECHAIN_FUZZ=50 GATECHAIN_PAUSES=50,150,400,2000 tests/run.sh

# The program with all that it needs, under PREFIX: bin/gatechain, its folder in lib/, manual page, completion, and a
# unit for systemd. DESTDIR is for packages.
PREFIX ?= /usr/local
install: console
	deploy/install.sh "$(PREFIX)" "$(DESTDIR)"

# A Debian package, in artifacts/.
package: console
	mkdir -p artifacts
	deploy/package.sh artifacts

bench: build
	dotnet run --project bench/GateChain.Bench -c Release

# Pictures for the README, made from the demo data.
pictures: build
	demo/pictures.sh

# The API's description and the console's types that are made from it.
api: build
	tests/api.sh

# The parts of docs/ that are made from the catalogues of functions, problems, kinds and connections.
docs:
	dotnet build tests/GateChain.Core.Tests -c $(CONFIG) -v quiet
	GATECHAIN_WRITE_DOCS=1 artifacts/bin/GateChain.Core.Tests/$$(tr A-Z a-z <<< $(CONFIG))/GateChain.Core.Tests -noColor -noLogo -class "*CatalogueDocsTests"
	dotnet build tests/GateChain.Kinds.Tests -c $(CONFIG) -v quiet
	GATECHAIN_WRITE_DOCS=1 artifacts/bin/GateChain.Kinds.Tests/$$(tr A-Z a-z <<< $(CONFIG))/GateChain.Kinds.Tests -noColor -noLogo -class "*KindDocsTests"

clean:
	rm -rf artifacts console/dist console/node_modules demo/out
