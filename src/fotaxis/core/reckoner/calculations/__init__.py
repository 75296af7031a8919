"""Every calculation of the reckoner, one file each, in the order in which they are listed."""

from fotaxis.core.reckoner.calculation import Calculation
from fotaxis.core.reckoner.calculations import (
    black_frame,
    boom,
    circuit,
    depth_between,
    depth_of_field,
    fall_off,
    field_of_view,
    flicker,
    focus_stack,
    freeze,
    guide_number,
    hand_held,
    heads_together,
    highlight_card,
    hyperfocal,
    light_painting,
    losses,
    magnification,
    meter,
    mired,
    pack,
    penumbra,
    perspective,
    pool,
    pops,
    print_size,
    recycle,
    shutter_angle,
    splash_delay,
    stops_between,
    sun_over_wall,
    sync,
    white_balance,
)  # fmt: skip

CALCULATIONS: tuple[Calculation, ...] = tuple(
    one.CALCULATION
    for one in (
        stops_between, black_frame, sync, meter, hand_held,
        guide_number, heads_together, fall_off, losses, pack, pool, penumbra, highlight_card,
        mired, white_balance,
        depth_of_field, depth_between, hyperfocal, focus_stack, magnification, field_of_view, perspective, print_size,
        freeze, splash_delay, pops, light_painting, recycle, shutter_angle, flicker,
        boom, circuit, sun_over_wall,
    )
)  # fmt: skip
CALCULATION = {one.key: one for one in CALCULATIONS}
