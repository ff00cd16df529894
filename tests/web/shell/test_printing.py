"""The process that prints: killed, left idle, asked by two at once, without its libraries."""

import os
import signal
import subprocess
import time
from concurrent.futures import ThreadPoolExecutor

import psutil
import pytest

from aldea.core.base.errors import AldeaError
from aldea.web.shell import printing
from aldea.web.shell.printing import PrintProcess, as_image

STYLES = ("p { font-size: 20pt }",)


@pytest.fixture
def process():
    made = PrintProcess()
    yield made
    made.end()


def pid_of(process: PrintProcess) -> int:
    assert process._process is not None
    return process._process.pid


def test_a_sheet_is_printed_after_its_process_was_killed(process):
    assert process.pdf("<p>one", STYLES).startswith(b"%PDF")
    before = pid_of(process)
    os.kill(before, signal.SIGKILL)
    assert process.pdf("<p>two", STYLES).startswith(b"%PDF")
    assert pid_of(process) != before


def test_what_nobody_asks_ends_by_itself_and_begins_again():
    process = PrintProcess(idle_s=0.2)
    process.pdf("<p>one", STYLES)
    first = pid_of(process)
    until = time.monotonic() + 10
    while psutil.pid_exists(first) and time.monotonic() < until:
        time.sleep(0.05)
    assert not psutil.pid_exists(first)
    assert process.pdf("<p>two", STYLES).startswith(b"%PDF")
    process.end()


def test_four_who_print_at_once_get_each_their_own(process):
    names = [f"<p>{'sheet ' * n}" for n in (1, 200, 2, 400)]
    alone = [len(process.pdf(name, STYLES)) for name in names]
    with ThreadPoolExecutor(4) as four:
        made = list(four.map(lambda name: process.pdf(name, STYLES), names))
    assert all(sheet.startswith(b"%PDF") for sheet in made)
    assert [round(len(sheet) / 50) for sheet in made] == [round(size / 50) for size in alone]


@pytest.mark.parametrize(
    ("script", "says"),
    [
        ("raise SystemExit(1)", "ended while it worked, twice"),
        (
            """print('{"missing": "libpango", "bytes": 0}', flush=True); input(); input()""",
            "libpango.*apt-get install",
        ),
    ],
)
def test_what_cannot_print_says_what_to_do(process, monkeypatch, tmp_path, script, says):
    (tmp_path / "worker.py").write_text(script)
    monkeypatch.setattr(printing, "WORKER", tmp_path / "worker.py")
    with pytest.raises(AldeaError, match=says):
        process.pdf("<p>one", STYLES)


def test_the_words_of_a_drawing_are_in_the_sheet(process, tmp_path):
    drawing = as_image(
        '<svg width="90" height="20" viewBox="0 0 90 20">'
        '<text x="1" y="15">K7 &amp; X1</text></svg>'
    )
    (tmp_path / "sheet.pdf").write_bytes(process.pdf(f"<p>one{drawing}", STYLES))
    text = subprocess.run(
        ["pdftotext", tmp_path / "sheet.pdf", "-"], check=True, capture_output=True, text=True
    ).stdout
    assert "K7 & X1" in text
