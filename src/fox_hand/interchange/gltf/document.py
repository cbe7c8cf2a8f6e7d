"""The parts of a glTF document that describe rigs, and the containers they come in."""

from __future__ import annotations

import base64
import binascii
import re
import struct
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import TooDeepError, decode_json
from fox_hand.base.files.inputs import MOTION, read_file
from fox_hand.base.language import tr

KEPT = tr("Nothing that was open has changed.")
PREVIEW = "preview"  # in the extras of an image: a view that holds the same, small


class Struct(msgspec.Struct, rename="camel"):
    """Field names as in the specification."""


class Sparse(Struct):
    count: int
    indices: dict[str, Any]
    values: dict[str, Any]


class Accessor(Struct):
    component_type: int
    count: int
    type: str
    buffer_view: int | None = None
    byte_offset: int = 0
    normalized: bool = False
    sparse: Sparse | None = None


class BufferView(Struct):
    buffer: int
    byte_length: int
    byte_offset: int = 0
    byte_stride: int | None = None


class Buffer(Struct):
    byte_length: int
    uri: str | None = None


class Node(Struct):
    name: str | None = None
    children: list[int] = []
    mesh: int | None = None
    skin: int | None = None
    matrix: list[float] | None = None
    translation: list[float] | None = None
    rotation: list[float] | None = None
    scale: list[float] | None = None
    weights: list[float] = []


class Scene(Struct):
    nodes: list[int] = []
    name: str | None = None


class Primitive(Struct):
    attributes: dict[str, int]
    indices: int | None = None
    material: int | None = None
    mode: int = 4
    targets: list[dict[str, int]] = []


class Mesh(Struct):
    primitives: list[Primitive]
    name: str | None = None
    weights: list[float] = []
    extras: Any = None

    def given_names(self) -> list[str]:
        """Names that the file gives to morph targets (``extras.targetNames``, as the specification
        suggests)."""
        names = self.extras.get("targetNames") if isinstance(self.extras, dict) else None
        return [n for n in names if isinstance(n, str)] if isinstance(names, list) else []

    @property
    def targets(self) -> int:
        """How many morph targets it has."""
        return max((len(p.targets) for p in self.primitives), default=0)

    def target_names(self, front: str = "") -> list[str]:
        """Names of the morph targets; those without one are numbered, ``front`` before them."""
        given = self.given_names()
        return [given[i] if i < len(given) else f"{front}target_{i}" for i in range(self.targets)]


class Skin(Struct):
    joints: list[int]
    inverse_bind_matrices: int | None = None
    name: str | None = None


class TextureRef(Struct):
    index: int
    tex_coord: int = 0


class Metallic(Struct):
    base_color_factor: tuple[float, float, float, float] = (1.0, 1.0, 1.0, 1.0)
    base_color_texture: TextureRef | None = None
    roughness_factor: float = 1.0


class MaterialInfo(Struct):
    name: str | None = None
    pbr_metallic_roughness: Metallic | None = None
    double_sided: bool = False
    alpha_mode: str = "OPAQUE"
    alpha_cutoff: float = 0.5
    emissive_factor: tuple[float, float, float] = (0.0, 0.0, 0.0)
    extensions: Any = None

    @property
    def unlit(self) -> bool:
        """Whether it is shown in its own colours (extension KHR_materials_unlit)."""
        return isinstance(self.extensions, dict) and "KHR_materials_unlit" in self.extensions


class Texture(Struct):
    source: int | None = None


class Image(Struct):
    uri: str | None = None
    buffer_view: int | None = None
    extras: Any = None


class Asset(Struct):
    version: str


class GltfDocument(Struct):
    """Everything of a glTF file that matters for a rig."""

    asset: Asset
    accessors: list[Accessor] = []
    buffer_views: list[BufferView] = []
    buffers: list[Buffer] = []
    nodes: list[Node] = []
    meshes: list[Mesh] = []
    skins: list[Skin] = []
    materials: list[MaterialInfo] = []
    textures: list[Texture] = []
    images: list[Image] = []
    extensions_required: list[str] = []
    extensions: Any = None
    scenes: list[Scene] = []
    scene: int | None = None
    animations: Any = None

    def target_names(self, node: int) -> list[str]:
        """Names of the morph targets of a node's mesh; none where it has none, or one that is not
        there (which readers of its mesh refuse)."""
        mesh = self.nodes[node].mesh
        if mesh is None or not 0 <= mesh < len(self.meshes):
            return []
        if not self.meshes[mesh].targets:
            return []
        nameless = [i for i, m in enumerate(self.meshes) if len(m.given_names()) < m.targets]
        # two meshes with nameless targets have nothing to do with each other
        front = self.meshes[mesh].name or f"mesh_{mesh}"
        return self.meshes[mesh].target_names(f"{front}_" if len(nameless) > 1 else "")

    def target_weights(self, node: int) -> list[float]:
        """How far morph targets of a node's mesh are on where nothing moves them (glTF 2.0,
        3.7.2.2: the node's weights before the mesh's)."""
        mesh = self.nodes[node].mesh
        if self.nodes[node].weights or mesh is None or not 0 <= mesh < len(self.meshes):
            return self.nodes[node].weights
        return self.meshes[mesh].weights


# more is no character; reading it would only take time and memory
MOST_THINGS, MOST_NODES, MOST_TARGETS = 300_000, 50_000, 5_000

READABLE_EXTENSIONS = {
    "KHR_mesh_quantization",
    "KHR_texture_transform",
    "KHR_materials_unlit",
    "VRMC_vrm",
    "VRM",
    "VRMC_materials_mtoon",
    "VRMC_springBone",
    "VRMC_node_constraint",
}


def damaged(path: Path, why: str) -> FoxHandError:
    """The error for a glTF file whose inside does not hold together."""
    return FoxHandError(
        "gltf.damaged", tr("{name} is damaged: {why}.", name=path.name, why=why), KEPT
    )


def open_document(path: Path) -> tuple[GltfDocument, list[bytes]]:
    """Read a ``.glb`` or ``.gltf`` file and its buffers.

    Raises:
        FoxHandError: with a sentence for files that are missing, empty, cut off, of another
            kind, of another version, or that need an extension this program does not read.
    """
    document, buffers, _ = open_parts(path)
    return document, buffers


def open_parts(path: Path) -> tuple[GltfDocument, list[bytes], bytes]:
    """As :func:`open_document`, and the text of the description as it lies in the file."""
    try:
        data = read_file(path, MOTION)
    except OSError as error:
        raise FoxHandError(
            "gltf.unreadable",
            tr("{name} cannot be opened ({strerror}).", name=path.name, strerror=error.strerror),
            KEPT,
        ) from error
    if not data:
        raise FoxHandError("gltf.empty", tr("{name} is empty (0 bytes).", name=path.name), KEPT)
    text, binary = _glb_chunks(path, data) if data[:4] == b"glTF" else (data, None)
    document = _decode(path, text)
    if not document.asset.version.startswith("2."):
        raise FoxHandError(
            "gltf.version",
            tr(
                "{name} is glTF {version}; glTF 2.0 is needed.",
                name=path.name,
                version=document.asset.version,
            ),
            KEPT,
        )
    unread = sorted(set(document.extensions_required) - READABLE_EXTENSIONS)
    if unread:
        raise FoxHandError(
            "gltf.extension",
            tr(
                "{name} needs {names}, which Fox Hand does not read.",
                name=path.name,
                names=", ".join(unread),
            ),
            KEPT,
            tr("Export it again without that extension."),
        )
    return document, _buffers(path, document, binary), text


def _buffers(path: Path, document: GltfDocument, binary: bytes | None) -> list[bytes]:
    found, total = [], 0
    for buffer in document.buffers:
        data = _buffer(path, buffer, binary)
        total += len(data)
        if total > MOTION:  # one file may be named many times
            raise damaged(path, tr("its buffers are far too large together"))
        found.append(data)
    return found


def _glb_chunks(path: Path, data: bytes) -> tuple[bytes, bytes | None]:
    if len(data) < 20:
        raise _truncated(path, len(data), 20)
    version, length = struct.unpack_from("<II", data, 4)
    if version != 2:
        raise FoxHandError(
            "gltf.version",
            tr("{name} is GLB version {version}, not 2.", name=path.name, version=version),
            KEPT,
        )
    if length > len(data):
        raise _truncated(path, len(data), length)
    chunks: dict[bytes, bytes] = {}
    at = 12
    while at + 8 <= length:
        size, kind = struct.unpack_from("<I4s", data, at)
        if at + 8 + size > len(data):
            raise _truncated(path, len(data), at + 8 + size)
        chunks.setdefault(kind, data[at + 8 : at + 8 + size])
        at += 8 + size
    if b"JSON" not in chunks:
        raise damaged(path, tr("its description is missing"))
    return chunks[b"JSON"], chunks.get(b"BIN\0")


def _truncated(path: Path, arrived: int, wanted: int) -> FoxHandError:
    return FoxHandError(
        "gltf.truncated",
        tr(
            "{name} ends in the middle: {arrived} of {wanted} bytes are there.",
            name=path.name,
            arrived=arrived,
            wanted=wanted,
        ),
        KEPT,
        tr("Copy or export it again."),
    )


def _decode(path: Path, text: bytes) -> GltfDocument:
    if text.count(b"{") > MOST_THINGS:
        raise damaged(
            path, tr("it describes more than {most_things:,} things", most_things=MOST_THINGS)
        )
    try:
        text.decode("utf-8")  # what is not asked for by name would pass otherwise
        document = decode_json(text, GltfDocument)
    except msgspec.ValidationError as error:
        if b'"asset"' not in text:
            raise _not_gltf(path) from error
        raise damaged(
            path, tr("its description is not what glTF says ({spot})", spot=_spot(error))
        ) from error
    except TooDeepError as error:
        raise damaged(path, tr("its description is nested too deeply")) from error
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        if b'"asset"' in text:
            raise damaged(path, tr("its description cannot be read to its end")) from error
        raise _not_gltf(path) from error
    _count(path, document)
    return document


def _count(path: Path, document: GltfDocument) -> None:
    if len(document.nodes) > MOST_NODES:
        raise damaged(path, tr("it has more than {most_nodes:,} nodes", most_nodes=MOST_NODES))
    targets = (len(p.targets) for m in document.meshes for p in m.primitives)
    if max(targets, default=0) > MOST_TARGETS:
        raise damaged(
            path, tr("a mesh has more than {most_targets:,} targets", most_targets=MOST_TARGETS)
        )


def _spot(error: msgspec.ValidationError) -> str:
    """Where a description is wrong, as in ``nodes[...].skin``."""
    _, found, place = str(error).rpartition("at `$")
    return place.strip("`").lstrip(".") or tr("at its top") if found else tr("at its top")


def _not_gltf(path: Path) -> FoxHandError:
    return FoxHandError(
        "gltf.other_kind",
        tr("{name} is not a glTF file.", name=path.name),
        KEPT,
        tr("Choose a .glb or .gltf file."),
    )


def _buffer(path: Path, buffer: Buffer, binary: bytes | None) -> bytes:
    if buffer.uri is None:
        if binary is None:
            raise damaged(path, tr("its binary part is missing"))
        data = binary
    else:
        data = read_uri(path, buffer.uri)
    if buffer.byte_length < 0:
        raise damaged(path, tr("a buffer has a length below zero"))
    if len(data) < buffer.byte_length:
        raise _truncated(path, len(data), buffer.byte_length)
    return data


def read_uri(path: Path, uri: str) -> bytes:
    """Bytes of a data URI or of a file beside the glTF file."""
    if uri.startswith("data:"):
        try:
            return base64.b64decode(uri.partition(",")[2], validate=False)
        except binascii.Error as error:
            raise damaged(path, tr("an embedded part cannot be decoded")) from error
    other = beside(path, uri)
    try:
        return read_file(other, MOTION)
    except OSError as error:
        raise FoxHandError(
            "gltf.part_missing",
            tr(
                "{name} needs {unquote} beside it, which cannot be opened.",
                name=path.name,
                unquote=unquote(uri),
            ),
            KEPT,
        ) from error


def beside(path: Path, uri: str) -> Path:
    """Where a file lies that a glTF file names: beside it or below, and nowhere else.

    Raises:
        FoxHandError: ``gltf.outside``.
    """
    name = unquote(uri)
    inside = "\0" not in name and not re.match(r"[A-Za-z][A-Za-z0-9+.-]*:", name)
    if inside:
        folder = path.absolute().parent.resolve()
        other = (folder / name).resolve()
        if other.is_relative_to(folder):
            return other
    shown = "".join(c if c.isprintable() else "?" for c in name)[:80]
    raise FoxHandError(
        "gltf.outside",
        tr(
            "{name} names {shown}, which does not lie beside it or below; such files are not read.",
            name=path.name,
            shown=shown,
        ),
        KEPT,
        tr("Put the file beside it, or export everything into one .glb."),
    )


def named_files(path: Path) -> list[Path]:
    """Files beside a glTF file that it names.

    Raises:
        FoxHandError: if it cannot be read.
    """
    document, _ = open_document(path)
    uris = [b.uri for b in document.buffers] + [i.uri for i in document.images]
    named = [uri for uri in uris if uri is not None and not uri.startswith("data:")]
    return [beside(path, uri) for uri in named]
