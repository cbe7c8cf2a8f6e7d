"""Writes a figure as one GLB file (glTF 2.0)."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
from PIL import Image

from cast.binary import ELEMENTS, FLOAT, UBYTE, USHORT, VERTICES, Binary, write_chunks
from cast.figure import Figure
from cast.paint import MATERIALS
from cast.piece import Piece
from cast.proportions import METRES_PER_HEAD
from cast.sdf import Array, unit
from fox_hand.core.maths.transforms import decompose


def write_glb(figure: Figure, path: Path, title: str) -> None:
    """Write the file. Lengths become metres, the soles stand on the floor."""
    binary = Binary()
    nodes, joints = _joint_nodes(figure)
    materials, textures = _materials(figure, binary)
    meshes = [
        _mesh(binary, "face", [p for p in figure.pieces if p.morphs], materials),
        _mesh(binary, "body", [p for p in figure.pieces if not p.morphs], materials),
    ]
    inverse = np.linalg.inv(_metres(np.array(figure.bones.world)))
    skin = {
        "name": title,
        "joints": list(range(len(joints))),
        "skeleton": 0,
        "inverseBindMatrices": binary.accessor(
            inverse.transpose(0, 2, 1).reshape(-1, 16).astype(np.float32), "MAT4", FLOAT
        ),
    }
    first = len(nodes)
    nodes += [{"name": m["name"], "mesh": i, "skin": 0} for i, m in enumerate(meshes)]
    document = {
        "asset": {"version": "2.0", "generator": "Fox Hand cast builder"},
        "scene": 0,
        "scenes": [{"name": title, "nodes": [0, first, first + 1]}],
        "nodes": nodes,
        "skins": [skin],
        "meshes": meshes,
        "materials": list(materials.values()),
        **textures,
        "accessors": binary.accessors,
        "bufferViews": binary.views,
        "buffers": [{"byteLength": len(binary.data) + (-len(binary.data) % 4)}],
    }
    for key, material in materials.items():
        material["name"] = key
    write_chunks(path, document, bytes(binary.data))


def _metres(world: Array) -> Array:
    world = world.copy()
    world[:, :3, 3] *= METRES_PER_HEAD
    return world


def _joint_nodes(figure: Figure) -> tuple[list[dict[str, Any]], list[str]]:
    bones = figure.bones
    local = _metres(bones.locals())
    translation, rotation, _ = decompose(local)
    nodes: list[dict[str, Any]] = []
    for i, name in enumerate(bones.names):
        children = [j for j, p in enumerate(bones.parents) if p == i]
        node: dict[str, Any] = {
            "name": name,
            "translation": [round(float(v), 7) for v in translation[i]],
            "rotation": unit(rotation[i]).tolist(),
        }
        if children:
            node["children"] = children
        nodes.append(node)
    return nodes, bones.names


def _materials(
    figure: Figure, binary: Binary
) -> tuple[dict[str, dict[str, Any]], dict[str, list[dict[str, Any]]]]:
    used = [m for m in MATERIALS if any(p.material == m for p in figure.pieces)]
    materials: dict[str, dict[str, Any]] = {}
    images: list[dict[str, Any]] = []
    textures: list[dict[str, Any]] = []
    for name in used:
        surfacing = MATERIALS[name]
        look: dict[str, Any] = {"metallicFactor": 0, "roughnessFactor": surfacing.roughness}
        if surfacing.texture is not None:
            picture = io.BytesIO()
            Image.fromarray(surfacing.texture(figure.build.colours)).save(
                picture, "PNG", optimize=True
            )
            images.append(
                {
                    "name": name,
                    "mimeType": "image/png",
                    "bufferView": binary.view(picture.getvalue()),
                }
            )
            textures.append({"source": len(images) - 1, "sampler": 0 if surfacing.repeat else 1})
            look["baseColorTexture"] = {"index": len(textures) - 1}
        materials[name] = {"pbrMetallicRoughness": look}
        if surfacing.glow:
            materials[name]["emissiveFactor"] = [surfacing.glow] * 3
    samplers = [
        {"magFilter": 9729, "minFilter": 9987, "wrapS": wrap, "wrapT": wrap}
        for wrap in (10497, 33071)
    ]
    return materials, {"samplers": samplers, "textures": textures, "images": images}


def _mesh(
    binary: Binary,
    name: str,
    pieces: list[Piece],
    materials: dict[str, dict[str, Any]],
) -> dict[str, Any]:
    morphs = sorted({m for p in pieces for m in p.morphs})
    primitives = []
    for row, material in enumerate(materials):
        group = [p for p in pieces if p.material == material]
        if group:
            primitives.append(_primitive(binary, group, morphs, row))
    mesh: dict[str, Any] = {"name": name, "primitives": primitives}
    if morphs:
        mesh["weights"] = [0.0] * len(morphs)
        mesh["extras"] = {"targetNames": morphs}
    return mesh


def _primitive(
    binary: Binary, group: list[Piece], morphs: list[str], material: int
) -> dict[str, Any]:
    def joined(values: list[Array], dtype: npt.DTypeLike) -> npt.NDArray[Any]:
        return np.concatenate(values).astype(dtype)

    starts = np.cumsum([0] + [len(p.points) for p in group])
    triangles = np.concatenate([p.triangles + s for p, s in zip(group, starts, strict=False)])
    weights = joined([p.weights for p in group], np.float32)
    colour = joined([p.colour * p.occlusion[:, None] for p in group], np.float64)
    colour = np.round(np.clip(colour, 0, 1) * 65535).astype(np.uint16)
    rgba = np.concatenate([colour, np.full((len(colour), 1), 65535, np.uint16)], 1)
    points = joined([p.points * METRES_PER_HEAD for p in group], np.float32)
    normals = unit(joined([p.normals for p in group], np.float32)).astype(np.float32)
    attributes = {
        "POSITION": binary.accessor(points, "VEC3", FLOAT, target=VERTICES, bounds=True),
        "NORMAL": binary.accessor(normals, "VEC3", FLOAT, target=VERTICES),
        "COLOR_0": binary.accessor(rgba, "VEC4", USHORT, target=VERTICES, normalized=True),
        "JOINTS_0": binary.accessor(
            joined([p.joints for p in group], np.uint8), "VEC4", UBYTE, target=VERTICES
        ),
        "WEIGHTS_0": binary.accessor(
            weights / weights.sum(1, keepdims=True), "VEC4", FLOAT, target=VERTICES
        ),
    }
    if any(np.abs(p.uv).max() > 0 for p in group):
        uv = joined([p.uv for p in group], np.float32)
        attributes["TEXCOORD_0"] = binary.accessor(uv, "VEC2", FLOAT, target=VERTICES)
    primitive: dict[str, Any] = {
        "attributes": attributes,
        "indices": binary.accessor(
            triangles.reshape(-1).astype(np.uint16), "SCALAR", USHORT, target=ELEMENTS
        ),
        "material": material,
    }
    if morphs:
        primitive["targets"] = [_target(binary, group, m) for m in morphs]
    return primitive


def _target(binary: Binary, group: list[Piece], name: str) -> dict[str, int]:
    moves, turns = [], []
    for piece in group:
        if name in piece.morphs:
            offset = piece.morphs[name] * METRES_PER_HEAD
            offset = np.where(np.abs(offset).max(1, keepdims=True) > 2e-5, offset, 0)
            turn = piece.morph_normals(name)
            turn = np.where(np.abs(turn).max(1, keepdims=True) > 2e-3, turn, 0)
        else:
            offset = turn = np.zeros_like(piece.points)
        moves.append(offset)
        turns.append(turn)
    return {
        "POSITION": binary.sparse(np.concatenate(moves).astype(np.float32)),
        "NORMAL": binary.sparse(np.concatenate(turns).astype(np.float32)),
    }
