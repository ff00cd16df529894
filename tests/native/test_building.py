"""Compiling the engine: warnings, sanitizers, two at once, a kill, a folder that is shut."""

import os
import platform
import shutil
import signal
import subprocess
import sys
import threading
import time

import pytest
from benchmarks.engine import SHAPES, shaped
from tests.core.plans import one_band, samples_of

from aldea.core.base.errors import SetUpError
from aldea.core.base.instants import MS_PER_DAY
from aldea.core.devices.loads.indicator.model import Pattern
from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import run_replay
from aldea.core.engine.scans import in_python
from aldea.demo.recorded import START_MS
from aldea.native import building
from aldea.native.building import FLAGS, SCAN_C, built_engine, compile_scan
from aldea.native.engine import scans_of

COMPILERS = [name for name in ("gcc", "clang") if shutil.which(name)]
STRICT = ("-Wall", "-Wextra", "-Wconversion", "-Wshadow", "-Werror")
SANITIZED = ("-std=c99", "-O0", "-g1", "-fPIC", "-shared", "-ffp-contract=off")
WATCHED = ("-fsanitize=address,undefined", "-fno-sanitize-recover=all")


@pytest.mark.parametrize("tool", COMPILERS)
def test_no_compiler_has_anything_to_say(tool, tmp_path):
    compile_scan(SCAN_C, tmp_path / "scan.so", tool, (*FLAGS, "-O1", *STRICT))
    assert scans_of(tmp_path / "scan.so") is not None


def runtime_of(tool: str) -> str:
    """The library that watches memory, which must be loaded before the interpreter."""
    name = "libasan.so" if tool == "gcc" else f"libclang_rt.asan-{platform.machine()}.so"
    found = subprocess.run(
        [tool, f"-print-file-name={name}"], check=True, capture_output=True, text=True
    )
    return found.stdout.strip()


@pytest.mark.parametrize("tool", COMPILERS)
def test_random_plans_leave_every_table_alone_but_their_own(tool, tmp_path):
    """Under the sanitizers: no read or write beside a table, nothing that C leaves undefined."""
    shared = () if tool == "gcc" else ("-shared-libasan",)
    library = tmp_path / "scan.so"
    compile_scan(SCAN_C, library, tool, (*SANITIZED, *WATCHED, *shared))
    env = {
        **os.environ,
        "LD_PRELOAD": runtime_of(tool),
        "ASAN_OPTIONS": "detect_leaks=0",
        "PYTHONMALLOC": "malloc",  # each table in memory of its own, with a fence around it
    }
    command = [sys.executable, "-m", "tests.native.sanitized", str(library), "30"]
    done = subprocess.run(command, env=env, check=False, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr[-3000:]
    assert "no finding in 60" in done.stdout


def test_a_sanitizer_would_speak(tmp_path):
    """One row too far, and the same run is ended: the check above can fail."""
    broken = SCAN_C.read_text().replace(
        "p < run->plan.probes_rows", "p < run->plan.probes_rows + 1", 1
    )
    assert broken != SCAN_C.read_text()
    source, library = tmp_path / "scan.c", tmp_path / "scan.so"
    source.write_text(broken)
    compile_scan(source, library, "gcc", (*SANITIZED, *WATCHED))
    env = {
        **os.environ,
        "LD_PRELOAD": runtime_of("gcc"),
        "ASAN_OPTIONS": "detect_leaks=0",
        "PYTHONMALLOC": "malloc",
    }
    command = [sys.executable, "-m", "tests.native.sanitized", str(library), "2"]
    done = subprocess.run(command, env=env, check=False, capture_output=True, text=True)
    assert done.returncode != 0
    assert "AddressSanitizer" in done.stderr


def test_two_threads_replay_at_once(tmp_path):
    """Each run has its tables; neither sees the other's."""
    runs = [shaped(shape) for shape in (SHAPES[0], SHAPES[3])]
    compiled = [compile_plan(plan) for plan, _ in runs]
    end_ms = START_MS + 10 * MS_PER_DAY

    def replayed(which: int) -> list[list[int]]:
        samples = runs[which][1]
        run = run_replay(compiled[which], samples, start_ms=START_MS, end_ms=end_ms)
        rows: list[list[int]] = run.rows.tolist()
        return rows

    alone = [replayed(0), replayed(1)]
    wrong: list[int] = []

    def again(which: int) -> None:
        wrong.extend(which for _ in range(12) if replayed(which) != alone[which])

    threads = [threading.Thread(target=again, args=(which,)) for which in (0, 1, 0, 1)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert not wrong


def making(folder):
    """A process that makes the engine in a folder."""
    code = (
        "import sys, pathlib; from aldea.native import building, engine;"
        "building.FLAGS = ('-O0', *building.FLAGS[2:]);"
        "engine.load_engine(pathlib.Path(sys.argv[1]))"
    )
    return [sys.executable, "-c", code, str(folder)]


@pytest.fixture
def quickly(monkeypatch):
    """What is compiled is not what these tests are about."""
    monkeypatch.setattr(building, "FLAGS", ("-O0", *FLAGS[2:]))


def test_processes_that_begin_together_each_find_a_whole_engine(tmp_path):
    started = [subprocess.Popen(making(tmp_path)) for _ in range(3)]
    assert [process.wait(120) for process in started] == [0, 0, 0]
    assert len(list(tmp_path.glob("*/*"))) == 1, "one library and nothing beside it"


def test_a_kill_while_it_compiles_leaves_no_half_engine(tmp_path, quickly):
    with subprocess.Popen(making(tmp_path), start_new_session=True) as process:
        while not list(tmp_path.glob("*/*")):
            assert process.poll() is None
            time.sleep(0.01)
        os.killpg(process.pid, signal.SIGKILL)
    assert not list(tmp_path.glob("*/scan.so"))
    assert scans_of(built_engine(tmp_path)) is not None


def test_a_folder_that_cannot_be_written_is_said(tmp_path):
    shut = tmp_path / "file"
    shut.write_text("no folder")
    with pytest.raises(SetUpError, match="a folder that can be written"):
        built_engine(shut)


def test_without_a_compiler_an_engine_made_elsewhere_starts(tmp_path, monkeypatch, quickly):
    made = built_engine(tmp_path)
    monkeypatch.setattr(building, "compiler", lambda: None)
    assert built_engine(tmp_path) == made
    with pytest.raises(SetUpError, match="apt-get install -y --no-install-recommends gcc"):
        built_engine(tmp_path / "empty")


def test_only_the_last_engines_are_kept(tmp_path, quickly):
    for age in range(5):
        old = tmp_path / f"old-{age}"
        old.mkdir()
        os.utime(old, (age, age))
    built_engine(tmp_path)
    assert sorted(path.name for path in tmp_path.glob("old-*")) == ["old-3", "old-4"]


def test_a_pattern_without_length_is_dark_and_divides_nothing():
    """The plan's limits forbid it; an engine on a board must stand it all the same."""
    plan = one_band()
    lamp = plan.loads[0].model_copy(update={"kind": "indicator", "pattern": Pattern()})
    rule = plan.rules[0].model_copy(update={"want": "pattern", "level": 1})
    compiled = compile_plan(plan.model_copy(update={"loads": (lamp,), "rules": (rule,)}))
    for cell in range(len(compiled.tables.parts_ms)):
        compiled.tables.parts_ms[cell] = 0
    samples = samples_of([(0, 70), (10, 40)])
    runs = [
        run_replay(compiled, samples, start_ms=0, end_ms=20_000, scans=scans)
        for scans in (None, in_python)
    ]
    assert runs[0].rows.tolist() == runs[1].rows.tolist()
    assert [row[lay.E_TO] for row in runs[0].of_load(0)[0].tolist()] == [2, 0]
