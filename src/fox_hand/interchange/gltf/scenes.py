"""Which nodes of a glTF document are shown, and what its humanoid extensions say."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from fox_hand.base.language import tr, tr_n
from fox_hand.interchange.gltf.document import GltfDocument


def shown_nodes(document: GltfDocument) -> tuple[set[int], list[str]]:
    """Nodes of the scene that the file shows first (3.5.1 Scenes), all where it has none.

    Returns:
        node indices, and a sentence if other scenes were left out.
    """
    everything = set(range(len(document.nodes)))
    if not document.scenes:
        return everything, []
    scene = document.scene if document.scene is not None else 0
    if not 0 <= scene < len(document.scenes):
        return everything, []
    found: set[int] = set()
    stack = [n for n in document.scenes[scene].nodes if n in everything]
    while stack:
        node = stack.pop()
        if node not in found:
            found.add(node)
            stack.extend(n for n in document.nodes[node].children if n in everything)
    if not any(document.nodes[n].mesh is not None for n in found):
        return everything, []  # a scene without anything to see is no help
    hidden = [i for i, n in enumerate(document.nodes) if n.mesh is not None and i not in found]
    notes = []
    if hidden:
        name = document.scenes[scene].name or tr("scene {scene}", scene=scene)
        notes.append(
            tr_n(
                "Only {name} is shown; {number} mesh of other scenes is not.",
                "Only {name} is shown; {number} meshes of other scenes are not.",
                len(hidden),
                name=name,
            )
        )
    return found, notes


def humanoid_nodes(document: GltfDocument) -> dict[str, int]:
    """Humanoid roles and their nodes, from ``VRMC_vrm`` (VRM 1.0) or the older ``VRM``; empty
    where there is neither, or where it is damaged."""
    found: dict[str, int] = {}
    one = _within(document.extensions, "VRMC_vrm", "humanoid", "humanBones")
    if isinstance(one, dict):
        for role, bone in one.items():
            node = bone.get("node") if isinstance(bone, dict) else None
            if isinstance(node, int) and 0 <= node < len(document.nodes):
                found[str(role)] = node
    older = _within(document.extensions, "VRM", "humanoid", "humanBones")
    if not found and isinstance(older, list):
        for bone in older:
            node, role = (bone.get("node"), bone.get("bone")) if isinstance(bone, dict) else (0, 0)
            if isinstance(node, int) and isinstance(role, str) and 0 <= node < len(document.nodes):
                found[OLD_NAMES.get(role, role)] = node
    return found


def animated_nodes(document: GltfDocument) -> frozenset[int]:
    """Nodes that any animation of a file moves, turns or scales; damaged ones count for nothing."""
    found = set[int]()
    animations = document.animations if isinstance(document.animations, list) else []
    for animation in animations:
        channels = _within(animation, "channels")
        for channel in channels if isinstance(channels, list) else []:
            node, kind = _within(channel, "target", "node"), _within(channel, "target", "path")
            if isinstance(node, int) and 0 <= node < len(document.nodes) and kind != "weights":
                found.add(node)
    return frozenset(found)


def seen_beside(document: GltfDocument, moving: Collection[int]) -> frozenset[int]:
    """Nodes of a file without a skin that have something to see and belong to what moves: those
    in a tree with it, and those whose shapes change. Other trees are scenery. Where nothing moves
    all of them are meant."""
    meshes = {i for i, n in enumerate(document.nodes) if n.mesh is not None}
    if not moving:
        return frozenset(meshes)
    found = {i for i in meshes if document.target_names(i)}
    child = {c for node in document.nodes for c in node.children}
    for root in set(range(len(document.nodes))) - child:
        tree, stack = set[int](), [root]
        while stack:
            node = stack.pop()
            if node not in tree and 0 <= node < len(document.nodes):
                tree.add(node)
                stack.extend(document.nodes[node].children)
        if not tree.isdisjoint(moving):
            found |= meshes & tree
    return frozenset(found)


# VRM 1.0 renamed the joints of the thumb (VRMC_vrm, humanoid, "thumb")
OLD_NAMES = {
    f"{side}Thumb{old}": f"{side}Thumb{new}"
    for side in ("left", "right")
    for old, new in (("Proximal", "Metacarpal"), ("Intermediate", "Proximal"))
}


def _within(value: Any, *keys: str) -> Any:
    for key in keys:
        value = value.get(key) if isinstance(value, dict) else None
    return value
