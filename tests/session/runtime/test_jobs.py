"""Work beside the window: how it ends, and what several windows keep together."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path

import pytest

from fox_hand.base.places import Places
from fox_hand.base.work import Progress
from fox_hand.session.runtime.jobs import Job, Jobs, JobState
from fox_hand.session.runtime.settings import (
    Settings,
    changed_fields,
    read_settings,
    settings_file,
    settings_path,
)


def test_a_job_ends_in_exactly_one_way() -> None:
    heard: list[object] = []
    jobs = Jobs(lambda call: call(), inline=True)

    def works(progress: Progress) -> str:
        progress.step(0.5, "half")
        return "made"

    def fails(progress: Progress) -> str:
        progress.step(0.0)
        raise OSError("away")

    job = jobs.run(works, heard.append, heard.append, lambda f, t: heard.append((f, t)))
    assert job.state is JobState.FINISHED and heard == [(0.5, "half"), "made"]
    heard.clear()
    job = jobs.run(fails, heard.append, lambda error: heard.append(str(error)))
    assert job.state is JobState.FAILED and heard == ["away"]
    heard.clear()
    stopped = Job(works, heard.append, heard.append)
    assert stopped.state is JobState.WAITING
    stopped.cancel()
    jobs.start(stopped)
    assert stopped.state is JobState.CANCELLED and heard == []


def says(word: str) -> Callable[[Progress], str]:
    def work(progress: Progress) -> str:
        progress.step(1.0)
        return word

    return work


def test_on_one_thread_work_is_done_in_turn_and_ended_when_all_ends() -> None:
    posted: list[object] = []
    jobs = Jobs(lambda call: call(), threads=1)
    go_on, begun = threading.Event(), threading.Event()

    def waits(progress: Progress) -> str:
        begun.set()
        go_on.wait(30)
        progress.step(1.0)
        return "first"

    first = jobs.run(waits, posted.append, posted.append)
    assert begun.wait(30)
    second = jobs.run(says("second"), posted.append, posted.append)
    assert second.state is JobState.WAITING and first.state is JobState.RUNNING
    go_on.set()
    jobs.stop()
    assert second.state in (JobState.FINISHED, JobState.CANCELLED)
    assert posted in (["first", "second"], ["first"], ["second"], [])
    late = jobs.run(says("late"), posted.append, posted.append)
    assert late.state is JobState.CANCELLED and "late" not in posted


def test_every_setting_is_as_whoever_changed_it_has_it(places: Places) -> None:
    one, two = settings_file(places), settings_file(places)
    ours, theirs = Settings(author="Ines"), Settings(card_size=90)
    assert one.write(ours).author == "Ines"
    whole = two.write(theirs)
    assert (whole.author, whole.card_size) == ("Ines", 90)
    ours.card_size, ours.lens = 120, True  # both changed it: the last one counts
    whole = one.write(ours)
    assert (whole.author, whole.card_size, whole.lens) == ("Ines", 120, True)
    found, problem = read_settings(places)
    assert problem is None and found == whole
    base = Settings()
    assert changed_fields(base, Settings(ghost=False), Settings(lens=True)) == Settings(
        ghost=False, lens=True
    )


@pytest.mark.parametrize("text", ["[1]", "{", '{"version": 99}', '{"card_size": "large"}'])
def test_settings_that_cannot_be_read_are_put_aside_and_told(places: Places, text: str) -> None:
    path = settings_path(places)
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(text)
    found, problem = read_settings(places)
    aside: Path = path.with_suffix(".unreadable.json")
    assert found == Settings() and problem is not None and str(aside) in problem
    assert aside.read_text() == text and not path.exists()
    # a file that nobody here can read is not written over either
    aside.unlink()
    path.write_text(text)
    assert settings_file(places).write(Settings(author="Ines")).author == "Ines"
    assert read_settings(places)[0].author == "Ines" and aside.read_text() == text
