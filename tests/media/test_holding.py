"""What images really hold: on every kind of medium the same, and told only as far as it is known."""

from __future__ import annotations

import json
import shutil

import pytest
from hypothesis import given
from hypothesis import strategies as st

from factories import examples
from fairledger.catalog.catalog import Catalog
from fairledger.media import imagestore, kept, skeleton
from fairledger.media.facts import facts_of, read_facts, text_of
from fairledger.media.holding import held_in, image_of
from fairledger.media.imagestore import abbreviated
from fairledger.media.medium import look_at
from fairledger.model.errors import FileTroubleError, LedgerError, WrongUseError
from fairledger.model.holdings import HeldFacts, ImageFacts, MediumFacts, TreeFacts

from .making import (
    BOMB,
    BUILD,
    NEEDS_GENISOIMAGE,
    NEEDS_MTOOLS,
    NEEDS_WIMLIB,
    NEEDS_XORRISO,
    bridge,
    disc,
    folder,
    image_file,
    run,
    stick,
    system,
)

DRAFT = """format = 1
[draft]
target = "windows-11-24h2"
medium = "{0}"
[image]
edition = "Pro"
[features]
on = ["TelnetClient", "NetFx3"]
[answers.specialize.Microsoft-Windows-UnattendedJoin.Identification]
JoinWorkgroup = "GAUGES"
"""


@pytest.fixture(autouse=True)
def cache(monkeypatch, tmp_path):
    monkeypatch.setenv("FAIRLEDGER_CACHE", str(tmp_path / "cache"))


def held(path, index=1):
    medium = look_at(path)
    return held_in(medium, image_of(facts_of(medium), index))


@NEEDS_WIMLIB
@NEEDS_GENISOIMAGE
@NEEDS_XORRISO
@NEEDS_MTOOLS
def test_an_image_holds_the_same_wherever_it_lies(tmp_path, monkeypatch):
    wim = image_file(tmp_path / "install.wim", system(tmp_path / "system"), "Windows 11 Pro", "Windows 11 Home")
    told = held(wim)
    assert told.components == {
        BUILD: ("Microsoft-Windows-Shell-Setup", "Microsoft-Windows-TerminalServices-LocalSessionManager")
    }
    assert told.others == 1
    assert "Microsoft-Windows-UnattendedJoin" in told.lacking
    assert (told.features, told.apps) == (("Gauges", "Mast", "TFTP", "TelnetClient"), ("Microsoft.WindowsCalculator",))
    assert told.packages == ("Larkmoor-Gauges-Package", "Larkmoor-Mast-Package", "Microsoft-Windows-Foundation-Package")
    assert (told.answers, told.problems) == (("/Windows/Panther/Unattend.xml",), ())
    esd = image_file(tmp_path / "b.wim", tmp_path / "system", "Windows 11 Pro", solid=True)
    run("wimlib-imagex", "split", wim, tmp_path / "part.swm", "0.002")
    assert (tmp_path / "part2.swm").exists()
    plain = folder(tmp_path / "plain", {"Sources/Install.wim": wim.read_bytes()})
    monkeypatch.setattr(kept, "kept_or", None)
    copied = []
    take = skeleton.Skeleton.take
    monkeypatch.setattr(skeleton.Skeleton, "take", lambda one, *range_: (copied.append(range_[1]), take(one, *range_)))
    monkeypatch.setattr("fairledger.media.holding.kept_or", lambda _, look: look())
    for path in (
        esd,
        tmp_path / "part.swm",
        plain,
        bridge(tmp_path / "udf.iso", plain, "A"),
        disc(tmp_path / "rock.iso", plain, "A"),
        stick(tmp_path / "stick.img", plain, "A", table="dos"),
    ):
        again = held(path)
        assert (again.components, again.lacking, again.features) == (told.components, told.lacking, told.features), path
        assert (again.apps, again.packages, again.answers) == (told.apps, told.packages, told.answers)
    assert 0 < max(copied) < wim.stat().st_size
    together = folder(tmp_path / "together", {"sources/install.esd": esd.read_bytes()})
    solid = held(disc(tmp_path / "solid.iso", together, "A"))
    assert solid.components == told.components
    assert solid.features is None
    assert "name the image file itself" in solid.problems[0]


@NEEDS_WIMLIB
def test_a_file_is_checked_against_the_image_or_the_facts_of_it(program):
    image_file(program.folder / "install.wim", system(program.folder / "system"), "Windows 11 Home", "Windows 11 Pro")
    program.file("desk.toml", DRAFT.format("media/install.wim"))
    (program.folder / "media").mkdir()
    (program.folder / "install.wim").rename(program.folder / "media" / "install.wim")
    made = program("medium", "media/install.wim", "--index", "2", "--facts", "media/pro.toml").stdout
    assert "wrote media/pro.toml" in made
    assert (program.folder / "media" / "pro.toml").stat().st_size < 20_000
    for more in ((), ("--medium", "media/pro.toml")):
        told = json.loads(program("check", "desk.toml", *more, "--format", "json", status=1).stdout)["files"][0]
        found = {(one["rule"], one["severity"]) for one in told["findings"]}
        assert {("component-not-in-image", "error"), ("feature-not-in-image", "warning")} <= found
        assert ("medium-unknown", "advice") not in found
        assert sum("NetFx3" in one["message"] for one in told["findings"]) == 1 + ("feature-source" in dict(found))
    program("medium", "media/install.wim", "--facts", "media/bare.toml")
    bare = program("check", "desk.toml", "--medium", "media/bare.toml", "--only", "medium-unknown").stdout
    assert "nobody looked into image 2 of install.wim" in bare
    assert "nobody looked into image 2" in program("show", "desk.toml", "--medium", "media/bare.toml").stdout
    shown = json.loads(program("show", "desk.toml", "--format", "json").stdout)["medium"]
    assert (shown["image"]["edition"], shown["looked_into"]) == ("Pro", True)
    assert "no component Microsoft-Windows-UnattendedJoin" in program("explain", "desk.toml").stdout
    found = program("find", "windows-11-24h2", "telnet", "--medium", "media/pro.toml").stdout
    assert "TelnetClient  feature on install.wim" in found
    about = program("about", "windows-11-24h2", "JoinWorkgroup", "--medium", "media/pro.toml").stdout
    assert "not in the image on install.wim" in about
    assert (
        "Pro"
        in program(
            "start",
            "new.toml",
            "--medium",
            "media/pro.toml",
            "--edition",
            "windows 11-pro",
            "--target",
            "windows-11-24h2",
        ).stdout
    )
    assert program("values", "edition", "--medium", "media/pro.toml").stdout.split() == ["Home", "Pro"]
    assert "say which with --index" in program("values", "app", "--medium", "media/install.wim").stdout
    (program.folder / "media" / "install.wim").unlink()
    lost = program("check", "desk.toml", "--only", "medium-unknown").stdout
    assert "nothing is checked against the medium media/install.wim: there is no such file" in lost


@NEEDS_WIMLIB
def test_without_the_program_nothing_is_made_up_and_what_was_seen_is_remembered(program, tmp_path):
    wim = image_file(program.folder / "install.wim", system(tmp_path / "system"), "Windows 11 Pro")
    bare = {"PATH": str(tmp_path / "nowhere")}
    told = program("medium", "install.wim", "--index", "1", status=3, **bare).stderr
    assert "wimlib-imagex is not installed; install wimlib (Debian: wimtools)" in told
    program.file("desk.toml", DRAFT.format("install.wim"))
    unknown = program.any("check", "desk.toml", "--format", "json", **bare).stdout
    assert "nobody looked into image 1: the program wimlib-imagex is not installed" in unknown
    assert "component-not-in-image" not in unknown
    assert (
        "no image 7; there are: 1 Windows 11 Pro" in program("medium", "install.wim", "--index", "7", status=2).stderr
    )
    first = program("medium", "install.wim", "--index", "1").stdout
    assert program("medium", "install.wim", "--index", "1", **bare).stdout == first
    (one,) = (program.folder / "cache").iterdir()
    assert one.stat().st_mode & 0o077 == 0 or one.stat().st_mode & 0o200 == 0
    one.write_bytes(one.read_bytes()[:-1] + b"?")
    assert "is not installed" in program("medium", "install.wim", "--index", "1", status=3, **bare).stderr
    run("wimlib-imagex", "append", tmp_path / "system", wim, "Another")
    program("medium", "install.wim", "--index", "1", status=3, **bare)
    assert "forgot what 1 image held" in program("medium", "--forget").stdout
    assert not [*(program.folder / "cache").iterdir()]


@NEEDS_WIMLIB
@pytest.mark.parametrize(
    "text", [BOMB.encode(), b"<?xml version='1.0'?><a>", "<?xml version='1.0'?><a/>".encode("utf-16"), b""]
)
def test_one_manifest_that_cannot_be_read_leaves_the_features_unknown(tmp_path, text):
    name = "Windows/servicing/Packages/Larkmoor-Odd-Package~31~amd64~~1.0.0.0.mum"
    folder(system(tmp_path / "system"), {name: text})
    told = held(image_file(tmp_path / "install.wim", tmp_path / "system", "Windows 11 Pro"))
    assert told.features is None
    assert [one.partition(" manifests ")[0] for one in told.problems] == ["of its 4 package"]


@NEEDS_WIMLIB
def test_a_program_that_lies_on_the_medium_is_never_run(program):
    image_file(program.folder / "install.wim", system(program.folder / "system"), "Windows 11 Pro")
    folder(program.folder, {"wimlib-imagex": "#!/bin/sh\necho run > run.txt\n", "sub/wimlib-imagex": "#!/bin/sh\n"})
    (program.folder / "wimlib-imagex").chmod(0o755)
    for path in (".", "", "sub/.."):
        program("medium", "install.wim", "--index", "1", status=3, PATH=path)
    assert not (program.folder / "run.txt").exists()
    odd = program.folder / "-o.wim"
    (program.folder / "install.wim").rename(odd)
    assert "TelnetClient" in program("medium", "--index", "1", "--", "-o.wim").stdout


def test_releases_of_a_later_version_are_unknown_and_said(program):
    program.file("a.toml", 'format = 1\n[medium]\nname = "a.iso"\nfamily = "windows"\ntargets = ["windows-12-30h2"]\n')
    told = json.loads(program("medium", "a.toml", "--format", "json").stdout)
    assert (told["system"]["target"], told["system"]["candidates"]) == (None, [])
    assert told["problems"] == ["it is said to install windows-12-30h2, which this version does not know"]
    assert "nobody knows what" in program("start", "b.toml", "--medium", "a.toml", status=2).stderr


def test_only_so_much_is_kept(tmp_path, monkeypatch):
    monkeypatch.setattr(kept, "MOST_KEPT", 3)
    for at in range(6):
        kept.kept_or(f"{at}", imagestore.Stored)
    assert len([*kept.folder().iterdir()]) == 3
    kept.kept_or("sick", lambda: imagestore.Stored(problems=("half",)))
    assert not (kept.folder() / "sick.held").exists()


@NEEDS_WIMLIB
def test_what_another_program_cannot_read_is_one_line(tmp_path, monkeypatch):
    wim = image_file(tmp_path / "install.wim", system(tmp_path / "system"), "Windows 11 Pro")
    data = bytearray(wim.read_bytes())
    place = int.from_bytes(data[56:64], "little")
    data[place : place + 400] = b"\xff" * 400
    wim.write_bytes(data)
    with pytest.raises(FileTroubleError, match="the image cannot be looked into"):
        held(wim)
    inner = folder(tmp_path / "plain", {"sources/install.wim": bytes(data)})
    if shutil.which("xorriso"):
        with pytest.raises(FileTroubleError):
            held(disc(tmp_path / "a.iso", inner, "A"))
    monkeypatch.setattr(imagestore, "MOST_LISTED", 10)
    good = image_file(tmp_path / "good.wim", tmp_path / "system", "Windows 11 Pro")
    with pytest.raises(FileTroubleError, match="longer than any image has"):
        held(good)


def test_names_are_abbreviated_as_the_store_does_it_and_none_of_the_catalog_stands_for_two():
    assert abbreviated("Microsoft-Windows-International-Core-WinPE") == "microsoft-windows-i..national-core-winpe"
    assert abbreviated("Microsoft-Windows-International-Core") == "microsoft-windows-international-core"
    names = Catalog("windows").names()
    assert len({abbreviated(one) for one in names}) == len(names)


def test_one_number_on_two_files_is_not_guessed_at():
    images = [ImageFacts(index=1, file=f"{arch}/sources/install.wim", installation="Client") for arch in ("x64", "x86")]
    with pytest.raises(WrongUseError, match="each have an image 1"):
        image_of(MediumFacts(name="both.iso", images=tuple(images)), 1)


WORDS = st.text(st.characters(exclude_categories=["Cs"]), max_size=12)
NAMES = st.none() | st.lists(WORDS, max_size=3).map(tuple)
HELD = st.builds(
    HeldFacts,
    image=st.integers(0, 99),
    components=st.none() | st.dictionaries(WORDS, st.lists(WORDS, max_size=2).map(tuple), max_size=2),
    lacking=NAMES,
    features=NAMES,
    others=st.none() | st.integers(0, 9999),
)
FACTS = st.builds(
    MediumFacts,
    name=WORDS,
    label=st.none() | WORDS,
    size=st.none() | st.integers(0, 1 << 60),
    languages=NAMES,
    images=st.none()
    | st.lists(st.builds(ImageFacts, index=st.integers(0, 9), name=st.none() | WORDS), max_size=2).map(tuple),
    held=st.lists(HELD, max_size=2).map(tuple),
    tree=st.builds(TreeFacts, groups=NAMES, packages=NAMES),
    problems=st.lists(WORDS, max_size=2).map(tuple),
)


@examples(60)
@given(facts=FACTS)
def test_facts_come_back_from_their_file_whatever_stands_in_them(tmp_path_factory, facts):
    path = tmp_path_factory.getbasetemp() / "facts.toml"
    path.write_text(text_of(facts), encoding="utf-8", newline="")
    assert read_facts(path) == facts


@examples(40)
@given(
    text=st.text(max_size=40)
    | st.sampled_from(["format = 2\n[medium]\n", "format = 1\n[medium]\nlabel = 5\n", "a = " + "[" * 900])
)
def test_what_is_no_file_of_facts_is_refused_in_one_line(tmp_path_factory, text):
    path = tmp_path_factory.getbasetemp() / "none.toml"
    path.write_text(text, encoding="utf-8", errors="ignore")
    with pytest.raises(LedgerError) as caught:
        read_facts(path)
    assert "\n" not in caught.value.sentence()
