# Ensayo: see `make help`.

.PHONY: help setup setup-test setup-check install demo test test-core check bench ratio document screenshots clean

help: ## this list
	@awk -F ':.*## ' '/^[a-z-]+:.*## / {printf "  make %-12s %s\n", $$1, $$2}' $(MAKEFILE_LIST)

setup:
	@Rscript tools/setup.R run

setup-test:
	@Rscript tools/setup.R test

setup-check:
	@Rscript tools/setup.R check

install: setup ## install what is missing, the package, and the `ensayo` command
	@sh tools/install.sh

demo: install ## install, then rehearse the demo study; the result is in ensayo-demo/
	@Rscript -e 'quit(status = ensayo::cli_main(c("demo", "--out", "ensayo-demo", "--force")))'

test: setup-test ## install, then run all tests; the last line counts them
	@sh tools/install.sh
	@Rscript tools/test.R

test-core: ## the C++ core's own tests alone, without R
	@mkdir -p build
	@$${CXX:-g++} -std=c++17 -O2 -Wall -Wextra -pedantic tests/core/run.cpp src/core/*.cpp -o build/core-tests
	@build/core-tests

check: setup-check ## R CMD check as for a submission
	@sh tools/check.sh

bench: install ## ratios against plain R, side by side in one run
	@Rscript bench/bench.R
	@Rscript bench/inputs.R

ratio: ## lines of R, C++ and tests, and the tests' share
	@sh tools/ratio.sh

document: setup-check ## write NAMESPACE, man/ and the C++ glue from the sources
	@Rscript tools/document.R

screenshots: install ## make docs/screenshots/ again from the demo study
	@sh tools/screenshots.sh

clean: ## remove what was built
	@rm -rf build ensayo-demo *.tar.gz *.Rcheck src/*.o src/*.so src/core/*.o
