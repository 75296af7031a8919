"""What a hand pulls in floor and side beside the things themselves: edges of table, riser and background, and the camera's frame."""

from __future__ import annotations

from markupsafe import escape

from fotaxis.core.camera.camera import Camera
from fotaxis.core.keys import CAMERA_KEY
from fotaxis.core.scene.plan import Plan
from fotaxis.web.views.svg_canvas import Paper, draw_line


def _part_handle(path: str, words: str, x: float, y: float, *, axis: str, times: float, value: float, paper: Paper) -> str:
    """What a hand pulls to change a measure of table, riser or background: its value grows `times` the way along an axis (a right, b
    down)."""
    x, y = min(max(x, 6.0), paper.width - 6.0), min(max(y, 6.0), paper.height - 6.0)
    label = escape(f"{words}: {paper.measure(value)} {paper.unit}")
    return (
        f'<rect class="part-handle" data-part="{path}" data-axis="{axis}" data-times="{times:g}" x="{x - 4:.1f}" y="{y - 4:.1f}" '
        f'width="8" height="8" tabindex="0" role="slider" aria-valuenow="{value:.2f}" aria-valuetext="{label}" aria-label="{label}">'
        f"<title>{label}</title></rect>"
    )


def floor_handles(plan: Plan, paper: Paper) -> str:
    """Handles of table, riser and background, from above."""
    out = []
    if plan.table:
        w, d, x, z = (100 * v for v in (plan.table.width_m, plan.table.depth_m, plan.table.x_m, plan.table.z_m))
        out += [
            _part_handle(
                "table.width_cm", "Table width", paper.x(x + w / 2), paper.y(-z), axis="a", times=2, value=w, paper=paper
            ),
            _part_handle(
                "table.depth_cm", "Table depth", paper.x(x), paper.y(-z - d / 2), axis="b", times=2, value=d, paper=paper
            ),
        ]
    if plan.riser:
        d = 100 * plan.riser.diameter_m
        at = paper.x(d / 2), paper.y(0)
        out.append(_part_handle("riser.diameter_cm", "Riser diameter", *at, axis="a", times=2, value=d, paper=paper))
    if plan.background:
        far, w = 100 * plan.background.distance_m, 100 * plan.background.width_m
        y = paper.y(min(far, paper.top - 7 / paper.scale))
        out += [
            _part_handle(
                "background.distance_cm", "Background behind", paper.x(-w / 4), y, axis="b", times=-1, value=far, paper=paper
            ),
            _part_handle(
                "background.width_cm", "Background width", paper.x(w / 2), y, axis="a", times=2, value=w, paper=paper
            ),
        ]
    return f"<g>{''.join(out)}</g>"


def side_handles(plan: Plan, paper: Paper) -> str:
    """Handles of sweep, riser and background, from the side."""
    out = []
    if plan.table:
        back, sweep = 100 * (plan.table.z_m - plan.table.depth_m / 2), 100 * plan.table.sweep_m
        at = paper.x(back), paper.y(sweep)
        out.append(_part_handle("table.sweep_cm", "Sweeps up behind to", *at, axis="b", times=-1, value=sweep, paper=paper))
        if sweep:
            bend = 100 * plan.table.bend_m
            at = paper.x(back + bend), paper.y(0)
            out.append(_part_handle("table.bend_cm", "Bend of the sweep", *at, axis="a", times=1, value=bend, paper=paper))
            drop, front = 100 * plan.table.drop_m, 100 * (plan.table.z_m + plan.table.depth_m / 2)
            at = paper.x(front), paper.y(-drop)
            out.append(_part_handle("table.drop_cm", "Hangs down in front", *at, axis="b", times=1, value=drop, paper=paper))
    if plan.riser:
        h = 100 * plan.riser.height_m
        at = paper.x(50 * plan.riser.diameter_m), paper.y(h)
        out.append(_part_handle("riser.height_cm", "Riser height", *at, axis="b", times=-1, value=h, paper=paper))
    if plan.background:
        b = plan.background
        far, top = 100 * b.distance_m, 100 * (b.centre_height_m + b.height_m / 2)
        x = paper.x(max(-far, paper.left + 6 / paper.scale))
        out += [
            _part_handle(
                "background.distance_cm", "Background behind", x, paper.y(0), axis="a", times=-1, value=far, paper=paper
            ),
            _part_handle(
                "background.height_cm",
                "Background height",
                x,
                paper.y(top),
                axis="b",
                times=-2,
                value=100 * b.height_m,
                paper=paper,
            ),
        ]
    return f"<g>{''.join(out)}</g>"


def frame_plane(camera: Camera, paper: Paper, view: str) -> str:
    """What the frame takes in where the camera aims, edge on; its middle turns the camera, its end is the lens's length."""
    (half_w, half_h), (right, up) = camera.half_field, camera.middle
    aim, reach = camera.aim, 100 * camera.aim_distance_m * paper.scale
    if view == "floor":
        ax, ay = paper.x(aim.x_m * 100), paper.y(-aim.z_m * 100)
        x1, y1, x2, y2 = ax + (right - half_w) * reach, ay, ax + (right + half_w) * reach, ay
    else:
        ax, ay = paper.x(aim.z_m * 100), paper.y(aim.y_m * 100)
        x1, y1, x2, y2 = ax, ay + (half_h - up) * reach, ax, ay - (half_h + up) * reach
    return (
        f'<g class="thing camera-frame" data-key="{CAMERA_KEY}" data-view="{view}">'
        f'{draw_line(x1, y1, x2, y2, "frame-plane")}<circle class="turn-handle" data-handle="aim" cx="{ax:.1f}" cy="{ay:.1f}" r="6"/>'
        f'<rect class="size-handle" data-handle="frame" x="{x2 - 5:.1f}" y="{y2 - 5:.1f}" width="10" height="10"/></g>'
    )
