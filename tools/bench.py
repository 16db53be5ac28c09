"""Prints speeds as ratios of one run: whole commands against the bare interpreter's start."""

from __future__ import annotations

import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import jinja2

import media
from fairledger.checks.engine import check
from fairledger.delivery.fill import filled
from fairledger.delivery.prepare import prepare
from fairledger.subject.opening import opened_draft

ROUNDS = 15


def best(command: list[str], folder: Path, rounds: int = ROUNDS) -> float:
    """Seconds of the fastest of some runs."""
    times = []
    for _ in range(rounds):
        begin = time.perf_counter()
        subprocess.run(command, cwd=folder, capture_output=True, check=False)
        times.append(time.perf_counter() - begin)
    return min(times)


def grown(text: str, lines: int) -> str:
    """An answer file with as many commands as make it about that long."""
    item = (
        '        <RunSynchronousCommand wcm:action="add">\n          <Order>{0}</Order>\n'
        "          <Path>cmd /c echo {0}</Path>\n          <Description>Station {0}</Description>\n"
        "        </RunSynchronousCommand>\n"
    )
    mark = '      </RunSynchronous>\n    </component>\n  </settings>\n  <settings pass="oobeSystem">'
    if mark not in text:
        raise SystemExit("the demo's answer file has another shape than this benchmark expects")
    count = (lines - text.count("\n")) // 5
    return text.replace(mark, "".join(item.format(number) for number in range(100, 100 + count)) + mark)


def main() -> None:
    """Measures and prints."""
    program = [sys.executable, "-m", "fairledger"]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        subprocess.run([*program, "demo", "--out", "demo"], cwd=folder, capture_output=True, check=True)
        demo = folder / "demo" / "stations"
        write = [*program, "write", "finished.toml", "--route", "stick", "--fill", "number=01", "--out", "plain"]
        subprocess.run(
            write,
            cwd=demo,
            env={**os.environ, "LARKMOOR_KEEPER_PW": "Dunlin-4-tarn"},
            check=True,
            stdout=subprocess.DEVNULL,
        )
        text = (demo / "plain" / "autounattend.xml").read_text(encoding="utf-8")
        (demo / "long.xml").write_text(grown(text, 300), encoding="utf-8")
        bare = best([sys.executable, "-c", "pass"], demo)
        print(f"bare interpreter: {bare * 1000:.0f} ms")
        rows = (
            ("--help", ["--help"], 5),
            ("check, answer file of 300 lines", ["check", "long.xml"], 9),
            ("check, draft with four profiles", ["check", "desk.toml"], 10),
            ("check, kickstart file", ["check", "gate/ks.cfg"], 9),
            ("about", ["about", "windows-11-24h2", "TimeZone"], 10),
            ("find", ["find", "windows-11-24h2", "time", "zone"], 10),
            ("export of a whole catalog", ["export", "windows-11-24h2", "--as", "json"], None),
        )
        for told, arguments, most in rows:
            ratio = best([*program, *arguments], demo) / bare
            print(f"{told}: {ratio:.1f} times" + (f" (at most {most})" if most else ""))
        looked_into(program, folder)
        many_files(program, demo, text)
        answer_discs(program, demo)
        hundred_choices(demo, bare)
        remastered(program, demo)
        rows_of_a_roster(demo)
        roster(program, demo)


def looked_into(program: list[str], folder: Path) -> None:
    """A disc of 6 GB and 10,000 files, and an image of 100,000; the memory is that of the process that looks."""
    if media.missing():
        print(f"{', '.join(media.missing())} not installed: media are not measured")
        return
    for form in ("plain", "udf"):
        disc = media.large_disc(folder / f"{form}.iso", folder, 10_000, 6 << 30, udf=form == "udf")
        taken = best([*program, "medium", str(disc)], folder, 3)
        told = f"medium, a {form} disc of 6 GB with 10,000 files: {taken:.2f} s (at most 1.5)"
        print(f"{told}, {_most(disc)} MB (at most 150)")
    system = media.system(folder / "image", 100_000, 3_000)
    image = media.image_file(folder / "install.wim", system, media.SERVER[:1])
    environment = {**os.environ, "FAIRLEDGER_CACHE": str(folder / "cache")}
    for told in ("first", "again"):
        begin = time.perf_counter()
        command = [*program, "medium", str(image), "--index", "1"]
        subprocess.run(command, cwd=folder, env=environment, capture_output=True, check=True)
        print(f"medium --index, an image of 103,000 files, {told}: {time.perf_counter() - begin:.2f} s (at most 10)")


def _most(disc: Path) -> int:
    """Megabytes that looking into a disc takes at most."""
    code = (
        "import resource, subprocess, sys\n"
        "command = [sys.executable, '-P', '-m', 'fairledger.media.inside', sys.argv[1], '-']\n"
        "subprocess.run(command, capture_output=True)\n"
        "print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss // 1024)"
    )
    done = subprocess.run([sys.executable, "-c", code, str(disc)], capture_output=True, text=True, check=True)
    return int(done.stdout)


def many_files(program: list[str], demo: Path, text: str) -> None:
    """3,000 answer files in one call, beside a check of the same files against our exported grammar on one core."""
    whole = grown(text, 300)
    alike, unlike = demo / "alike", demo / "unlike"
    for folder in (alike, unlike):
        folder.mkdir()
    for number in range(3_000):
        named = whole.replace("LMR-DESK-01", f"LMR-DESK-{number}")
        (alike / f"{number}.xml").write_text(named, encoding="utf-8")
        own = "".join(f"<!-- {at} -->\n" for at in range(number % 40))
        (unlike / f"{number}.xml").write_text(f"{named}{own}", encoding="utf-8")
    tool = shutil.which("xmllint")
    made = subprocess.run([*program, "export", "windows-11-24h2", "--as", "relaxng"], capture_output=True, check=True)
    (demo / "grammar.rng").write_bytes(made.stdout)
    for told, folder, most in (("that differ in a value", alike, " (at most 1.2)"), ("of other lengths", unlike, "")):
        taken = best([*program, "check", folder.name, "--format", "json"], demo, 3)
        print(f"check, 3,000 answer files of 300 lines {told}: {3_000 / taken:.0f} a second, start included")
        if tool is None:
            print("xmllint (Debian: libxml2-utils) is not installed: not compared")
            continue
        names = sorted(str(path) for path in folder.iterdir())
        beside = best([tool, "--noout", "--relaxng", "grammar.rng", *names], demo, 3)
        print(f"that is {taken / beside:.2f} times what xmllint takes on one core with the exported grammar{most}")


def addressed(demo: Path) -> str:
    """The gateway's draft with room for many addresses."""
    draft = (demo / "gate.toml").read_text(encoding="utf-8")
    for old, new in (("192.0.2.${address}/24", "${address}/8"), ('gateway = "192.0.2.1"', 'gateway = "10.0.0.1"')):
        draft = draft.replace(old, new)
    return draft


def answer_discs(program: list[str], demo: Path) -> None:
    """200 answer discs from a roster, beside 200 calls of a program that makes discs."""
    count = 200
    if shutil.which("xorriso") is None:
        print("xorriso is not installed: answer discs are not measured")
        return
    rows = "".join(f"{at:05d},10.1.0.{at + 1}\n" for at in range(count))
    (demo / "discs.csv").write_text("number,address\n" + rows, encoding="utf-8")
    (demo / "discs.toml").write_text(addressed(demo), encoding="utf-8")
    command = [*program, "deliver", "discs.toml", "--roster", "discs.csv", "--to", "answer-disc:discs"]
    begin = time.perf_counter()
    subprocess.run(
        [*command, "--wipes", "disk sda"], cwd=demo, capture_output=True, check=True, env={**os.environ, **PASSWORDS}
    )
    ours = time.perf_counter() - begin
    (demo / "one").mkdir()
    shutil.copy(demo / "gate" / "ks.cfg", demo / "one" / "ks.cfg")
    bare = ["xorriso", "-as", "mkisofs", "-quiet", "-V", "OEMDRV", "-J", "-R", "-o", "one.iso", "one"]
    beside = best(bare, demo, 10) * count
    print(f"{count} answer discs from a roster: {beside / ours:.1f} times as fast as {count} calls (at least 5)")


def hundred_choices(demo: Path, bare: float) -> None:
    """A draft that makes more than 100 choices: resolved, translated, recognised and checked in this process."""
    examples = Path(__file__).parents[1] / "docs" / "profiles" / "examples"
    names = ("privacy", "desktop", "power", "protection", "updates", "remote", "input")
    text = "".join((examples / f"{name}.toml").read_text(encoding="utf-8") for name in names)
    path = demo / "hundred.toml"
    path.write_text(f'format = 1\n[draft]\ntarget = "windows-11-25h2"\n{text}', encoding="utf-8")
    times = []
    for _ in range(ROUNDS):
        begin = time.perf_counter()
        check(opened_draft(path))
        times.append(time.perf_counter() - begin)
    count = text.count(" = ")
    told = f"{count} choices resolved, translated and checked: {min(times) * 1000:.0f} ms (at most 30)"
    print(f"{told}, {min(times) / bare:.1f} times the bare start")


def remastered(program: list[str], demo: Path) -> None:
    """A disc of 1 GB made anew with the answer file, beside the bare program with the same flags."""
    if shutil.which("xorriso") is None:
        print("xorriso is not installed: remastering is not measured")
        return
    media.installer_disc(demo / "el9.iso", demo, 1 << 30)
    wipes = ["--wipes", "disk sda", "--target", "el-9", "--format", "json"]
    ours = [*program, "deliver", "gate/ks.cfg", "--to", "iso:new.iso", "--from", "el9.iso", *wipes]
    bare = ["xorriso", "-no_rc", "-indev", "el9.iso", "-outdev", "bare.iso", "-boot_image", "any", "replay"]
    bare += [
        "-joliet",
        "on",
        "-map",
        "gate/ks.cfg",
        "/ks.cfg",
        "-map",
        "gate/ks.cfg",
        "/isolinux/isolinux.cfg",
        "-commit",
    ]
    taken: dict[bool, list[float]] = {True: [], False: []}
    for _ in range(7):
        for own, command in ((True, ours), (False, bare)):
            for made in ("bare.iso", "new.iso"):
                (demo / made).unlink(missing_ok=True)
            taken[own].append(best(command, demo, 1))
    # the bare program waits in steps of its own, so that the same call takes half or twice as long
    ratio = statistics.median(taken[True]) / statistics.median(taken[False])
    print(f"a disc of 1 GB made anew: {ratio:.2f} times the bare program with the same flags (at most 1.3)")


def rows_of_a_roster(demo: Path) -> None:
    """Drafts that are prepared once and filled again and again, with all rules that depend on it; no passwords."""
    for name in ("desk", "gate", "host"):
        draft = opened_draft(demo / f"{name}.toml")
        prepared = prepare(draft, "plain", without_secrets=True)
        rows = [dict.fromkeys(prepared.blanks, str(number)) for number in range(10, 210)]
        taken = []
        for _ in range(5):
            begin = time.perf_counter()
            for values in rows:
                filled(prepared, values, None)
            taken.append((time.perf_counter() - begin) / len(rows))
        print(f"one more machine, {name}: {min(taken) * 1000:.2f} ms (at most 0.25)")


def roster(program: list[str], demo: Path) -> None:
    """A table of 10,000 gates checked and written, beside bare rendering and writing of the same files."""
    count = 10_000
    (demo / "many.toml").write_text(addressed(demo), encoding="utf-8")
    rows = [(f"{number:05d}", f"10.1.{number // 250}.{number % 250 + 1}") for number in range(count)]
    table = "number,address\n" + "".join(f"{number},{address}\n" for number, address in rows)
    (demo / "many.csv").write_text(table, encoding="utf-8")
    where = "/dev/shm" if Path("/dev/shm").is_dir() else None  # noqa: S108 - a file system in memory
    with tempfile.TemporaryDirectory(dir=where) as name:
        spent = {}
        for told in ("check", "write"):
            command = [*program, "roster", told, "many.toml", "many.csv"]
            command += ["--out", f"{name}/ours"] if told == "write" else []
            begin = time.perf_counter()
            subprocess.run(command, cwd=demo, capture_output=True, check=True, env={**os.environ, **PASSWORDS})
            spent[told] = time.perf_counter() - begin
        first = next(path for path in sorted((Path(name) / "ours").rglob("ks.cfg")))
        text = (
            first.read_text(encoding="utf-8").replace(rows[0][1], "{{ address }}").replace(rows[0][0], "{{ number }}")
        )
        template = jinja2.Environment(autoescape=False).from_string(text)  # noqa: S701 - no page
        begin = time.perf_counter()
        for number, address in rows:
            folder = Path(name) / "bare" / number
            folder.mkdir(parents=True)
            (folder / "ks.cfg").write_text(template.render(number=number, address=address), encoding="utf-8")
        bare = time.perf_counter() - begin
    print(f"roster check: {count / spent['check']:,.0f} rows a second, start included (at least 5,000)")
    ratio = bare / spent["write"]
    print(f"roster write: {count / spent['write']:,.0f} machines a second, checks and start included (at least 4,000)")
    print(f"that is {ratio:.2f} times bare rendering and writing (at least 0.08), which does {count / bare:,.0f} here")


PASSWORDS = {"LARKMOOR_KEEPER_PW": "Kestrel-7-moor", "LARKMOOR_OBSERVER_PW": "Plover-9-moor"}


if __name__ == "__main__":
    main()
