# Everything runs in a virtual environment of its own; the first target that needs it makes it.
VENV := .venv
BIN := $(VENV)/bin
DEMO := larkmoor-demo

.PHONY: demo test lint index bench search real mutants campaign shots clean

$(VENV)/ready: pyproject.toml
	python3 -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable ".[dev]"
	$(BIN)/python -m compileall -q src
	touch $@

demo: $(VENV)/ready
	rm -rf $(DEMO)
	$(BIN)/fairledger demo --out $(DEMO)

test: $(VENV)/ready
	$(BIN)/python -m pytest

lint: $(VENV)/ready
	$(BIN)/ruff format --check src tests tools
	$(BIN)/ruff check src tests tools
	$(BIN)/mypy

index: $(VENV)/ready
	$(BIN)/python tools/build_index.py

pages: $(VENV)/ready
	$(BIN)/python tools/section_pages.py

# broken inputs and kills for so many minutes (make campaign MINUTES=10); what is found is printed and kept
campaign: $(VENV)/ready
	-$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable ".[campaign]"
	$(BIN)/python tools/campaign.py $(or $(MINUTES),10)

# properties, over many more examples than the tests take, and others each time
search: $(VENV)/ready
	EXAMPLES_TIMES=20 $(BIN)/python -m pytest -m hypothesis

# generated commands and media, run by what runs them: slow, and it installs Debian packages
REAL := wine wine64 qemu-system-x86 qemu-utils ovmf isolinux syslinux-common grub-common grub-efi-amd64-bin \
  busybox-static cpio xorriso mtools isomd5sum linux-image-amd64
real: $(VENV)/ready
	command -v wine >/dev/null && command -v grub-mkimage >/dev/null || \
	  { apt-get update -qq; DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $(REAL); }
	-$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable ".[real]"
	REAL=1 $(BIN)/python -m pytest -n 0 -rs tests/real

# beside the validator that it is held against, where that can be installed; else it says so
bench: $(VENV)/ready
	-@command -v xmllint >/dev/null || { apt-get update -qq && apt-get install -y -qq libxml2-utils >/dev/null; }
	$(BIN)/python -m compileall -q src
	$(BIN)/python tools/bench.py

mutants: $(VENV)/ready
	$(BIN)/python tools/mutate.py

shots: $(VENV)/ready
	$(BIN)/python tools/shots.py

clean:
	rm -rf $(VENV) $(DEMO)
