"""No bytes crash what reads answer files: every command ends in a result or a clear error."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import HealthCheck, given
from hypothesis import strategies as st

from factories import check_answers, examples, settled_file
from fairledger.cli.story import page
from fairledger.events.story import story_of
from fairledger.exchange.adopt import Manner, adopt
from fairledger.exchange.compare import compare
from fairledger.model.errors import FileTroubleError, LedgerError
from fairledger.subject.opening import Asked, looked_at

ROOT = Path(__file__).parents[2]
SEEDS = [(ROOT / "examples/stations" / name).read_bytes() for name in ("broken.xml", "broken.ks")]


@st.composite
def files(draw: st.DrawFn) -> bytes:
    """Broken, cut, doubled and mixed pieces of answer files; sometimes anything at all."""
    if draw(st.integers(0, 9)) == 0:
        return draw(st.binary(max_size=400))
    seed = draw(st.sampled_from(SEEDS))
    lines = seed.split(b"\n")
    for _ in range(draw(st.integers(1, 5))):
        at = draw(st.integers(0, len(lines) - 1))
        how = draw(st.integers(0, 4))
        if how == 0:
            del lines[at : at + draw(st.integers(1, 4))]
        elif how == 1:
            lines.insert(at, lines[draw(st.integers(0, len(lines) - 1))])
        elif how == 2:
            lines[at] = lines[at][: draw(st.integers(0, len(lines[at])))]
        elif how == 3:
            cut = draw(st.integers(0, len(lines[at])))
            lines[at] = lines[at][:cut] + draw(st.binary(min_size=1, max_size=6)) + lines[at][cut:]
        else:
            lines[at] = lines[at].replace(b"true", b"${x}").replace(b"Order", b"order").replace(b"=", b'="')
        lines = lines or [b""]
    return b"\n".join(lines)


@examples(150, suppress_health_check=[HealthCheck.too_slow])
@given(data=files())
def test_no_file_crashes_any_command(data):
    path = Path("nowhere/x.xml" if b"<" in data[:200] else "nowhere/x.ks")
    try:
        check_answers(data, str(path))
        side = settled_file(data, path)
        assert compare(side, settled_file(data, path)).same
        page(story_of(side), data)
        adopt(data, path, Path("nowhere/x.toml"), Manner(parameters=True))
    except LedgerError as error:
        assert error.message or getattr(error, "findings", None)


@pytest.mark.parametrize(
    ("text", "part"),
    [
        ("<a><b></a>", "<b> was opened in line 1"),
        ('<!DOCTYPE x [<!ENTITY a "b"><!ENTITY c "&a;&a;">]><unattend>&c;</unattend>', "document type"),
        ('<unattend xmlns="urn:schemas-microsoft-com:unattend"/><unattend/>', "not well-formed"),
        ("<html/>", "root element"),
    ],
)
def test_what_is_no_answer_file_is_told_with_its_line(text, part):
    report = check_answers(text, "x.xml")
    assert part in report.findings[0].message
    assert report.findings[0].line
    with pytest.raises(LedgerError):
        settled_file(text.encode(), Path("x.xml"))


def test_a_file_with_too_many_parts_is_refused_before_it_is_built():
    many = {
        "a.xml": '<unattend xmlns="urn:schemas-microsoft-com:unattend">' + "<a/>" * 200_001,
        "a.ks": "a\n" * 200_002,
    }
    for name, text in many.items():
        with pytest.raises(FileTroubleError, match="more than 200,000"):
            looked_at(Path(name), Asked(target="el-9" if name == "a.ks" else "windows-11-24h2"), text.encode())
