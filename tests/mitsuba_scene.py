"""The same set for the reference renderer Mitsuba 3: meshes from the outline, panels as area emitters.

Built from a Plan, not from our kernel arrays, so that a wrong arrangement shows. Coated paper is Mitsuba's `plastic`, matte
is `diffuse`, metal `conductor` or `roughconductor`, glass `dielectric`. Reliefs are real, displaced geometry, and a box's
zones rectangles laid on it. Heads are translated where their face is even and shines all over (or all round); honeycombs are not.
Cards and sheets scatter by a BSDF written here.
"""

from __future__ import annotations

import dataclasses
import hashlib
import math
import os
from pathlib import Path

import numpy as np

from fotaxis.core.geometry.profile import Profile, refine
from fotaxis.core.lights.beam_patterns import LAMBERT
from fotaxis.core.lights.fixtures import Card, Lamp, Panel
from fotaxis.core.materials.catalogue import REAR_PAINT_INDEX
from fotaxis.core.materials.material import Skin
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.products.ball import Sphere
from fotaxis.core.scene.products.can import Can
from fotaxis.core.scene.products.turned import Turned

KEPT = Path(__file__).parent / "references"
AROUND = 1440
UNIT = 100.0
"""The reference works in centimetres: its rays start a ten-thousandth of (1 + their place) off a surface, which in metres
would be 0.1 mm, several hundredths of a glass wall."""


def load():
    """Mitsuba with its compiled variant, for several cores."""
    if "DRJIT_LIBLLVM_PATH" not in os.environ:
        found = sorted(Path("/usr/lib").glob("*/libLLVM-19.so*")) + sorted(Path("/usr/lib").glob("llvm-19/lib/libLLVM.so*"))
        os.environ["DRJIT_LIBLLVM_PATH"] = str(found[0])
    import mitsuba as mi

    mi.set_variant("llvm_ad_rgb")
    mi.set_log_level(mi.LogLevel.Error)
    return mi


def _rgb(values) -> dict:
    return {"type": "rgb", "value": [float(v) for v in values]}


def _material(skin: Skin) -> dict:
    r = skin.reflectance
    if skin.metal:
        m = skin.metal
        made = {"type": "conductor", "eta": _rgb(m.n), "k": _rgb(m.k), "specular_reflectance": _rgb(m.tint)}
        along, across = skin.roughness_along
        if along:
            made |= {"type": "roughconductor", "distribution": "ggx", "alpha_u": along, "alpha_v": across}
        return {"type": "twosided", "bsdf": made}
    colour = _rgb((r.red, r.green, r.blue))
    if not skin.coat_index:
        return {"type": "twosided", "bsdf": {"type": "diffuse", "reflectance": colour}}
    plastic = {
        "type": "plastic",
        "int_ior": skin.coat_index,
        "ext_ior": 1.0,
        "diffuse_reflectance": colour,
        "nonlinear": True,
    }
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


def _mesh(mi, name: str, parts, material: dict, *, texture=None, media=()):
    """A mesh with normals; faces are turned the way their normals look. texture (n, 2): u, v for brushed metal."""
    vertices, normals, faces = parts
    a, b, c = (vertices[faces[:, k]] for k in range(3))
    look = (np.cross(b - a, c - a) * (normals[faces].mean(axis=1))).sum(axis=1)
    faces = np.where(look[:, None] < 0, faces[:, ::-1], faces)
    properties = mi.Properties()
    properties["bsdf"] = mi.load_dict(material)
    for side, medium in media:
        properties[side] = medium
    mesh = mi.Mesh(
        name, len(vertices), len(faces), has_vertex_normals=True, has_vertex_texcoords=texture is not None, props=properties
    )
    parameters = mi.traverse(mesh)
    parameters["vertex_positions"] = np.ascontiguousarray(vertices * UNIT, np.float32).ravel()
    parameters["vertex_normals"] = np.ascontiguousarray(normals, np.float32).ravel()
    if texture is not None:
        parameters["vertex_texcoords"] = np.ascontiguousarray(texture, np.float32).ravel()
    parameters["faces"] = np.ascontiguousarray(faces, np.uint32).ravel()
    parameters.update()
    return mesh


def _joined(parts):
    offset = np.cumsum([0, *(len(v) for v, _, _ in parts[:-1])])
    return (
        np.concatenate([v for v, _, _ in parts]), np.concatenate([d for _, d, _ in parts]),
        np.concatenate([f + o for (_, _, f), o in zip(parts, offset, strict=True)]),
    )  # fmt: skip


def _swept(outline, origin, begin=0.0, end=2 * math.pi):
    """A whole outline swept through angles, moved to its place."""
    angles = np.linspace(begin, end, 1 + max(8, round(AROUND * (end - begin) / (2 * math.pi))))
    p = outline.points
    parts = [_ring(p[i : i + 2, 0], p[i : i + 2, 1], outline.normals[i : i + 1], angles) for i in range(len(p) - 1)]
    vertices, normals, faces = _joined(parts)
    return vertices + origin, normals, faces


def _between_media(index_in: float, index_out: float) -> dict:
    return {"type": "dielectric", "int_ior": float(index_in), "ext_ior": float(index_out)}


def _vessel(mi, product, lift: float, name: str, colour: bool) -> dict:
    """Outer and inner walls, liquid and its top; zones of full width cut the outer wall. colour: absorbing media too."""
    vessel = product.vessel
    walls = product.walls()
    origin = np.array([product.x_m, lift - product.profile.foot_m + 2e-5, product.z_m])
    glass, liquid = vessel.glass, vessel.liquid

    def inside(medium):
        if not colour or medium is None:
            return None
        density = np.array(medium.absorption()[1:]) / UNIT
        scale = float(max(density.max(), 1e-6))
        return mi.load_dict({"type": "homogeneous", "albedo": 0.0, "scale": scale, "sigma_t": _rgb(density / scale)})

    in_glass, in_liquid = inside(glass), inside(liquid)

    def media(inner, outer):
        return tuple((side, m) for side, m in (("interior", inner), ("exterior", outer)) if m is not None)

    made = {}
    for k, (outline, bsdf, sides) in enumerate((
        (walls.dry, _between_media(glass.index, 1.0), media(in_glass, None)),
        (walls.wet, _between_media(glass.index, liquid.index if liquid else 1.0), media(in_glass, in_liquid)),
        (walls.level, _between_media(liquid.index if liquid else 1.0, 1.0), media(in_liquid, None)),
    )):  # fmt: skip
        if outline is not None:
            made[f"{name}-in-{k}"] = _mesh(mi, f"{name}-in-{k}", _swept(outline, origin), bsdf, media=sides)
    bare = _between_media(glass.index, 1.0), media(in_glass, None)
    points, normals = walls.outer.points, walls.outer.normals
    edges = sorted({float(points[:, 0].min()), float(points[:, 0].max()), *(z.low_m for z in product.bands),
                    *(z.high_m for z in product.bands)})  # fmt: skip
    for k in range(len(edges) - 1):
        low, high = edges[k], edges[k + 1]
        here = [z for z in product.bands if z.low_m <= low and high <= z.high_m]
        y, r, n = _cut_outline(points, normals, 0.0, low, high)
        half = here[0].width_rad / 2 if here else 0.0
        middle = here[0].azimuth_rad if here else 0.0
        sides = [(bare, middle + half, middle - half + 2 * math.pi)]
        if here:
            sides.append(((_material(here[0].skin), ()), middle - half, middle + half))
        for j, ((bsdf, around), begin, end) in enumerate(sides):
            angles = np.linspace(begin, end, 1 + max(8, round(AROUND * (end - begin) / (2 * math.pi))))
            vertices, directions, faces = _joined(
                [_ring(y[i : i + 2], r[i : i + 2], n[None, i : i + 2], angles) for i in range(0, len(y), 2)]
            )
            made[f"{name}-{k}-{j}"] = _mesh(
                mi, f"{name}-{k}-{j}", (vertices + origin, directions, faces), bsdf, media=around
            )
    return made


def _placed_mesh(mi, product, lift: float, name: str) -> dict:
    """Box, tube or model, standing; a box's zones are rectangles just above its faces."""
    mesh = product.shape.mesh
    turn = product.turn_rad
    axes = np.array([[math.cos(turn), 0, -math.sin(turn)], [0, 1, 0], [math.sin(turn), 0, math.cos(turn)]])
    origin = np.array([product.x_m, lift + 2e-5, product.z_m])
    parts = mesh.vertices @ axes + origin, mesh.normals @ axes, mesh.triangles
    made = {name: _mesh(mi, name, parts, _material(product.body))}
    for k, band in enumerate(product.bands):
        assert band.face == "front"
        centre = np.array([band.centre_m, (band.low_m + band.high_m) / 2, product.shape.depth_m / 2 + 2e-6]) @ axes + origin
        half_h = (band.high_m - band.low_m) / 2
        made[f"{name}-{k}"] = _rectangle(mi, centre, axes[0], axes[1], axes[2], band.width_m / 2, half_h)
        made[f"{name}-{k}"]["bsdf"] = _material(band.skin)
    return made


def displaced(mi, name: str, *, width: float, depth: float, centre, height, material: dict, steps: int):
    """A flat top of width x depth around `centre` whose height (x, z -> y, dy/dx, dy/dz) is real geometry."""
    x, z = np.meshgrid(np.linspace(-width / 2, width / 2, steps), np.linspace(-depth / 2, depth / 2, steps), indexing="ij")
    y, dx, dz = height(x, z)
    vertices = np.stack([x + centre[0], y + centre[1], z + centre[2]], axis=-1).reshape(-1, 3)
    normals = np.stack([-dx, np.ones_like(y), -dz], axis=-1).reshape(-1, 3)
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    index = np.arange(steps * steps).reshape(steps, steps)
    a, b, c, d = index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]
    faces = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])
    return _mesh(mi, name, (vertices, normals, faces), material)


def _cut(profile: Profile, lift: float, low: float, high: float):
    """The refined outline between two heights of the solid, lifted: heights, radii, normals."""
    outline = refine(profile)
    return _cut_outline(outline.points, outline.normals, lift, low, high)


def _cut_outline(p, normals, lift: float, low: float, high: float):
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
            joined = _joined([_ring(y[i : i + 2], r[i : i + 2], n[None, i : i + 2], angles) for i in range(0, len(y), 2)])
            # Around, then up: the axes that brushed metal is rough along.
            texture = np.stack([np.arctan2(joined[0][:, 0], joined[0][:, 2]), joined[0][:, 1]], axis=1)
            texture = texture if material.metal and material.roughness_along[0] else None
            shapes[f"{name}-{k}-{j}"] = _mesh(mi, f"{name}-{k}-{j}", joined, _material(material), texture=texture)
    return shapes


def _axes(turn: float, tilt: float):
    """Across, up, front of a thing from the definition: turn 0 looks to the camera, positive towards the right."""
    front = np.array([math.sin(turn) * math.cos(tilt), math.sin(tilt), math.cos(turn) * math.cos(tilt)])
    across = np.array([math.cos(turn), 0.0, -math.sin(turn)])
    return across, np.cross(front, across), front


def _rectangle(mi, centre, across, up, front, half_w, half_h):
    matrix = np.eye(4)
    matrix[:3, 0], matrix[:3, 1], matrix[:3, 2], matrix[:3, 3] = (
        across * half_w * UNIT,
        up * half_h * UNIT,
        front,
        centre * UNIT,
    )
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


def _lamp(mi, lamp: Lamp) -> dict:
    assert lamp.head.ball or lamp.head.pattern.kind == LAMBERT
    assert not lamp.grid_angle_rad
    radiance = {"type": "rgb", "value": [lamp.full_luminance] * 3}
    radius, s = lamp.diameter_m / 2, lamp.stance
    made: dict = {"type": "sphere", "radius": radius * UNIT, "center": (s.place.array() * UNIT).tolist()}
    if not lamp.head.ball:
        made = _rectangle(mi, s.place.array(), *_axes(s.turn_rad, s.tilt_rad), radius, radius) | {"type": "disk"}
    made["emitter"] = {"type": "area", "radiance": radiance}
    made["bsdf"] = {"type": "diffuse", "reflectance": {"type": "rgb", "value": 0.0}}
    return made


def _scatter_bsdf(mi):
    """A flat thing as sources.finishes describes it, green alone: even scatter back and through, lobes straight on and mirrored."""
    import drjit as dr

    class Scatter(mi.BSDF):
        def __init__(self, props):
            super().__init__(props)
            self.back, self.through = props["back"], props["through"]
            self.straight, self.straight_tight = props["straight"], props["straight_tight"]
            self.gloss, self.gloss_tight = props["gloss"], props["gloss_tight"]
            kind = mi.BSDFFlags.DiffuseReflection | mi.BSDFFlags.DiffuseTransmission
            self.m_components = [kind | mi.BSDFFlags.FrontSide | mi.BSDFFlags.BackSide]
            self.m_flags = self.m_components[0]

        def sample(self, ctx, si, sample1, sample2, active):
            wo = mi.warp.square_to_cosine_hemisphere(sample2)
            wo.z *= dr.select(sample1 < 0.5, 1.0, -1.0)
            found = mi.BSDFSample3f()
            found.wo, found.eta, found.pdf = wo, 1.0, 0.5 * dr.abs(wo.z) * dr.inv_pi
            found.sampled_type, found.sampled_component = mi.UInt32(+self.m_flags), 0
            return found, dr.select(found.pdf > 0, self.eval(ctx, si, wo, active) / found.pdf, 0.0)

        def eval(self, ctx, si, wo, active):
            wi = si.wi
            same = wi.z * wo.z > 0

            def lobe(share, tight, cosine):
                scale = share * tight / (2 * dr.pi * (1 - math.exp(-2 * tight))) if share else 0.0
                return scale * dr.exp(tight * (cosine - 1))

            mirrored = lobe(self.gloss, self.gloss_tight, -wi.x * wo.x - wi.y * wo.y + wi.z * wo.z)
            onward = lobe(self.straight, self.straight_tight, -dr.dot(wi, wo))
            even = dr.select(same, self.back, self.through) * dr.abs(wo.z) * dr.inv_pi
            return mi.Color3f(dr.select(active, even + dr.select(same, mirrored, onward), 0.0))

        def pdf(self, ctx, si, wo, active):
            return dr.select(active, 0.5 * dr.abs(wo.z) * dr.inv_pi, 0.0)

        def eval_pdf(self, ctx, si, wo, active):
            return self.eval(ctx, si, wo, active), self.pdf(ctx, si, wo, active)

    mi.register_bsdf("scatter", Scatter)


def _card(mi, card: Card) -> dict:
    f, s = card.finish, card.stance
    made = _rectangle(mi, s.place.array(), *_axes(s.turn_rad, s.tilt_rad), card.width_m / 2, card.height_m / 2)
    if f.veil.green:
        dark = {"type": "diffuse", "reflectance": 0.0}
        return made | {"bsdf": {"type": "mask", "opacity": 1 - f.veil.green, "bsdf": {"type": "twosided", "bsdf": dark}}}
    if not (f.straight or f.through.green or f.gloss.green):
        return made | {"bsdf": {"type": "twosided", "bsdf": {"type": "diffuse", "reflectance": _rgb(f.reflectance.array())}}}
    _scatter_bsdf(mi)
    tight = [1 / spread**2 if share else 1.0
             for share, spread in ((f.straight, f.spread_rad), (f.gloss.green, f.gloss_spread_rad))]  # fmt: skip
    scatter = {
        "type": "scatter", "back": f.reflectance.green, "through": f.through.green, "straight": float(f.straight),
        "straight_tight": float(tight[0]), "gloss": f.gloss.green, "gloss_tight": float(tight[1]),
    }  # fmt: skip
    return made | {"bsdf": scatter}


def scene(
    mi, plan: Plan, *, width: int, height: int, depth: int = 12, lights: tuple[int, ...] | None = None, more=None,
    table: bool = True, colour: bool = False,
):  # fmt: skip
    """A Mitsuba scene of a plan; only the panels numbered in `lights` shine (the others stand there dark).

    more: further shapes; table False: it is among them. colour: glass and liquid absorb (volumetric integrator).
    """
    camera = plan.camera
    half_w, _ = camera.half_field
    through = colour or any(card.finish.veil.green for card in plan.cards)
    made: dict = {
        "type": "scene",
        "integrator": {"type": "volpath" if through else "path", "max_depth": depth, "rr_depth": 100},
        "sensor": {
            "type": "perspective",
            "fov": 2 * math.degrees(math.atan(half_w)),
            "fov_axis": "x",
            "near_clip": 1.0, "far_clip": 1e5,
            "to_world": mi.ScalarTransform4f().look_at(
                origin=(camera.place.array() * UNIT).tolist(), target=(camera.aim.array() * UNIT).tolist(), up=[0, 1, 0]
            ),
            "film": {
                "type": "hdrfilm", "width": width, "height": height, "rfilter": {"type": "box"}, "pixel_format": "rgb",
                "component_format": "float32",
            },
            "sampler": {"type": "independent", "sample_count": 16},
        },
    }  # fmt: skip
    for number, product in enumerate(plan.products):
        name = f"product-{number}"
        lift = plan.ground_m(product)
        if product.vessel:
            made |= _vessel(mi, product, lift, name, colour)
        elif isinstance(product.shape, Turned | Can):
            assert product.x_m == product.z_m == 0.0
            profile = product.profile
            made |= _solid(mi, profile, lift - profile.foot_m + 2e-5, product.body, product.bands, name)
        elif isinstance(product.shape, Sphere):
            r = product.shape.diameter_m / 2
            made[name] = {"type": "sphere", "radius": r * UNIT,
                          "center": [product.x_m * UNIT, (lift + r + 2e-5) * UNIT, product.z_m * UNIT],
                          "bsdf": _material(product.body)}  # fmt: skip
        else:
            made |= _placed_mesh(mi, product, lift, name)
    made |= more or {}
    if plan.riser:
        r = plan.riser
        block = Profile(heights_m=(0.0, r.height_m), radii_m=(r.diameter_m / 2, r.diameter_m / 2))
        made |= _solid(mi, block, 0.0, r.skin, (), "riser")
    if plan.table and table:
        t = plan.table
        axes = np.array([1.0, 0, 0]), np.array([0, 0, -1.0]), np.array([0, 1.0, 0])
        made["table"] = _rectangle(mi, np.zeros(3), *axes, t.width_m / 2, t.depth_m / 2) | {"bsdf": _material(t.skin)}
        if t.medium:
            made["table"]["bsdf"] = _between_media(t.medium.index, 1.0)
            made["paint"] = _rectangle(mi, np.array([0, -t.rear_m, 0]), *axes, t.width_m / 2, t.depth_m / 2)
            paint = {"type": "plastic", "int_ior": REAR_PAINT_INDEX, "ext_ior": t.medium.index, "diffuse_reflectance": 0.0}
            made["paint"]["bsdf"] = paint
    if plan.background:
        b = plan.background
        centre = np.array([0, b.centre_height_m, -b.distance_m])
        made["background"] = _rectangle(mi, centre, *_axes(0, 0), b.width_m / 2, b.height_m / 2)
        made["background"]["bsdf"] = _material(b.skin)
    for i, light in enumerate(plan.lights):
        shape = _panel(mi, light) if isinstance(light, Panel) else _lamp(mi, light)
        if lights is not None and i not in lights:
            del shape["emitter"]
        made[f"light-{i}"] = shape
    for i, card in enumerate(plan.cards):
        made[f"card-{i}"] = _card(mi, card)
    return mi.load_dict(made)


def render(mi, made, *, passes: int, samples: int = 16, seed: int = 0) -> np.ndarray:
    """Mean of several passes, (height, width, 3) float64; memory stays that of one pass."""
    total = None
    for number in range(passes):
        picture = np.array(mi.render(made, spp=samples, seed=seed + number), np.float64)
        total = picture if total is None else total + picture
    return total / passes


def _spelled(value) -> str:
    """A value in words, without fields that are as they are by default: new fields of a plan leave old scenes alone."""
    if not dataclasses.is_dataclass(value):
        return f"({' '.join(map(_spelled, value))})" if isinstance(value, tuple) else repr(value)
    changed = [f for f in dataclasses.fields(value) if not _is_default(f, getattr(value, f.name))]
    return f"{type(value).__name__}({', '.join(f'{f.name}={_spelled(getattr(value, f.name))}' for f in changed)})"


def _is_default(field, value) -> bool:
    made = field.default_factory() if field.default_factory is not dataclasses.MISSING else field.default
    return made is not dataclasses.MISSING and value == made


def rendered(
    plan: Plan, *, width: int, height: int, passes: int, seed: int = 0, more=None, what: str = "", **how
) -> np.ndarray:
    """The reference's picture of a plan, (height, width, 3): kept from an earlier run where nothing of it has changed.

    The kept files in tests/references are named by a hash of the plan, of what is asked and of this file, so a changed scene
    is drawn anew, which takes its time; `./run references` draws and keeps all that are missing.
    more: makes further shapes from Mitsuba; what: a text that changes when they do.
    """
    asked = _spelled(plan) + repr((width, height, passes, seed, what, sorted(how.items()))) + Path(__file__).read_text()
    name = KEPT / f"{hashlib.sha256(asked.encode()).hexdigest()[:20]}.npz"
    if name.exists():
        os.utime(name)
        with np.load(name) as kept:
            picture = kept["picture"].astype(np.float64) * float(kept["scale"])
        return np.broadcast_to(picture, (height, width, 3))
    mi = load()
    picture = render(
        mi, scene(mi, plan, width=width, height=height, more=more and more(mi), **how), passes=passes, seed=seed
    )
    if os.environ.get("FOTAXIS_KEEP_REFERENCES"):
        grey = np.abs(picture - picture[..., 1:2]).max() < 1e-5 * picture.max()
        scale = picture.max() / 60_000
        KEPT.mkdir(exist_ok=True)
        np.savez_compressed(name, picture=((picture[..., 1:2] if grey else picture) / scale).astype(np.float16), scale=scale)
    return picture
