"""The set as a measured drawing: floor from above, side in elevation, to scale, with the distances a tape reads."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from functools import lru_cache

from markupsafe import escape

from fotaxis.core.camera.camera import Camera
from fotaxis.core.geometry import orientation
from fotaxis.core.keys import CAMERA_KEY
from fotaxis.core.lights.card_finishes import Finish
from fotaxis.core.lights.fixtures import Card, Lamp, Panel
from fotaxis.core.lights.way import lit_way
from fotaxis.core.scene.checks import is_far
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Point
from fotaxis.services.measuring_tape import Tape
from fotaxis.services.sheet import measured
from fotaxis.web.views.beam_drawing import beams
from fotaxis.web.views.drawing_handles import floor_handles, frame_plane, side_handles
from fotaxis.web.views.product_drawing import floor_product, side_product
from fotaxis.web.views.svg_canvas import (
    CM,
    Drawing,
    Fit,
    Paper,
    Thing,
    begin_svg,
    draw_dimension,
    draw_line,
    draw_ruler,
    draw_text,
    face_corners,
)

HANDLE_PX = 26.0


def _number(index: int, thing: Thing, plan: Plan) -> str:
    return chr(ord("A") + index - len(plan.lights)) if isinstance(thing, Card) else str(index + 1)


def _look(finish: Finish) -> str:
    """How a card is drawn: by what it does most."""
    if finish.group != "card":
        return finish.group
    if finish.gloss.green > 0.2:
        return "gold" if finish.gloss.blue < 0.5 * finish.gloss.red else "silver"
    return "white" if finish.reflectance.green > 0.5 else "black"


def _group(thing: Thing, number: str, *, selected: str, view: str) -> str:
    kind = "head" if isinstance(thing, Lamp) else "panel" if isinstance(thing, Panel) else "card"
    classes = ["thing", kind]
    if isinstance(thing, Card):
        classes.append(_look(thing.finish))
    elif not thing.emission.on:
        classes.append("off")
    if thing.key == selected:
        classes.append("selected")
    m = measured(thing.stance, half_height_m=thing.half_size_m[1])
    where = f"{abs(m.side_cm):.1f} cm {'right' if m.side_cm >= 0 else 'left'}, "
    where += f"{abs(m.depth_cm):.1f} cm {'in front' if m.depth_cm >= 0 else 'behind'}, centre {m.height_cm:.1f} cm high"
    label = f"{number}, {thing.name}: {where}, turned {m.turn_deg:.0f} degrees"
    return (
        f'<g class="{" ".join(classes)}" data-key="{escape(thing.key)}" data-view="{view}" tabindex="0" role="button" '
        f'aria-pressed="{"true" if thing.key == selected else "false"}" aria-label="{escape(label)}"'
    )


def floor(
    plan: Plan, *, width: int, height: int, selected: str, fit: Fit, unit: str = CM, tape: Tape | None = None
) -> Drawing:
    """The set from above: x to the right, the camera below. tape: drawn between two things."""
    a, b = (-fit.half_width, fit.half_width), (-fit.near - 8, -fit.far + 8)
    paper = Paper.fitting(width=width, height=height, a=a, b=b, unit=unit)
    ox, oy = paper.x(0), paper.y(0)
    out = begin_svg("floor", paper, "Floor: the set from above", origin=(ox, oy))
    if plan.table:
        w, d = plan.table.width_m * 50, plan.table.depth_m * 50
        x, z = plan.table.x_m * 100, plan.table.z_m * 100
        out.append(
            f'<rect class="table" x="{paper.x(x - w):.1f}" y="{paper.y(d - z):.1f}" width="{2 * w * paper.scale:.1f}" '
            f'height="{2 * d * paper.scale:.1f}"/>'
        )
    out += _floor_background(plan, paper)
    out += _floor_camera(plan, paper)
    out.append(draw_line(0, oy, width, oy, "axis") + draw_line(ox, 0, ox, height, "axis"))
    if plan.riser:
        out.append(f'<circle class="riser" cx="{ox:.1f}" cy="{oy:.1f}" r="{plan.riser.diameter_m * 50 * paper.scale:.1f}"/>')
    out += beams(plan, paper, "floor", selected=selected)
    out += [floor_product(plan, product, paper, selected=selected) for product in plan.products]
    things: list[Thing] = [*plan.lights, *plan.cards]
    for index, thing in sorted(enumerate(things), key=lambda pair: pair[1].key == selected):
        out.append(_floor_thing(thing, _number(index, thing, plan), paper, selected=selected))
    out += [_floor_tapes(thing, paper) for thing in things if thing.key == selected and not is_far(thing)]
    out += _moves(plan, paper, lambda p: (p.x_m, -p.z_m))
    if tape:
        out.append(_taped(paper, [(p[0], -p[2]) for p in (tape.start, tape.end)], tape.level_cm))
    out.append(floor_handles(plan, paper))
    out.append(frame_plane(plan.camera, paper, "floor"))
    out.append(draw_ruler(paper, 8, height - 9))
    return Drawing(opening=out[0], parts=tuple(out[1:]))


def _size_handle(kind: str, x: float, y: float) -> str:
    return f'<rect class="size-handle" data-handle="{kind}" x="{x - 5:.1f}" y="{y - 5:.1f}" width="10" height="10"/>'


def _taped(paper: Paper, ends: list[tuple[float, float]], length_cm: float) -> str:
    (a, b), (c, d) = ends
    x0, y0, x1, y1 = paper.x(a * 100), paper.y(b * 100), paper.x(c * 100), paper.y(d * 100)
    dots = "".join(f'<circle class="tape-end" cx="{x:.1f}" cy="{y:.1f}" r="4"/>' for x, y in ((x0, y0), (x1, y1)))
    return draw_dimension(x0, y0, x1, y1, f"{paper.measure(length_cm)} {paper.unit}") + dots


def _moves(plan: Plan, paper: Paper, of: Callable[[Point], tuple[float, float]]) -> list[str]:
    """Ways of lamps that are moved during the exposure; of: a place's two coordinates on the paper, metres."""
    out = []
    for light in plan.lights:
        if isinstance(light, Lamp) and light.way:
            out += _line_of(paper, [of(stance.place) for stance in (light.stance, *light.way)], "way")
            out += _line_of(paper, [of(stance.place) for stance in lit_way(light)], "way lit")
            for number, stance in enumerate(light.way, 1):
                a, b = of(stance.place)
                x, y = paper.x(a * 100), paper.y(b * 100)
                last = number == len(light.way)
                out.append(f'<circle class="way" cx="{x:.1f}" cy="{y:.1f}" r="{4 if last else 2.5}"/>')
                if not last:
                    out.append(draw_text(x + 5, y - 5, str(number), "note"))
    return out


def _line_of(paper: Paper, places: list[tuple[float, float]], name: str) -> list[str]:
    at = [(paper.x(a * 100), paper.y(b * 100)) for a, b in places]
    return [draw_line(*begin, *end, name) for begin, end in itertools.pairwise(at)]


def _floor_background(plan: Plan, paper: Paper) -> list[str]:
    if not plan.background:
        return []
    z = plan.background.distance_m * 100
    edge = paper.top - 7 / paper.scale
    shown = min(z, edge)
    half = plan.background.width_m * 50
    y = paper.y(shown)
    text = f"background {paper.measure(z)} {paper.unit} behind" + (" ⌇" if shown < z else "")
    return [
        draw_line(max(4, paper.x(-half)), y, min(paper.width - 4, paper.x(half)), y, "background"),
        draw_text(paper.width - 8, y + 14, text, "note", anchor="end"),
    ]


def _floor_camera(plan: Plan, paper: Paper) -> list[str]:
    c = plan.camera
    x, z = c.place.x_m * 100, c.place.z_m * 100
    lowest = -(paper.top - paper.height / paper.scale) - 16 / paper.scale
    shown = min(z, lowest)
    half_w, (middle, _) = c.half_field[0], c.middle
    angle = math.atan2(c.aim.x_m - c.place.x_m, c.place.z_m - c.aim.z_m)
    out = []
    for side in (-1, 1):
        a = angle + math.atan(middle + side * half_w)
        far = z + min(60.0, -paper.left + 60)
        x0 = x + (z - shown) * math.tan(a)
        out.append(draw_line(paper.x(x0), paper.y(-shown), paper.x(x + far * math.tan(a)), paper.y(-(z - far)), "field"))
    px, py = paper.x(x), paper.y(-shown)
    body = f'<path class="camera" d="M {px - 7:.1f} {py + 11:.1f} v -9 h 4 l 3 -4 l 3 4 h 4 v 9 z"/>'
    out.append(_camera_group("floor", c, body, px, py + 5))
    distance = math.hypot(x, z)
    text = f"camera {paper.measure(distance)} {paper.unit}" + (" ⌇" if shown < z else "")
    out.append(draw_text(px + 12, py + 9, text, "note", anchor="start"))
    return out


def _camera_group(view: str, camera: Camera, body: str, x: float, y: float) -> str:
    """The camera as a thing that can be grabbed: on the floor sideways and to and fro, in the side view up and down."""
    label = f"Camera: {camera.place.z_m * 100:.0f} cm from the axis, {camera.place.y_m * 100:.1f} cm high"
    return (
        f'<g class="thing camera-thing" data-key="{CAMERA_KEY}" data-view="{view}" tabindex="0" role="button" '
        f'aria-pressed="false" aria-label="{escape(label)}"><circle class="grip" cx="{x:.1f}" cy="{y:.1f}" r="16"/>{body}</g>'
    )


def _floor_tapes(thing: Thing, paper: Paper) -> str:
    p = thing.stance.place
    x, z = p.x_m * 100, p.z_m * 100
    tx, ty = paper.x(x), paper.y(-z)
    ox, oy = paper.x(0), paper.y(0)
    return (
        draw_dimension(ox, oy, tx, ty, paper.measure(math.hypot(x, z)), at=0.36)
        + draw_dimension(tx, oy, tx, ty, paper.measure(abs(z)), at=0.4)
        + draw_dimension(ox, oy, tx, oy, paper.measure(abs(x)))
    )


def _far_thing(thing: Thing, number: str, paper: Paper, a: float, b: float, *, selected: str, view: str) -> str:
    """A thing far beyond the paper: an arrow at its edge from where it stands towards the product."""
    ox, oy = paper.x(0), paper.y(0)
    away = math.hypot(a, b) or 1.0
    dx, dy = a / away, -b / away
    room = min(
        ((paper.width - 30 - ox) if dx > 0 else (ox - 30)) / max(abs(dx), 1e-6),
        ((paper.height - 30 - oy) if dy > 0 else (oy - 30)) / max(abs(dy), 1e-6),
    )
    x, y = ox + room * dx, oy + room * dy
    turn = math.degrees(math.atan2(-dy, -dx))
    return (
        _group(thing, number, selected=selected, view=view)
        + f'><g class="body" transform="translate({x:.2f} {y:.2f}) rotate({turn:.2f})">'
        + '<rect class="grip" x="-16" y="-12" width="40" height="24"/><circle class="face" r="6"/>'
        + '<path class="rays" d="M 9 0 h 14 m -5 -4 l 5 4 l -5 4"/></g>'
        + draw_text(x + 16 * dx, y + 18 * dy + 4, number, "number")
        + "</g>"
    )


@lru_cache(maxsize=512)
def _floor_thing(thing: Thing, number: str, paper: Paper, *, selected: str) -> str:
    p = thing.stance.place
    if is_far(thing):
        return _far_thing(thing, number, paper, p.x_m, -p.z_m, selected=selected, view="floor")
    x, y = paper.x(p.x_m * 100), paper.y(-p.z_m * 100)
    turn = math.degrees(thing.stance.turn_rad)
    half = thing.half_size_m[0] * 100 * paper.scale
    depth = abs(thing.half_size_m[1] * math.sin(thing.stance.tilt_rad)) * 100 * paper.scale
    body = (
        f'<rect class="grip" x="{-half - 8:.1f}" y="{-depth - 13:.1f}" width="{2 * half + 16:.1f}" '
        f'height="{2 * depth + 26:.1f}"/>'
        f'<rect class="face" x="{-half:.1f}" y="{-depth - 2.5:.1f}" width="{2 * half:.1f}" height="{2 * depth + 5:.1f}"/>'
    )
    if not isinstance(thing, Card):
        front = 2.5 + depth
        body += f'<path class="rays" d="M {-half:.1f} {front + 2.5:.1f} h {2 * half:.1f}"/>'
    handle = depth + HANDLE_PX
    body += f'<line class="stem" x1="0" y1="{depth + 3:.1f}" x2="0" y2="{handle - 6:.1f}"/>'
    body += f'<circle class="turn-handle" data-handle="turn" cx="0" cy="{handle:.1f}" r="6.5"/>'
    if not isinstance(thing, Lamp):
        for side_of in (-1, 1):
            body += _size_handle("width", side_of * half, 0.0)
    back = -depth - 14
    a = math.radians(-turn)
    nx, ny = -back * math.sin(a), back * math.cos(a)
    return (
        _group(thing, number, selected=selected, view="floor")
        + f'><g class="body" transform="translate({x:.2f} {y:.2f}) rotate({-turn:.3f})">{body}</g>'
        + draw_text(x + nx, y + ny + 4, number, "number")
        + "</g>"
    )


def side(
    plan: Plan, *, width: int, height: int, selected: str, fit: Fit, unit: str = CM, tape: Tape | None = None
) -> Drawing:
    """The set in elevation, seen from the left: the camera to the right, heights above the table. tape: see floor."""
    paper = Paper.fitting(width=width, height=height, a=(fit.far - 8, fit.near + 8), b=(fit.low, fit.high), unit=unit)
    ox, oy = paper.x(0), paper.y(0)
    out = begin_svg("side", paper, "Side: the set in elevation, seen from the left", origin=(ox, oy))
    if plan.background:
        z = -plan.background.distance_m * 100
        shown = max(z, paper.left + 6 / paper.scale)
        out.append(draw_line(paper.x(shown), 4, paper.x(shown), height - 4, "background"))
    if plan.table:
        d, z = plan.table.depth_m * 50, plan.table.z_m * 100
        x0, x1 = paper.x(z - d), paper.x(z + d)
        out.append(
            f'<rect class="table" x="{x0:.1f}" y="{oy:.1f}" width="{x1 - x0:.1f}" height="{max(2 * paper.scale, 3):.1f}"/>'
        )
    out.append(draw_line(0, oy, width, oy, "axis"))
    out += _side_camera(plan, paper)
    if plan.riser:
        r, h = plan.riser.diameter_m * 50, plan.riser.height_m * 100
        out.append(
            f'<rect class="riser" x="{paper.x(-r):.1f}" y="{paper.y(h):.1f}" width="{2 * r * paper.scale:.1f}" '
            f'height="{h * paper.scale:.1f}"/>'
        )
    out += beams(plan, paper, "side", selected=selected)
    out += [side_product(plan, product, paper, selected=selected) for product in plan.products]
    things: list[Thing] = [*plan.lights, *plan.cards]
    behind: dict[tuple[int, int], int] = {}
    for index, thing in sorted(enumerate(things), key=lambda pair: pair[1].key == selected):
        spot = (round(thing.stance.place.z_m * 20), round(thing.stance.place.y_m * 20))
        shift = behind.get(spot, 0) * 14.0
        behind[spot] = behind.get(spot, 0) + 1
        out.append(_side_thing(thing, _number(index, thing, plan), paper, selected=selected, shift=shift))
    out += [_side_tapes(thing, paper) for thing in things if thing.key == selected and not is_far(thing)]
    out += _moves(plan, paper, lambda p: (p.z_m, p.y_m))
    if tape:
        out.append(_taped(paper, [(p[2], p[1]) for p in (tape.start, tape.end)], tape.straight_cm))
    out.append(side_handles(plan, paper))
    out.append(frame_plane(plan.camera, paper, "side"))
    out.append(draw_ruler(paper, 8, height - 9))
    return Drawing(opening=out[0], parts=tuple(out[1:]))


def _side_tapes(thing: Thing, paper: Paper) -> str:
    p = thing.stance.place
    ox, oy, x, y = paper.x(0), paper.y(0), paper.x(p.z_m * 100), paper.y(p.y_m * 100)
    return draw_dimension(x, oy, x, y, paper.measure(p.y_m * 100)) + draw_dimension(
        ox, y, x, y, paper.measure(abs(p.z_m) * 100)
    )


def _side_camera(plan: Plan, paper: Paper) -> list[str]:
    c = plan.camera
    z, y = c.place.z_m * 100, c.place.y_m * 100
    edge = paper.left + paper.width / paper.scale - 17 / paper.scale
    shown = min(z, edge)
    half_h, (_, middle) = c.half_field[1], c.middle
    slope = math.atan2((c.aim.y_m - c.place.y_m) * 100, z - c.aim.z_m * 100)
    at_break = y + (z - shown) * math.tan(slope)
    out = []
    for sign in (-1, 1):
        a = slope + math.atan(middle + sign * half_h)
        y0 = y + (z - shown) * math.tan(a)
        far = z + 60
        out.append(draw_line(paper.x(shown), paper.y(y0), paper.x(z - far), paper.y(y + far * math.tan(a)), "field"))
    px, py = paper.x(shown), paper.y(at_break)
    body = f'<path class="camera" d="M {px + 12:.1f} {py - 6:.1f} h -9 v 3.5 l -4 2.5 l 4 2.5 v 3.5 h 9 z"/>'
    out.append(_camera_group("side", c, body, px + 5, py))
    text = f"{paper.measure(y)} {paper.unit} high" + (" ⌇" if shown < z else "")
    out.append(draw_text(paper.width - 6, py + 21, text, "note", anchor="end"))
    return out


@lru_cache(maxsize=512)
def _side_thing(thing: Thing, number: str, paper: Paper, *, selected: str, shift: float) -> str:
    if is_far(thing):
        p = thing.stance.place
        return _far_thing(thing, number, paper, p.z_m, p.y_m, selected=selected, view="side")
    corners = face_corners(thing) * 100
    points = [(paper.x(z), paper.y(y)) for _, y, z in corners]
    text = " ".join(f"{a:.1f},{b:.1f}" for a, b in points)
    xs, ys = [a for a, _ in points], [b for _, b in points]
    _, _, front = orientation.axes(turn_rad=thing.stance.turn_rad, tilt_rad=thing.stance.tilt_rad)
    x, y = paper.x(thing.stance.place.z_m * 100), paper.y(thing.stance.place.y_m * 100)
    hx, hy = x + front[2] * HANDLE_PX, y - front[1] * HANDLE_PX
    body = (
        f'<rect class="grip" x="{min(xs) - 8:.1f}" y="{min(ys) - 8:.1f}" width="{max(xs) - min(xs) + 16:.1f}" '
        f'height="{max(ys) - min(ys) + 16:.1f}"/><polygon class="face" points="{text}"/>'
        f'<line class="stem" x1="{x:.1f}" y1="{y:.1f}" x2="{hx:.1f}" y2="{hy:.1f}"/>'
        f'<circle class="turn-handle" data-handle="tilt" cx="{hx:.1f}" cy="{hy:.1f}" r="6.5"/>'
    )
    if not isinstance(thing, Lamp):
        for low, other in ((0, 1), (3, 2)):
            (ax, ay), (bx, by) = points[low], points[other]
            body += _size_handle("height", (ax + bx) / 2, (ay + by) / 2)
    return (
        _group(thing, number, selected=selected, view="side")
        + f'><g class="body">{body}</g>'
        + draw_text(min(max(x, 10), paper.width - 10) + shift, max(min(ys) - 5, 12), number, "number")
        + "</g>"
    )
