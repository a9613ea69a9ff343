# Ensayo: see `make help`.

.PHONY: help setup setup-test setup-check setup-site install demo test test-long test-core sanitize battery check bench ratio document site screenshots clean

core-build = $${CXX:-g++} -std=c++17 -Wall -Wextra -pedantic -pthread
core-tests = $(filter-out tests/core/battery.cpp,$(wildcard tests/core/*.cpp))
core-objects = $(patsubst src/core/%.cpp,build/core/%.o,$(wildcard src/core/*.cpp))

build/core/%.o: src/core/%.cpp $(wildcard src/core/*.h)
	@mkdir -p build/core
	@$(core-build) -O2 -c $< -o $@

help: ## this list
	@awk -F ':.*## ' '/^[a-z-]+:.*## / {printf "  make %-12s %s\n", $$1, $$2}' $(MAKEFILE_LIST)

setup:
	@Rscript tools/setup.R run

setup-test:
	@Rscript tools/setup.R test

setup-check:
	@Rscript tools/setup.R check

setup-site:
	@Rscript tools/setup.R site

install: setup ## install what is missing, the package, and the `ensayo` command
	@sh tools/install.sh

demo: install ## install, then rehearse the demo study; the result is in ensayo-demo/
	@Rscript -e 'quit(status = ensayo::cli_main(c("demo", "--out", "ensayo-demo", "--force")))'

test: setup-test ## install, then run all tests; the last line counts them
	@sh tools/install.sh
	@Rscript tools/test.R

test-core: $(core-objects) ## the C++ core's own tests alone, without R
	@$(core-build) -O2 $(core-tests) $(core-objects) -o build/core-tests
	@$(core-build) -O2 tests/core/battery.cpp $(core-objects) -o build/battery
	@build/core-tests
	@build/battery 1e7

sanitize: ## the core's tests under address, undefined-behaviour and thread sanitizers
	@mkdir -p build
	@$(core-build) -O1 -g -fsanitize=address,undefined -fno-sanitize-recover=all $(core-tests) src/core/*.cpp -o build/core-sanitized
	@build/core-sanitized
	@$(core-build) -O1 -g -fsanitize=thread $(core-tests) src/core/*.cpp -o build/core-threads
	@build/core-threads

battery: $(core-objects) ## the uniform numbers' statistical tests on 300 million words and more; writes bench/battery.txt
	@$(core-build) -O2 tests/core/battery.cpp $(core-objects) -o build/battery
	@build/battery 3e8 | tee bench/battery.txt

test-long: install ## thousands of laws and study files made at random; hours; writes bench/long.txt
	@Rscript tests/long/run.R | tee bench/long.txt

check: setup-check ## R CMD check as for a submission
	@sh tools/check.sh

bench: install ## ratios against plain R, side by side in one run
	@Rscript bench/draws.R
	@Rscript bench/whole.R
	@Rscript bench/inputs.R
	@Rscript bench/readings.R
	@Rscript bench/drivers.R
	@Rscript bench/stopping.R
	@Rscript bench/graph.R
	@Rscript bench/formulas.R
	@Rscript bench/steps.R
	@Rscript bench/folder.R
	@Rscript bench/programs.R
	@Rscript bench/compound.R
	@Rscript bench/schedule.R
	@Rscript bench/indices.R
	@Rscript bench/surrogate.R
	@Rscript bench/suggest.R
	@Rscript bench/explore.R

ratio: ## lines of R, C++ and tests, and the tests' share
	@sh tools/ratio.sh

document: setup-check ## write NAMESPACE, man/ and the C++ glue from the sources
	@Rscript tools/document.R

site: install setup-site ## help, guides, gallery and NEWS as pages in docs/site, which work from disk
	@Rscript tools/site.R

screenshots: install ## make docs/screenshots/ again from the demo study
	@sh tools/screenshots.sh

clean: ## remove what was built
	@rm -rf build ensayo-demo *.tar.gz *.Rcheck src/*.o src/*.so src/core/*.o
