"""`./jay bench [NAME …] [--minutes N]`: prints each ratio with what was hoped for, medians of a few runs in turn.

`./jay bench sitting --minutes N --seed S` is the user who never tires (benchmarks/sitting.py).
"""

from __future__ import annotations

import argparse
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from benchmarks import material, ours, yardstick
from jaylantern.support.malloc import keep_freed_memory

RUNS = 3
HALF_N = 150 * 48_000  # two and a half minutes


def timed(work: Callable[[], object]) -> float:
    """Seconds one call takes. What was written before is on the disk first, so that nobody pays for another's file."""
    os.sync()
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def side_by_side(a: Callable[[], object], b: Callable[[], object], runs: int = RUNS) -> tuple[float, float]:
    """Median seconds of two works run in turn."""
    pairs = [(timed(a), timed(b)) for _ in range(runs)]
    first, second = zip(*pairs, strict=True)
    return statistics.median(first), statistics.median(second)


def say(name: str, figure: str, hoped: str) -> None:
    """One line of the result."""
    print(f"{name:<78} {figure:<34} {hoped}", flush=True)


def written(folder: Path, minutes: int) -> tuple[Path, Path]:
    """Talk and bed of so many minutes, as files."""
    talk = material.write_programme(folder / f"talk {minutes}.wav", minutes=minutes, make=material.talk_minute)
    return talk, material.write_programme(folder / f"bed {minutes}.wav", minutes=minutes)


def analysis(folder: Path, minutes: int) -> None:
    _, bed = written(folder, minutes)
    mine, theirs = side_by_side(lambda: ours.analyse(bed), lambda: yardstick.loudness_with_true_peak(bed))
    say(f"one-pass analysis of {minutes} min : ffmpeg loudness + true peak",
        f"{mine / theirs:.3f}  ({mine:.2f} s : {theirs:.2f} s)", "≤ 0.25")  # fmt: skip


def render(folder: Path, minutes: int) -> None:
    talk, bed = written(folder, minutes)
    hot = material.write_programme(folder / f"hot {minutes}.wav", minutes=minutes, gain=1.9)
    for what, above, hoped in (("film", talk, "≤ 0.30"), ("limiter at work throughout", hot, "≤ 0.30")):
        one, two = ours.to_raw(above, folder / "one.raw"), ours.to_raw(bed, folder / "two.raw")
        mine, theirs = side_by_side(
            lambda one=one, two=two: ours.render(one, two, folder / "mine.wav"),
            lambda above=above: yardstick.volume_mix_limit(above, bed, folder / "theirs.wav"),
        )
        say(f"render of {minutes} min, {what} : ffmpeg volume + mix + limiter",
            f"{mine / theirs:.3f}  ({mine:.2f} s : {theirs:.2f} s)", hoped)  # fmt: skip

        measured = timed(lambda one=one, two=two: ours.render(one, two, folder / "mine.wav", measure=True))
        say("   the same with its loudness and true peak measured on the way, as an export is",
            f"{measured / theirs:.3f}  ({measured:.2f} s)", "")  # fmt: skip
        mine, theirs = side_by_side(
            lambda one=one, two=two: ours.render(one, two, folder / "mine.wav"),
            lambda above=above: yardstick.volume_mix_limit(above, bed, folder / "theirs.wav", oversampled=True),
            runs=1,
        )
        say("   the same : ffmpeg with its limiter at four times the rate",
            f"{mine / theirs:.3f}  ({mine:.2f} s : {theirs:.2f} s)", "≤ 0.15")  # fmt: skip


def loudness(folder: Path, minutes: int) -> None:
    _, bed = written(folder, minutes)
    mine, theirs = side_by_side(lambda: ours.loudness(bed), lambda: yardstick.loudness(bed))
    say(f"loudness (I, M, S, range) of {minutes} min : ffmpeg's",
        f"{mine / theirs:.3f}  ({mine:.2f} s : {theirs:.2f} s)", "≤ 0.35")  # fmt: skip


def picture(folder: Path, minutes: int) -> None:
    film = material.write_film(folder / f"film {minutes}.mp4", minutes=minutes)
    mine, theirs = side_by_side(
        lambda: ours.copy_picture(film, folder / "mine.mp4"),
        lambda: yardstick.remux_picture(film, folder / "theirs.mp4"),
    )
    say(f"picture of a film of {minutes} min copied, its sound kept : ffmpeg's remux",
        f"{mine / theirs:.3f}  ({mine:.2f} s : {theirs:.2f} s)", "≤ 2")  # fmt: skip


def limiter(folder: Path, minutes: int) -> None:
    from benchmarks import limited

    limited.measure(folder, say, minutes=minutes)


def curve(folder: Path, minutes: int) -> None:
    from benchmarks.decisions import captioned, decide_once, project_of, tuning_map
    from jaylantern.workspace.memo import Memo

    once = [timed(lambda k=k: ours.curve(500, 60, ours.Settings(attack_ms=300 + k))) for k in range(20)]
    say("gain curve of 500 passages on 60 min", f"{1000 * statistics.median(once):.2f} ms", "≤ 20 ms")
    project, facts = project_of(500, 60)
    kept = Memo()
    decide_once(project, facts, 0, kept)
    every = [timed(lambda k=k: decide_once(project, facts, k, kept)) for k in range(1, 21)]
    say(
        "everything worked out anew after a slider move, same project",
        f"{1000 * statistics.median(every):.2f} ms",
        "≤ 20 ms",
    )
    clear = replace(project, settings=project.settings.changed({"duck_by": "clearance"}))
    both = [
        [timed(lambda k=k, p=p: decide_once(p, facts, k, kept).clear_lu) for p in (project, clear)] for k in range(20)
    ]
    by_amount, by_clearance = (statistics.median(each) for each in zip(*both, strict=True))
    say("the same by clearance, and how clear all stand", f"× {by_clearance / by_amount:.2f} of by amount", "≤ 1.5")
    cues = captioned(project, facts, 3)
    decide_once(cues, facts, 0, kept)
    both = [[timed(lambda k=k, p=p: decide_once(p, facts, k, kept)) for p in (project, cues)] for k in range(20)]
    by_voice, by_captions = (statistics.median(each) for each in zip(*both, strict=True))
    say("the same, talk counted by 1500 captions", f"× {by_captions / by_voice:.2f} of by its voice", "≤ 1.5")
    for passages, long in ((80, 10), (500, 60)):
        coarse, whole = tuning_map(*project_of(passages, long))
        say(f"tuning map of 36 and of 576 places, {passages} passages on {long} min", f"{coarse:.2f} and {whole:.2f} s",
            "≤ 0.5 and ≤ 1 s" if long == 10 else "≤ 0.5 and ≤ 8 s")  # fmt: skip


def memory(folder: Path, minutes: int) -> None:
    short = max(1, minutes // 10)
    peaks = {}
    for work in ("analyse", "import", "render", "tailor"):
        for length in (short, minutes):
            written(folder, length)
            answer = subprocess.run(
                [sys.executable, "-m", "benchmarks.peak_memory", work, str(folder), str(length)],
                check=True, capture_output=True, text=True,
            )  # fmt: skip
            peaks[length] = int(answer.stdout)
        ratio = f"{peaks[minutes] / peaks[short]:.3f}  ({peaks[minutes] >> 10} MB : {peaks[short] >> 10} MB)"
        say(f"peak memory, {work}: {minutes} min : {short} min", ratio, "≤ 1.1")


def page(folder: Path, minutes: int) -> None:
    from benchmarks import page as measured

    measured.measure(folder, say, minutes=minutes)


def suggestions(folder: Path, minutes: int) -> None:
    from benchmarks import suggestions as measured

    if MATERIAL is None:
        print("suggestions: give --material, a folder with Debian packages (see benchmarks/suggestions.py); left out")
        return
    measured.table(MATERIAL)


def detection(folder: Path, minutes: int) -> None:
    from benchmarks import detection as measured

    if not material.PROMPTS.is_dir():
        print("detection: needs Debian's asterisk-core-sounds-en-g722 and asterisk-moh-opsound-g722; left out")
        return
    measured.run()


def child_cpu(work: Callable[[], object]) -> float:
    """CPU seconds of the processes that a call starts and waits for."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    work()
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def imports(folder: Path, minutes: int) -> None:
    """CPU seconds of whole processes: an import, `detect`, `duck`, `--help`, each beside ffmpeg's filters."""
    talk, bed = written(folder, minutes)

    def command(*arguments: object) -> Callable[[], object]:
        line = [sys.executable, "-m", "jaylantern.cli.main", *map(str, arguments)]
        return lambda: subprocess.run(line, check=True, capture_output=True)

    def python(code: str) -> Callable[[], object]:
        begin = "from pathlib import Path; from benchmarks import ours, yardstick; "
        return lambda: subprocess.run([sys.executable, "-c", begin + code], check=True)

    def pair(name: str, mine: Callable[[], object], theirs: Callable[[], object], hoped: str) -> None:
        pairs = [(child_cpu(mine), child_cpu(theirs)) for _ in range(RUNS)]
        a, b = (statistics.median(each) for each in zip(*pairs, strict=True))
        say(name, f"{a / b:.2f}  ({a:.2f} : {b:.2f} CPU s)", hoped)

    filtered = python(f"yardstick.loudness_with_true_peak(Path({str(talk)!r}))")
    ducked = python(f"yardstick.sidechain_mix_limit(*map(Path, {(str(talk), str(bed), str(folder / 'theirs.wav'))!r}))")
    brought = python(f"ours.bring_in(Path({str(talk)!r}), Path({str(folder / 'data')!r}))")
    pair(f"import of {minutes} min : ffmpeg loudness + true peak", brought, filtered, "≤ 35 CPU s an hour")
    pair(f"`detect` on {minutes} min : the same", command("detect", talk, "--json"), filtered, "≤ 0.7")
    duck = command("duck", "--dialogue", talk, "--music", bed, "--out-mix", folder / "mine.wav")
    pair(f"`duck` on {minutes} min : ffmpeg sidechain + mix + limiter", duck, ducked, "≤ 1.2")
    helped = statistics.median(child_cpu(command("--help")) for _ in range(RUNS))
    say("`--help`", f"{helped:.2f} CPU s", "≤ 0.3")


def hearing(folder: Path, minutes: int) -> None:
    from benchmarks import hearing as measured

    if MATERIAL is None:
        print("hearing: give --material, a folder with Debian packages (see benchmarks/voices.py); left out")
        return
    measured.run(MATERIAL)


def compressor(folder: Path, minutes: int) -> None:
    from benchmarks import compressor

    compressor.measure(folder, say, minutes=minutes)


def forms(folder: Path, minutes: int) -> None:
    """Sound files of two and a half minutes: MP3 against AAC, the render included."""
    talk, bed = written(folder, 3)
    one, two = ours.to_raw(talk, folder / "one.raw"), ours.to_raw(bed, folder / "two.raw")
    mp3, aac = side_by_side(
        lambda: ours.render(one, two, folder / "out.mp3", measure=True, form="mp3", length_n=HALF_N),
        lambda: ours.render(one, two, folder / "out.m4a", measure=True, form="m4a", length_n=HALF_N),
    )
    say("export of 2:30 as MP3 : as AAC", f"{mp3 / aac:.2f}  ({mp3:.2f} s : {aac:.2f} s)", "≤ 2")


def tailor(folder: Path, minutes: int) -> None:
    """Music cut to a length: the beats heard, a new length, rendering; of ten minutes, as music is."""
    from benchmarks import tailoring

    minutes = min(minutes, 10)
    _, bed = written(folder, minutes)
    store = ours.to_raw(bed, folder / "bed.raw")
    mine, theirs = side_by_side(lambda: tailoring.heard(store), lambda: yardstick.loudness_with_true_peak(bed))
    say(f"beats, bars and likeness of {minutes} min, decoded : ffmpeg loudness + true peak",
        f"{mine / theirs:.3f}  ({mine:.2f} s : {theirs:.2f} s)", "≤ 0.5")  # fmt: skip
    grid = tailoring.heard(store)
    shares = (0.2, 0.5, 0.8, 1.3)
    each = [timed(lambda share=share: tailoring.folded(grid, store, share)) for share in shares]
    say("a new length to new folds, set to the sample: median, longest",
        f"{statistics.median(each):.2f} s, {max(each):.2f} s", "≤ 0.3 s")  # fmt: skip
    cut = tailoring.folded(grid, store, 0.8)
    mine, theirs = side_by_side(
        lambda: tailoring.render_tailored(store, cut), lambda: tailoring.render_by_hand(store, cut)
    )
    say(f"rendering tailored music of {len(cut.folds)} folds : its pieces laid by hand",
        f"{mine / theirs:.3f}  ({mine:.2f} s : {theirs:.2f} s)", "≤ 1")  # fmt: skip


def care(folder: Path, minutes: int) -> None:
    """Two voices with every part of their care on: the first render treats them, every later one reads them."""
    from benchmarks import care as measured

    minutes = min(minutes, 10)
    talk, bed = written(folder, minutes)
    one, two = ours.to_raw(talk, folder / "one.raw"), ours.to_raw(talk, folder / "two.raw")
    music, out = ours.to_raw(bed, folder / "bed.raw"), folder / "mine.wav"
    heard = timed(lambda: measured.heard(one))
    say(f"hearing a voice of {minutes} min, once", f"{heard:.2f} s", "")
    voices = measured.cared(one, folder / "care one"), measured.cared(two, folder / "care two")
    first = timed(lambda: measured.render(voices, music, out, measured.ALL))
    with_care, plain = side_by_side(
        lambda: measured.render(voices, music, out, measured.ALL), lambda: measured.render((one, two), music, out, None)
    )
    say(f"render of {minutes} min with two voices, all parts of care : without, the first time",
        f"{first / plain:.3f}  ({first:.2f} s : {plain:.2f} s)", "≤ 1.25")  # fmt: skip
    say("   the same every other time", f"{with_care / plain:.3f}  ({with_care:.2f} s : {plain:.2f} s)", "≤ 1.25")


def fleet(folder: Path, minutes: int) -> None:
    """Twelve films of a minute or two: all in one process, each in its own, by one worker and by two."""
    from contextlib import closing

    from benchmarks import fleet as many
    from jaylantern.fleet import running

    minutes = min(minutes, 2)
    found = many.films(folder / "films", minutes)
    many.alone(found[:1], folder / "warm")()
    one = timed(many.alone(found, folder / "alone"))
    say(f"{many.FILMS} films of {minutes} min in one process", f"{one:.1f} s, {one / many.FILMS:.2f} s each", "")
    for workers, hoped in ((1, ""), (2, "≤ 0.60 on two cores")):
        with closing(running.Cores(workers)) as cores:
            took = timed(many.by(cores, found, folder / f"cores {workers}"))
        say(
            f"   each in a process of its own, {workers} at once : one process",
            f"{took / one:.3f}  ({took:.1f} s)",
            hoped,
        )
        with many.crew(folder / f"crew {workers}", workers) as cluster:
            many.by(cluster, found[:1], folder / f"warm {workers}")()
            took = timed(many.by(cluster, found, folder / f"workers {workers}"))
            again = timed(many.by(cluster, found, folder / f"workers {workers}"))
            each, at_once = many.scheduling(cluster)
        say(f"   {workers} worker{'s' if workers > 1 else ''} of a scheduler : one process",
            f"{took / one:.3f}  ({took:.1f} s)", hoped)  # fmt: skip
        say("   films that are there already, each, with its process and the hash of its files",
            f"{again / many.FILMS:.2f} s", "")  # fmt: skip
        say("   a task that does nothing, one by one, of a thousand at once",
            f"{1000 * each:.1f} ms, {1000 * at_once:.2f} ms", "")  # fmt: skip


MATERIAL: Path | None = None
ALL = {
    "analysis": analysis,
    "render": render,
    "loudness": loudness,
    "picture": picture,
    "limiter": limiter,
    "curve": curve,
    "memory": memory,
    "page": page,
    "suggestions": suggestions,
    "detection": detection,
    "hearing": hearing,
    "import": imports,
    "compressor": compressor,
    "forms": forms,
    "tailor": tailor,
    "care": care,
    "fleet": fleet,
}


def main() -> None:
    """Run the benchmarks asked for, or all."""
    if sys.argv[1:2] == ["sitting"]:
        from benchmarks import sitting

        sitting.main(sys.argv[2:])
        return
    parser = argparse.ArgumentParser(prog="./jay bench", description=__doc__)
    parser.add_argument("names", nargs="*", metavar="NAME", help=f"which: {', '.join(ALL)}; default all")
    parser.add_argument("--minutes", type=int, default=60, help="length of the material")
    parser.add_argument("--material", type=Path, help="folder of Debian packages that suggestions are measured on")
    args = parser.parse_args()
    global MATERIAL
    MATERIAL = args.material
    keep_freed_memory()
    unknown = [name for name in args.names if name not in ALL]
    if unknown:
        parser.error(f"there is no benchmark called {unknown[0]}; there are {', '.join(ALL)}")
    with tempfile.TemporaryDirectory(prefix="jay-workspace-") as folder:
        for name in args.names or ALL:
            ALL[name](Path(folder), args.minutes)


if __name__ == "__main__":
    main()
