"""Meshes of known size and shape for tests."""

import numpy as np

from contour.mesh.facets import Mesh, mesh_of_soup


def sphere(count: int = 48, radius: float = 20.0) -> Mesh:
    """Latitudes and longitudes, facets outwards; its volume is known for the polyhedron itself."""
    u = np.linspace(0, np.pi, count + 1)[1:-1]
    v = np.arange(2 * count) * np.pi / count
    ring = np.array([[np.sin(a) * np.cos(b), np.sin(a) * np.sin(b), np.cos(a)] for a in u for b in v])
    points = radius * np.vstack([[0, 0, 1], ring, [0, 0, -1]])
    n = 2 * count
    at = lambda i, j: 1 + i * n + j % n  # noqa: E731
    facets = [(0, at(0, j), at(0, j + 1)) for j in range(n)]
    for i in range(count - 2):
        for j in range(n):
            facets += [(at(i, j), at(i + 1, j), at(i + 1, j + 1)), (at(i, j), at(i + 1, j + 1), at(i, j + 1))]
    last = len(points) - 1
    facets += [(at(count - 2, j + 1), at(count - 2, j), last) for j in range(n)]
    return Mesh(points, np.array(facets, dtype=np.int32), np.arange(len(facets)))


def soup(*parts: np.ndarray) -> Mesh:
    corners = np.vstack(parts)
    return mesh_of_soup(corners, np.arange(len(corners)))


def punched(mesh: Mesh, place, radius: float) -> Mesh:
    centres = mesh.vertices[mesh.facets].mean(axis=1)
    return mesh.without(np.linalg.norm(centres - np.array(place), axis=1) < radius)


def subdivided(corners: np.ndarray, times: int) -> Mesh:
    for _ in range(times):
        a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
        d, e, f = (a + b) / 2, (b + c) / 2, (c + a) / 2
        corners = np.vstack([np.stack(t, 1) for t in ((a, d, f), (d, b, e), (f, e, c), (d, e, f))])
    return soup(corners)
