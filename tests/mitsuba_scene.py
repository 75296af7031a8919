"""The same set for the reference renderer Mitsuba 3: meshes from the outline, panels as area emitters.

Built from a Plan, not from our kernel arrays, so that a wrong arrangement shows. Coated black is Mitsuba's `plastic`
with a black base; matte is `diffuse`. Cards, gridded heads and coated colours are not translated.
"""

from __future__ import annotations

import math
import os
from pathlib import Path

import numpy as np

from fotaxis.core.geometry.profile import Profile, refine
from fotaxis.core.prediction.plan import Plan, Skin
from fotaxis.core.sources.things import Panel

AROUND = 1440


def load():
    """Mitsuba with its compiled variant, for several cores."""
    if "DRJIT_LIBLLVM_PATH" not in os.environ:
        found = sorted(Path("/usr/lib").glob("*/libLLVM-19.so*")) + sorted(Path("/usr/lib").glob("llvm-19/lib/libLLVM.so*"))
        os.environ["DRJIT_LIBLLVM_PATH"] = str(found[0])
    import mitsuba as mi

    mi.set_variant("llvm_ad_rgb")
    mi.set_log_level(mi.LogLevel.Error)
    return mi


def _material(skin: Skin) -> dict:
    r = skin.reflectance
    colour = {"type": "rgb", "value": [r.red, r.green, r.blue]}
    if not skin.coat_index:
        return {"type": "twosided", "bsdf": {"type": "diffuse", "reflectance": colour}}
    if r.red + r.green + r.blue:
        raise NotImplementedError("coated colours are not translated")
    plastic = {"type": "plastic", "int_ior": skin.coat_index, "ext_ior": 1.0, "diffuse_reflectance": colour}
    return {"type": "twosided", "bsdf": plastic}


def _ring(y: np.ndarray, radius: np.ndarray, normals: np.ndarray, angles: np.ndarray):
    """Vertices and faces of stretches swept through angles; normals (stretches, 2, 2) as (height, radius)."""
    vertices, directions, faces = [], [], []
    sin, cos = np.sin(angles), np.cos(angles)
    n = len(angles)
    for i in range(len(y) - 1):
        base = 2 * n * i
        for end in (0, 1):
            r = radius[i + end]
            vertices.append(np.stack([r * sin, np.full(n, y[i + end]), r * cos], axis=1))
            ny, nr = normals[i, end]
            directions.append(np.stack([nr * sin, np.full(n, ny), nr * cos], axis=1))
        a = base + np.arange(n - 1)
        b, c, d = a + 1, a + n, a + n + 1
        faces += [np.stack([a, b, d], axis=1), np.stack([a, d, c], axis=1)]
    return np.concatenate(vertices), np.concatenate(directions), np.concatenate(faces)


def _mesh(mi, name: str, parts, material: dict):
    vertices, normals, faces = parts
    properties = mi.Properties()
    properties["bsdf"] = mi.load_dict(material)
    mesh = mi.Mesh(name, len(vertices), len(faces), has_vertex_normals=True, props=properties)
    parameters = mi.traverse(mesh)
    parameters["vertex_positions"] = np.ascontiguousarray(vertices, np.float32).ravel()
    parameters["vertex_normals"] = np.ascontiguousarray(normals, np.float32).ravel()
    parameters["faces"] = np.ascontiguousarray(faces, np.uint32).ravel()
    parameters.update()
    return mesh


def _cut(profile: Profile, lift: float, low: float, high: float):
    """The refined outline between two heights of the solid, lifted: heights, radii, normals."""
    outline = refine(profile)
    p, normals = outline.points, outline.normals
    ys, rs, ns = [], [], []
    for i in range(len(p) - 1):
        y0, y1 = p[i, 0], p[i + 1, 0]
        a, b = 0.0, 1.0
        if abs(y1 - y0) > 1e-12:
            ends = sorted(((low - y0) / (y1 - y0), (high - y0) / (y1 - y0)))
            a, b = max(0.0, ends[0]), min(1.0, ends[1])
        elif not low <= y0 <= high:
            continue
        if b - a < 1e-9:
            continue
        for part in (a, b):
            point = p[i] * (1 - part) + p[i + 1] * part
            normal = normals[i, 0] * (1 - part) + normals[i, 1] * part
            ys.append(point[0] + lift)
            rs.append(point[1])
            ns.append(normal / np.linalg.norm(normal))
    return np.array(ys), np.array(rs), np.array(ns)


def _solid(mi, profile: Profile, lift: float, skin: Skin, zones, name: str) -> dict:
    """Meshes of a solid: the body, with a window for every zone (zones must not overlap)."""
    shapes = {}
    edges = sorted({profile.foot_m, profile.top_m, *(z.low_m for z in zones), *(z.high_m for z in zones)})
    for k in range(len(edges) - 1):
        low, high = edges[k], edges[k + 1]
        here = [z for z in zones if z.low_m <= low and high <= z.high_m]
        half = here[0].width_rad / 2 if here else 0.0
        middle = here[0].azimuth_rad if here else 0.0
        sides = [(skin, middle + half, middle - half + 2 * math.pi)]
        if here:
            sides.append((here[0].skin, middle - half, middle + half))
        for j, (material, begin, end) in enumerate(sides):
            if end - begin < 1e-9:
                continue
            angles = np.linspace(begin, end, 1 + max(8, round(AROUND * (end - begin) / (2 * math.pi))))
            y, r, n = _cut(profile, lift, low, high)
            parts = [_ring(y[i : i + 2], r[i : i + 2], n[None, i : i + 2], angles) for i in range(0, len(y), 2)]
            offset = np.cumsum([0, *(len(v) for v, _, _ in parts[:-1])])
            joined = (
                np.concatenate([v for v, _, _ in parts]), np.concatenate([d for _, d, _ in parts]),
                np.concatenate([f + o for (_, _, f), o in zip(parts, offset, strict=True)]),
            )  # fmt: skip
            shapes[f"{name}-{k}-{j}"] = _mesh(mi, f"{name}-{k}-{j}", joined, _material(material))
    return shapes


def _axes(turn: float, tilt: float):
    """Across, up, front of a thing from the definition: turn 0 looks to the camera, positive towards the right."""
    front = np.array([math.sin(turn) * math.cos(tilt), math.sin(tilt), math.cos(turn) * math.cos(tilt)])
    across = np.array([math.cos(turn), 0.0, -math.sin(turn)])
    return across, np.cross(front, across), front


def _rectangle(mi, centre, across, up, front, half_w, half_h):
    matrix = np.eye(4)
    matrix[:3, 0], matrix[:3, 1], matrix[:3, 2], matrix[:3, 3] = across * half_w, up * half_h, front, centre
    return {"type": "rectangle", "to_world": mi.ScalarTransform4f(matrix)}


def _panel(mi, panel: Panel) -> dict:
    s = panel.stance
    shape = _rectangle(mi, s.place.array(), *_axes(s.turn_rad, s.tilt_rad), panel.width_m / 2, panel.height_m / 2)
    value = panel.full_luminance
    radiance: dict = {"type": "rgb", "value": [value] * 3}
    if panel.gradient == "ramp":
        u = (np.arange(1024) + 0.5) / 1024
        picture = np.repeat((value * 2.0 ** (-panel.gradient_stops * u))[None, :, None], 2, axis=0).repeat(3, axis=2)
        bitmap = mi.Bitmap(picture.astype(np.float32))
        radiance = {"type": "bitmap", "bitmap": bitmap, "raw": True, "wrap_mode": "clamp"}
    elif panel.gradient != "even":
        raise NotImplementedError(panel.gradient)
    shape["emitter"] = {"type": "area", "radiance": radiance}
    shape["bsdf"] = {"type": "diffuse", "reflectance": {"type": "rgb", "value": 0.0}}
    return shape


def scene(mi, plan: Plan, *, width: int, height: int, depth: int = 12, lights: tuple[int, ...] | None = None):
    """A Mitsuba scene of a plan; only the panels numbered in `lights` shine (the others stand there dark)."""
    camera = plan.camera
    half_w, _ = camera.half_field
    made: dict = {
        "type": "scene",
        "integrator": {"type": "path", "max_depth": depth, "rr_depth": 100},
        "sensor": {
            "type": "perspective",
            "fov": 2 * math.degrees(math.atan(half_w)),
            "fov_axis": "x",
            "near_clip": 0.01,
            "to_world": mi.ScalarTransform4f().look_at(
                origin=camera.place.array().tolist(), target=camera.aim.array().tolist(), up=[0, 1, 0]
            ),
            "film": {
                "type": "hdrfilm", "width": width, "height": height, "rfilter": {"type": "box"}, "pixel_format": "rgb",
                "component_format": "float32",
            },
            "sampler": {"type": "independent", "sample_count": 16},
        },
    }  # fmt: skip
    subject = plan.subject
    made |= _solid(mi, subject.profile, plan.lift_m - subject.profile.foot_m + 2e-5, subject.body, subject.bands, "product")
    if plan.riser:
        r = plan.riser
        block = Profile(heights_m=(0.0, r.height_m), radii_m=(r.diameter_m / 2, r.diameter_m / 2))
        made |= _solid(mi, block, 0.0, r.skin, (), "riser")
    if plan.table:
        t = plan.table
        axes = np.array([1.0, 0, 0]), np.array([0, 0, -1.0]), np.array([0, 1.0, 0])
        made["table"] = _rectangle(mi, np.zeros(3), *axes, t.width_m / 2, t.depth_m / 2) | {"bsdf": _material(t.skin)}
    if plan.background:
        b = plan.background
        centre = np.array([0, b.centre_height_m, -b.distance_m])
        made["background"] = _rectangle(mi, centre, *_axes(0, 0), b.width_m / 2, b.height_m / 2)
        made["background"]["bsdf"] = _material(b.skin)
    for i, light in enumerate(plan.lights):
        assert isinstance(light, Panel)
        shape = _panel(mi, light)
        if lights is not None and i not in lights:
            del shape["emitter"]
        made[f"light-{i}"] = shape
    return mi.load_dict(made)


def render(mi, made, *, passes: int, samples: int = 16, seed: int = 0) -> np.ndarray:
    """Mean of several passes, (height, width, 3) float64; memory stays that of one pass."""
    total = None
    for number in range(passes):
        picture = np.array(mi.render(made, spp=samples, seed=seed + number), np.float64)
        total = picture if total is None else total + picture
    return total / passes
