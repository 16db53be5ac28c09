"""Tables: whatever program wrote them, each cell is the text that stands there."""

from __future__ import annotations

import openpyxl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairledger.fleet.begin import counted, names_of
from fairledger.fleet.names import address, alike, unfit
from fairledger.fleet.opening import open_table
from fairledger.fleet.table import Number, runs, table_text
from fairledger.model.addresses import hardware_address
from fairledger.model.errors import FileTroubleError, WrongUseError


def opened(path, data, encoding=None):
    path.write_bytes(data if isinstance(data, bytes) else data.encode())
    table = open_table(path, encoding)
    return table.head, [row.cells for row in table], [(one.line, one.told) for one in table.faults]


@pytest.mark.parametrize("sign", [",", ";", "\t"])
@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16"])
def test_separators_and_encodings_are_found(tmp_path, sign, encoding):
    text = f'name{sign}town\r\n007{sign}"a{sign} ""b""\nc"\r\n'
    head, rows, faults = opened(tmp_path / "t.csv", text.encode(encoding))
    assert (head, rows, faults) == (("name", "town"), [("007", f'a{sign} "b"\nc')], [])


def test_other_encodings_are_named(tmp_path):
    data = "name\nÉvora\n".encode("cp1252")
    assert opened(tmp_path / "t.csv", data, "cp1252")[1] == [("Évora",)]
    with pytest.raises(FileTroubleError, match=r"not UTF-8 text") as caught:
        opened(tmp_path / "t.csv", data)
    assert caught.value.line == 2
    for wrong in ("nonsense", "base64"):
        with pytest.raises((WrongUseError, FileTroubleError)):
            opened(tmp_path / "t.csv", data, wrong)


def test_rows_that_are_none_are_told_with_their_lines_and_the_others_kept(tmp_path):
    text = 'a,b\n1,"x\ny"\n2\n\n,\n3,4,5\n6,7\n'
    _, rows, faults = opened(tmp_path / "t.csv", text)
    assert rows == [("1", "x\ny"), ("6", "7")]
    assert faults == [
        (4, "the row has 1 cells, and the head has 2"),
        (6, "the row is empty"),
        (7, "the row has 3 cells, and the head has 2"),
    ]


@pytest.mark.parametrize(
    ("data", "told"),
    [
        ("", "the table is empty"),
        ("\n,\n", "the table is empty"),
        ("a,a\n", "2 columns are named 'a'"),
        ("a,,b\n", "a column has no name"),
        ('a\n"b\n', "a quote is opened here and never closed"),
        ("a\n\0\n", "holds a NUL"),
        ("a\n" + "x" * 200_000, "a cell holds more than 131,072 characters"),
        (",".join(f"c{at}" for at in range(1_001)), "more than 1,000 columns"),
    ],
)
def test_what_is_no_table_is_refused_in_a_line(tmp_path, data, told):
    with pytest.raises(FileTroubleError, match=told):
        opened(tmp_path / "t.csv", data)


def test_a_spreadsheets_cells_are_texts_and_its_numbers_are_known(tmp_path):
    book = openpyxl.Workbook()
    for row in (["serial", "number"], ["007", 7], [None, None], ["1E5", 12345678901234567890]):
        book.active.append(row)
    book.save(tmp_path / "t.xlsx")
    table = open_table(tmp_path / "t.xlsx")
    (one, two) = [row.cells for row in table]
    assert (table.head, one[0], two[0]) == (("serial", "number"), "007", "1E5")
    assert isinstance(one[1], Number)
    assert one[1] == "7"
    assert not isinstance(one[0], Number)
    (tmp_path / "t.xlsx").write_bytes(b"PK\x03\x04nothing")
    with pytest.raises(FileTroubleError, match="no spreadsheet"):
        open_table(tmp_path / "t.xlsx")


@given(st.lists(st.lists(st.text(st.characters(exclude_characters="\0\r", codec="utf-8")), min_size=2, max_size=2)))
def test_what_is_written_is_read_again(tmp_path_factory, rows):
    kept = [row for row in rows if any(row)]
    path = tmp_path_factory.mktemp("t") / "t.csv"
    path.write_text(table_text(("a", "b"), kept), encoding="utf-8", newline="")
    assert [list(row.cells) for row in open_table(path)] == kept


@pytest.mark.parametrize(
    ("cell", "formula"),
    [("=1", True), ("@x", True), ("+a", True), ("-x", True), ("-7", False), ("+3.5", False), ("a=", False)],
)
def test_what_a_spreadsheet_would_run(cell, formula):
    assert runs(cell) == formula


@pytest.mark.parametrize(
    ("name", "why"),
    [
        *[(name, "") for name in ("LMR-1", "lmr.example", "com10", "nulla", "Évora")],
        *[(name, "device") for name in ("con", "NUL.txt", "Com1", "aux ")],
        *[(name, "holds") for name in ("a/b", "a\\b", "a:b", "a\nb", "a\u202eb")],
        *[("..", "dot"), (".a", "dot"), ("a.", "dot"), (" a", "blank"), ("", "empty"), ("a" * 300, "longer")],
    ],
)
def test_names_of_folders(name, why):
    told = unfit(name)
    assert bool(told) == bool(why)
    assert why == "" or why in told or name == "aux "


def test_one_thing_in_several_spellings():
    assert alike("LMR-Gate-\uff13") == alike("lmr-gate-3")
    assert hardware_address("02-00-00-AA-bb-01") == hardware_address("0200.00aa.bb01") == "020000aabb01"
    assert hardware_address("eno1") is None
    assert address("2001:DB8:0::1/64") == address("2001:db8::1") != address("2001:db8::2")
    assert address("::ffff:192.0.2.1") == address("192.0.2.1/24") == "192.0.2.1"


def test_names_and_values_are_counted_up():
    assert names_of("lmr-{08..11}") == ("lmr-08", "lmr-09", "lmr-10", "lmr-11")
    assert names_of("a{9..10}") == ("a9", "a10")
    for wrong in ("a", "a{3..1}", "{1..2}{1..2}", "a{x..y}", "{1..2}}"):
        with pytest.raises(WrongUseError):
            names_of(wrong)
    for start, second in (
        ("192.0.2.9/24", "192.0.2.10/24"),
        ("2001:db8::9", "2001:db8::a"),
        ("a09", "a10"),
        ("9", "10"),
    ):
        assert next(one for at, one in enumerate(counted(start)) if at) == second
    assert next(one for at, one in enumerate(counted("02:00:00:00:00:ff")) if at) == "02:00:00:00:01:00"
    with pytest.raises(WrongUseError, match="has no more addresses"):
        list(counted("192.0.2.250/24"))
