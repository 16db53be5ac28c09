"""Names that are nearly other names."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairledger.model.suggest import slipped


@pytest.mark.parametrize("slip", ["whell", "hweel", "wheeel", "whel", "wheelx", "eheel"])
def test_one_slip_of_the_finger(slip):
    assert slipped(slip, ["users", "wheel"]) == "wheel"


@given(st.text("abcd", min_size=3, max_size=7), st.data())
def test_every_single_slip_is_noticed_and_names_are_none(name, data):
    at = data.draw(st.integers(0, len(name) - 1))
    changed = {
        name[:at] + "z" + name[at + 1 :],
        name[:at] + "z" + name[at:],
        name[:at] + name[at + 1 :],
        name[:at] + name[at : at + 2][::-1] + name[at + 2 :],
    }
    for word in changed - {name}:
        assert slipped(word, [name]) == ("" if len(word) < 3 else name)
    assert slipped(name, [name, name + "z"]) == ""


@pytest.mark.parametrize("far", ["wh", "heelw", "wheelies", "", "users"])
def test_what_is_far_from_a_name_or_is_one(far):
    assert slipped(far, ["users", "wheel"]) == ""
