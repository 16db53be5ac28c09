"""Numbers worked out by hand."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairledger.intent.disk import Disk, Partition
from fairledger.intent.layout import laid_out, smallest
from fairledger.model.size import Size


def disk(*parts: Partition, table: str | None = "gpt") -> Disk:
    return Disk(fate="wipe", table=table, partition=parts)


def mib(size: int, **more) -> Partition:
    return Partition(size=Size(mib=size), **more)


REST = Partition(role="system", grow=True)


@pytest.mark.parametrize(
    ("layout", "size", "slices", "left"),
    [
        # 1 MiB in front and 1 behind: 1000 - 2 - 100 - 16 = 882 for the one that grows
        (disk(mib(100), mib(16), REST), 1000, [(1, 100), (101, 16), (117, 882)], 0),
        # without a copy of the table at the end one more
        (disk(mib(100), REST, table="mbr"), 1000, [(1, 100), (101, 899)], 0),
        # a quarter of 1000 is 250; 1000 - 2 - 250 = 748 are left over
        (disk(Partition(size=Size(percent=25))), 1000, [(1, 250), (251, 748)], 748),
        # two that grow share 998 evenly, the last one gets what does not divide
        (disk(REST, mib(1), REST), 1000, [(1, 498), (499, 1), (500, 499)], 0),
        # a size of its own comes on top of the share
        (disk(mib(200, grow=True), mib(100)), 1000, [(1, 898), (899, 100)], 0),
        # 998 are to be had, 1100 are wanted
        (disk(mib(600), mib(500)), 1000, [(1, 600), (601, 500)], -102),
        # what exists already is not made
        (disk(mib(100, made=False), mib(300)), 1000, [(1, 300), (301, 698)], 698),
    ],
)
def test_partitions_lie_where_they_should(layout, size, slices, left):
    found = laid_out(layout, size)
    assert [(one.start, one.mib) for one in found.slices] == slices
    assert found.left == left


@pytest.mark.parametrize(
    ("layout", "least"),
    [
        (disk(mib(100), mib(16), REST), 119),
        (disk(mib(998)), 1000),
        (disk(mib(498), Partition(size=Size(percent=50))), 1000),
        (disk(Partition(size=Size(percent=100))), 0),
        (disk(), 2),
    ],
)
def test_the_smallest_disk_is_just_enough(layout, least):
    assert smallest(layout) == least


@given(st.lists(st.builds(mib, st.integers(1, 9000), grow=st.booleans()), max_size=5), st.integers(1, 99999))
def test_nothing_overlaps_and_nothing_is_lost(parts, extra):
    layout = disk(*parts)
    found = laid_out(layout, smallest(layout) + extra)
    at = 1
    for one in found.slices:
        assert one.start == at
        at += one.mib
    assert at == found.mib - 1
    assert found.left >= 0
