"""The runner of background jobs: one for each key, newer before older, paused, cancelled, failed."""

from __future__ import annotations

import threading
from typing import Any

import pytest

from uhrwerk.web import jobs
from uhrwerk.web.jobs import Job, JobRunner


def waiting(release: threading.Event) -> Any:
    """Work that goes on until it is released, and can be cancelled meanwhile."""

    def work(job: Job[str]) -> str:
        while not release.wait(0.005):
            job.checkpoint()
        return f"{job.subject} done"

    return work


def test_one_job_a_key() -> None:
    runner, release = JobRunner(), threading.Event()
    first = runner.start(Job("build", "m", 1, "first"), waiting(release))
    assert runner.start(Job("build", "m", 1, "second"), waiting(release)) is first
    assert runner.start(Job("check", "m", 1, "other kind"), waiting(release)) is not first
    release.set()
    assert first.done.wait(5)
    assert (first.result, first.state) == ("first done", "done")


def test_a_newer_job_of_the_same_mechanism_cancels_the_older_alone() -> None:
    runner, release = JobRunner(), threading.Event()
    old = runner.start(Job("build", "m", 1, ""), waiting(release), alone=True)
    elsewhere = runner.start(Job("build", "n", 1, ""), waiting(release), alone=True)
    new = runner.start(Job("build", "m", 2, ""), waiting(release), alone=True)
    assert old.done.wait(5)
    assert (old.state, elsewhere.state, new.state) == ("stopped", "running", "running")
    again = runner.start(Job("build", "m", 1, ""), waiting(release))
    assert again is not old, "what was cancelled is begun again for who asks"
    runner.close()


def test_a_paused_job_waits_and_can_still_be_cancelled() -> None:
    runner, steps = JobRunner(), []

    def work(job: Job[str]) -> None:
        for k in range(10**9):
            job.checkpoint()
            steps.append(k)
            threading.Event().wait(0.001)

    job = runner.start(Job("build", "m", 1, ""), work)
    job.unpaused.clear()
    assert job.held.wait(5)
    held = len(steps)
    threading.Event().wait(0.05)
    assert len(steps) == held
    assert job.state == "paused"
    job.cancel()
    assert job.done.wait(5)
    assert job.state == "stopped"


def test_a_failure_is_said_and_begun_again_later(monkeypatch: pytest.MonkeyPatch, caplog: Any) -> None:
    runner = JobRunner()

    def work(job: Job[str]) -> None:
        raise ZeroDivisionError

    job = runner.start(Job("build", "m", 1, ""), work)
    assert job.done.wait(5)
    assert job.failed == "The build failed inside Uhrwerk; the details are in its log. Undo the last change and go on."
    assert "ZeroDivisionError" in caplog.text
    assert runner.start(Job("build", "m", 1, ""), work) is job
    monkeypatch.setattr(jobs, "AGAIN", 0.0)
    assert runner.start(Job("build", "m", 1, ""), work) is not job


def test_the_oldest_results_are_dropped_and_running_jobs_are_not() -> None:
    runner, release = JobRunner(most=3), threading.Event()
    running = runner.start(Job("build", "m", "slow", ""), waiting(release))
    for k in range(6):
        assert runner.start(Job("build", "m", k, ""), lambda job: job.key).done.wait(5)
    assert [job.key for job in runner.of("build", "m")] == ["slow", 4, 5]
    assert not running.cancelled
    release.set()
    assert running.done.wait(5)


def test_no_two_starts_at_once_make_two_jobs() -> None:
    runner, release, got = JobRunner(), threading.Event(), []
    threads = [
        threading.Thread(target=lambda: got.append(runner.start(Job("build", "m", 1, ""), waiting(release))))
        for _ in range(16)
    ]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert len(set(map(id, got))) == 1
    release.set()
