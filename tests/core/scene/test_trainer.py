"""The trainer's mesh: closed, as large as it is told, its faces outwards."""

from collections import Counter

import numpy as np
import pytest

from fotaxis.core.errors import DomainError
from fotaxis.core.scene.products.trainer import Trainer


@pytest.fixture(scope="module")
def mesh():
    return Trainer(length_m=0.29, width_m=0.105, height_m=0.12).mesh


def test_it_is_as_large_as_its_measures(mesh):
    assert np.ptp(mesh.vertices, axis=0) == pytest.approx([0.29, 0.12, 0.105], rel=0.04)
    assert mesh.vertices[:, 1].min() == pytest.approx(0, abs=1e-9)


def test_every_edge_has_a_face_on_either_side(mesh):
    corners = np.unique(np.round(mesh.vertices, 7), axis=0, return_inverse=True)[1].ravel()[mesh.triangles]
    edges = Counter(
        tuple(sorted((int(a), int(b)))) for t in corners for a, b in ((t[0], t[1]), (t[1], t[2]), (t[2], t[0])) if a != b
    )
    assert set(edges.values()) == {2}


def test_its_normals_look_out(mesh):
    p, q, r = (mesh.vertices[mesh.triangles[:, k]] for k in range(3))
    across = np.cross(q - p, r - p)
    assert np.einsum("ij,ij->i", p, np.cross(q, r)).sum() / 6 > 0.0008  # its volume, m3
    blended = mesh.normals[mesh.triangles].mean(axis=1)
    assert (np.einsum("ij,ij->i", across, blended) > -1e-12).mean() > 0.99


def test_a_shoe_without_a_size_is_refused():
    with pytest.raises(DomainError, match="length"):
        Trainer(length_m=0, width_m=0.1, height_m=0.1)
