"""``python -m cast OUT``: builds the demo cast into a folder."""

from __future__ import annotations

import sys
import time
from pathlib import Path

from cast.figure import sculpt
from cast.glb import write_glb
from cast.house import restyled, restyled_sidecar
from cast.people import CAST, QUILL
from cast.sidecar import sidecar_of
from fox_hand.interchange.sidecar import sidecar_path, write_sidecar


def main() -> None:
    out = Path(sys.argv[1])
    out.mkdir(parents=True, exist_ok=True)
    for build in CAST:
        start = time.perf_counter()
        figure = sculpt(build)
        path = out / f"{build.name}.glb"
        sidecar = sidecar_of(figure, build.name.capitalize())
        if build is QUILL:
            figure, sidecar = restyled(figure), restyled_sidecar(sidecar)
        write_glb(figure, path, build.name)
        sidecar_path(path).write_bytes(write_sidecar(sidecar))
        triangles = sum(len(p.triangles) for p in figure.pieces)
        print(
            f"{path}: {triangles} triangles, {len(figure.bones.names)} joints, "
            f"{len(figure.morphs)} morphs, {path.stat().st_size / 1e6:.2f} MB, "
            f"{time.perf_counter() - start:.1f} s"
        )
        if "--pieces" in sys.argv:
            for piece in figure.pieces:
                print(f"  {piece.name:16} {piece.material:8} {len(piece.triangles)}")


if __name__ == "__main__":
    main()
