"""A stored custom part as the core's value: its mesh is fetched only when it is needed."""

import io
import zipfile
from collections.abc import Mapping
from typing import Any

from django.apps import apps

from brunt_core.errors import InputError
from brunt_core.specimens.types import Part, SpecimenType, make_type

_MOST_UNPACKED = 120_000_000

Facts = Mapping[str, Any]


def packed_mesh(mesh: Any) -> bytes:
    """A mesh's corners and faces in one compressed array file."""
    import numpy as np

    out = io.BytesIO()
    np.savez_compressed(
        out,
        vertices=np.asarray(mesh.vertices, dtype=np.float64),
        faces=np.asarray(mesh.faces, dtype=np.uint32),
    )
    return out.getvalue()


def unpacked_mesh(content: bytes | memoryview) -> Any:
    """The mesh of such a file. Raises :class:`InputError` for one that unpacks to more than a mesh can be."""
    import numpy as np
    import trimesh

    with zipfile.ZipFile(io.BytesIO(bytes(content))) as archive:
        if sum(part.file_size for part in archive.infolist()) > _MOST_UNPACKED:
            raise InputError("This mesh is larger than any that Brunt reads.", "file")
    with np.load(io.BytesIO(bytes(content)), allow_pickle=False) as file:
        return trimesh.Trimesh(file["vertices"], file["faces"], process=False)


def own_type(pk: int, name: str, shape: str, sizes: Mapping[str, float], facts: Facts | None) -> SpecimenType:  # fmt: skip
    """The geometry of one of the workshop's own types."""
    return make_type(f"own-{pk}", name, shape, sizes, part=as_part(pk, facts) if facts else None)


def as_part(pk: int, facts: Facts) -> Part:
    """What is kept of a part, as the core knows it."""
    return Part(
        digest=facts["digest"],
        outline=tuple((x, y) for x, y in facts["outline"]),
        turns=facts["turns"],
        boxes={k: (b[0], b[1], b[2]) for k, b in facts["boxes"].items()},
        mesh=lambda: _mesh(pk),
        places=tuple((p["key"], p["label"], p["letter"], p["at"]) for p in facts.get("places", [])),
        stress_per_load=facts.get("stress_per_load"),
        fixtures=facts.get("fixtures", ""),
    )


def _mesh(pk: int) -> Any:
    model = apps.get_model("library", "PartMesh")
    return unpacked_mesh(model.objects.only("content").get(variant_id=pk).content)
