"""What many tests share."""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

import hypothesis
import pytest

from fox_hand.base.places import Places
from fox_hand.core.rig.rig import Rig
from fox_hand.demo import demo_project
from fox_hand.interchange.readers import read_rig
from fox_hand.render.renderer import Renderer
from tests.small_demo import make_small_demo

hypothesis.settings.register_profile(
    "ci", max_examples=60, deadline=None, derandomize=True, database=None
)
hypothesis.settings.register_profile("long", max_examples=2000, deadline=None)
hypothesis.settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "ci"))

# what programs started by tests write of their own does not belong into anybody's home
OF_THIS_RUN = tempfile.TemporaryDirectory(prefix="fox-hand-tests-")  # goes with the process
os.environ["XDG_STATE_HOME"] = str(Path(OF_THIS_RUN.name, "state"))
# most tests need a few cards of each kind; those of the whole demo take it from ``small_demo``
demo_project.SOURCE = make_small_demo(Path(OF_THIS_RUN.name, "demo"))
MARROW = demo_project.shipped() / "cast" / "marrow.glb"


@pytest.fixture(scope="session")
def marrow() -> Rig:
    """The deckhand."""
    return read_rig(MARROW)


@pytest.fixture(scope="session")
def renderer() -> Iterator[Renderer]:
    """One drawing process for all tests."""
    made = Renderer()
    yield made
    made.stop()


@pytest.fixture
def places(tmp_path: Path) -> Places:
    """Folders of a user who starts for the first time."""
    return Places.under(tmp_path / "home")


@pytest.hookimpl(trylast=True)
def pytest_runtest_logreport(report: pytest.TestReport) -> None:
    """Say at once why a test failed: of a run that is cut off the summary is never seen."""
    if report.failed:
        sys.stderr.write(f"\n{report.nodeid} ({report.when})\n{report.longreprtext}\n")
        sys.stderr.flush()
