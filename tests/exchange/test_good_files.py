"""Good files of every kind go through every command without harm."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from factories import settled_file
from fairledger.authoring.mend import mend
from fairledger.cli.story import page
from fairledger.events.story import story_of
from fairledger.exchange.compare import compare
from fairledger.subject.opening import opened

FILES = sorted((Path(__file__).parents[1] / "checks" / "files").iterdir())
WINDOWS = [path for path in FILES if path.suffix == ".xml"]


def side_of_text(text: str, path: Path):
    return settled_file(text.encode(), path)


@pytest.mark.parametrize("path", FILES, ids=lambda path: path.name)
def test_nothing_is_corrected_in_a_good_file(path, tmp_path):
    copy = tmp_path / path.name
    copy.write_bytes(path.read_bytes())
    assert mend(copy).done == ()
    assert copy.read_bytes() == path.read_bytes()


@pytest.mark.parametrize("path", FILES, ids=lambda path: path.name)
def test_the_whole_of_a_file_is_explained_and_its_page_is_well_formed(path):
    text = path.read_text(encoding="utf-8")
    told = story_of(opened(path))
    rows = told.events
    quoted = "\n".join(item.quote for item in rows if item.quote)
    for line in re.findall(r"<(?:Path|CommandLine)>([^<]*)<", text):
        assert (
            line.startswith(("D:\\drivers", "\\\\lmr")) or line.replace("&amp;", "&").replace("&quot;", '"') in quoted
        )
    for body in re.findall(r"(?m)^%(?:pre|post|firstboot)\b.*\n((?:(?!%end).*\n)*)", text):
        assert all(line.rstrip("\t ") in quoted for line in body.splitlines())
    assert all(one.quote for one in rows if one.warnings)
    written = page(told, path.read_bytes())
    assert "<script" not in written
    assert not re.search(r"(?:src|href)=[\"']?(?!#)", written)


@pytest.mark.parametrize("path", WINDOWS, ids=lambda path: path.name)
def test_prefixes_comments_and_line_ends_change_nothing(path):
    text = path.read_text(encoding="utf-8")
    names = re.sub(r"<(/?)(?=[A-Za-z])(?!cpi:)", r"<\1u:", text)
    others = {
        "prefix": names.replace("xmlns=", "xmlns:u="),
        "comments": re.sub(r"(<component [^>]*>)", r"\1<!-- <component> -->", text),
        "lines": text.replace("\n", "\r\n"),
        "wide": text.replace('encoding="utf-8"', 'encoding="utf-16"'),
    }
    for name, other in others.items():
        data = other.encode("utf-16") if name == "wide" else other.encode()
        found = compare(settled_file(path.read_bytes(), path), settled_file(data, path))
        assert found.differences == (), name


@pytest.mark.parametrize("path", FILES, ids=lambda path: path.name)
def test_each_change_of_a_value_is_a_difference(path):
    text = path.read_text(encoding="utf-8")
    mine = settled_file(text.encode(), path)
    for old, new in (("192.0.2.", "198.51.100."), ("keeper", "ranger"), ("en-US", "pt-PT"), ("Larkmoor", "Farmoor")):
        if old in text.replace("<!--", "").replace("# ", "#"):
            other = side_of_text(text.replace(old, new), path)
            changed = re.sub(r"(?m)^\s*#.*$|<!--.*?-->", "", text)
            assert bool(compare(mine, other).differences) == (old in changed), (old, new)
