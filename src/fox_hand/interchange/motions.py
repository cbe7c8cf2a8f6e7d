"""Which module reads and writes which kind of motion."""

from __future__ import annotations

from pathlib import Path

from fox_hand.base.animation_facts import AnimationFacts
from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.scratch import scratch_folder
from fox_hand.base.language import tr
from fox_hand.core.animation.motion import Motion, motion_of
from fox_hand.core.animation.performance import Performance
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange import bvh, gltf, usd
from fox_hand.interchange.frame_rates import at_rate, frame_count, usual_rate
from fox_hand.interchange.rig_words import in_unit, words_beside
from fox_hand.interchange.units import likely_unit

GLTF = (".glb", ".gltf", ".vrm")
USD = (".usda", ".usdc", ".usd")
READ = (".bvh", *GLTF, *USD, ".usdz")
WRITTEN = (".glb", ".bvh", *USD)
NO_SHAPES = tr("Shapes of the face belong to the character, without which they are left out.")
NO_FADING = tr("How solid drawings are is left out: only Fox Hand knows that.")


def animations_of(path: Path) -> list[str]:
    """Names of the animations that can be read out of a file, in its order.

    Raises:
        FoxHandError: if it cannot be read.
    """
    if path.suffix.lower() in GLTF:
        return gltf.animations_of(path)
    return [path.stem]


def animation_facts(path: Path) -> list[AnimationFacts]:
    """All animations of a file with their lengths, as far as they are known without sampling them.

    Raises:
        FoxHandError: if it cannot be read.
    """
    if path.suffix.lower() not in GLTF:
        return [AnimationFacts(path.stem)]
    return [
        AnimationFacts(name, rate, frame_count(seconds * rate) if rate else 0)
        for name, rate, seconds in gltf.facts_of(path)
    ]


def numbered(path: Path, animation: str | None) -> int:
    """Which animation of a file is meant: by its name, or by its number from 1; the first where
    nothing is said.

    Raises:
        FoxHandError: ``motion.no_such`` where the file has none of that name.
    """
    if animation is None:
        return 0
    names = animations_of(path)
    if animation in names:
        return names.index(animation)
    if animation.isdigit() and 1 <= int(animation) <= len(names):
        return int(animation) - 1
    raise FoxHandError(
        "motion.no_such",
        tr("{name} has no animation {animation}.", name=path.name, animation=animation),
        tr("Nothing was changed."),
        tr("It has {names}.", names=", ".join(names) or tr("none at all")),
    )


def read_performance(
    path: Path,
    rate: float | None = None,
    animation: str | None = None,
    metres_per_unit: float | None = None,
) -> Performance:
    """Frames of a file with motion, on the rig of that file.

    Args:
        path: the file.
        rate: frames a second; None for the file's own.
        animation: which of several, by name or by number from 1; None for the first.
        metres_per_unit: the unit of files that do not say it.

    Raises:
        FoxHandError: for files that cannot be read or hold no motion.
    """
    kind, words = path.suffix.lower(), in_unit(words_beside(path), metres_per_unit)
    if kind == ".bvh":
        motion = bvh.read_motion(path, words, likely_unit)
        if not len(motion.states.turn):
            raise FoxHandError(
                "bvh.no_frames",
                tr("{name} has a skeleton, but no frame of motion.", name=path.name),
                tr("Nothing that was open has changed."),
                tr("Choose another file."),
            )
        own = usual_rate(1.0 / max(motion.frame_time, 1e-6))
        guessed = words.metres_per_unit is None
        made = Performance(
            path.stem, motion.rig, motion.states, own, unit=motion.unit, guessed=guessed
        )
        return at_rate(made, rate)
    if kind in GLTF:
        return gltf.read_performance(path, rate, numbered(path, animation), words)
    if kind in READ:
        return usd.read_performance(path, rate, words)
    raise FoxHandError(
        "motion.unknown_kind",
        tr("Fox Hand reads no motion out of {kind} files.", kind=kind or tr("such")),
        tr("Nothing that was open has changed."),
        tr("It reads {names}.", names=", ".join(READ)),
    )


def motion_bytes(
    kind: str, rig: Rig, motion: Motion, *, alone: bool = False
) -> tuple[bytes, tuple[str, ...]]:
    """A file with a figure's motion, and sentences about what it cannot hold.

    Args:
        kind: its suffix.
        rig: the figure.
        motion: what it does.
        alone: the skeleton and its animation without the character to see.

    Raises:
        FoxHandError: ``motion.not_written`` for other kinds of file, or if the character's own
            file cannot be read any more.
    """
    kind, left_out = kind.lower(), (NO_SHAPES,) if motion.shapes_move else ()
    faded = (NO_FADING,) if _fades(rig, motion) else ()
    if kind == ".bvh":
        written = bvh.bvh_text(rig, motion)
        return written.text.encode(), written.notes
    if kind == ".glb":
        source = Path(rig.source)
        if alone or source.suffix.lower() not in GLTF:
            words = tr("{name} is no glTF file: only its skeleton was written.", name=rig.name)
            at_rest = State(*(values[None] for values in rig.rest.arrays()))
            rest = motion_of("rest", rig, at_rest, motion.rate)
            return gltf.alone(motion, rest), left_out if alone else (words, *left_out, *faded)
        return gltf.on_character(source, motion, unit_of(source)), faded
    if kind in USD:
        return _usd_bytes(kind, rig, motion, mesh=not alone), left_out if alone else faded
    raise FoxHandError(
        "motion.not_written",
        tr("Fox Hand writes no {kind} files.", kind=kind or tr("such")),
        tr("Nothing was written."),
        tr("It writes {names}.", names=", ".join(WRITTEN)),
    )


def _fades(rig: Rig, motion: Motion) -> bool:
    """Whether drawings are less solid than at rest."""
    rows = sorted(set(rig.opacities.values()))
    return bool((motion.weights[:, rows] != rig.rest.settings[rows]).any())


def unit_of(source: Path) -> float:
    """Metres of one unit of a glTF file, as its sidecar says; 1 without one."""
    return words_beside(source).metres_per_unit or 1.0


def _usd_bytes(kind: str, rig: Rig, motion: Motion, *, mesh: bool) -> bytes:
    """USD writes to a file of its own; who asked gets the bytes, to be put in place at once."""
    with scratch_folder() as folder:
        path = folder / f"figure{kind}"
        usd.write_usd(path, rig, motion, mesh=mesh)
        return path.read_bytes()
