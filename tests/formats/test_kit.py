"""A kit as CSV: 200 pieces in one step, rows that are none told by their number, and out again as it came in."""

import pytest

from fotaxis.core.errors import DomainError, FormatError
from fotaxis.core.lights.kit import KINDS, piece
from fotaxis.formats import kit_csv
from tests.formats.samples import DEMO


def test_two_hundred_pieces_in_one_step():
    rows = [f"card,White {i},{1 + i % 3},,white,{50 + i},70" for i in range(200)]
    pieces, wrong = kit_csv.parse("\n".join(["kind,name,count,energy_ws,finish,width_cm,height_cm", *rows]).encode())
    assert (len(pieces), wrong) == (200, [])
    assert pieces[7].number("width_cm") == 57
    assert pieces[7].values["finish"] == "white"


def test_out_and_in_again_is_the_same():
    pieces, wrong = kit_csv.parse((DEMO / "kit.csv").read_bytes())
    assert wrong == []
    assert {one.kind for one in pieces} == set(KINDS)
    again, _ = kit_csv.parse(kit_csv.write(pieces).encode())
    assert [(a.kind, a.name, a.count) for a in again] == [(b.kind, b.name, b.count) for b in pieces]
    for a, b in zip(again, pieces, strict=True):
        assert a.values == {
            name: pytest.approx(value) if isinstance(value, float) else value for name, value in b.values.items()
        }


ROWS = {
    "head,Mono,1,five hundred,": "Row 3: energy_ws is 'five hundred', which is no number; write it in Ws.",
    "head,Mono,0,500,": "Row 3: count is 0; it must be 1 to 500.",
    "head,,1,500,": "Row 3: name is ''; give it 1 to 60 characters.",
    "torch,Mono,1,500,": "Row 3: kind is 'torch'; it is one of head",
    "head,Mono,1,-3,": "Row 3: energy_ws is -3 Ws; it must be 1 to 20000 Ws.",
    "head,Mono,1,500,4": "Row 3: steps_per_stop is '4'; it is one of 1, 2, 3, 10.",
    "stand,Boom,1,500,": "Row 3: a stand has no 'energy_ws'",
    "head,Mono,1,500,3,more": "Row 3: 6 cells under 5 columns",
}


@pytest.mark.parametrize("row", ROWS)
def test_a_row_that_is_none_is_told_and_the_others_are_kept(row):
    table = "\n".join(["kind,name,count,energy_ws,steps_per_stop", "head,First,2,400,3", row, "head,Last,1,250,10"])
    pieces, wrong = kit_csv.parse(table.encode())
    assert [one.name for one in pieces] == ["First", "Last"]
    assert len(wrong) == 1
    assert wrong[0].startswith(ROWS[row])


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"), (b"\xff\xfe\x00", "UTF-8"), (b"what,why\n1,2", "must name the columns"),
        (b"kind,name,price\nhead,Mono,3", "no column 'price'"), (b"x" * 1_000_001, "bytes"),
    ],
)  # fmt: skip
def test_a_file_that_is_none_is_refused(data, words):
    with pytest.raises(FormatError, match=words):
        kit_csv.parse(data)


def test_decimal_commas_and_semicolons_as_spreadsheets_write_them():
    pieces, wrong = kit_csv.parse(b"kind;name;count;weight_kg;duration_s\r\nhead;Mono;1;2,6;1/1100\r\n")
    assert wrong == []
    assert pieces[0].number("weight_kg") == 2.6
    assert pieces[0].number("duration_s") == pytest.approx(1 / 1100)
    assert "1/1100 s" in pieces[0].words


def test_names_that_a_spreadsheet_would_compute_are_written_as_words():
    text = kit_csv.write([piece("card", "=1+1", 1, {})])
    assert "'=1+1" in text
    assert kit_csv.parse(text.encode())[0][0].name == "=1+1"


def test_a_number_must_be_one():
    with pytest.raises(DomainError, match="must be"):
        piece("lens", "Macro", 1, {"focal_mm": "inf"})
