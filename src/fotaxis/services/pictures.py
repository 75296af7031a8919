"""Predicted pictures of shots. TracedPaths stages are kept while only lights, powers and exposure change."""

from __future__ import annotations

from contextlib import nullcontext
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

import numpy as np

from fotaxis.core.camera.camera import PREVIEW_SIDE, picture_size
from fotaxis.core.camera.exposure import Exposure
from fotaxis.core.camera.filters import BeforeLens
from fotaxis.core.camera.tone import PLAIN_TONE
from fotaxis.core.captures.areas import SceneAreas, scene_areas
from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.errors import DomainError
from fotaxis.core.frames.faults import Fault, clipped_product, crossings, light_into_lens, table_edges, things_in_frame
from fotaxis.core.frames.line_profile import ReadingLine, luminance_along, luminance_at, pixels_along, product_edges
from fotaxis.core.frames.line_reading import LinePlaces, LineReading, places_along, read_line
from fotaxis.core.frames.mirrored_at import MirroredAt
from fotaxis.core.frames.on_body import BodyPlace, on_body
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.reading import LayeredFrame, Value
from fotaxis.core.frames.readings.spot import ProductSpot, on_product
from fotaxis.core.frames.whole_picture import WholePicture
from fotaxis.core.keys import PRODUCT_KEY
from fotaxis.core.lights.fixtures import at_full_power
from fotaxis.core.proposals.survey import product_spots, ways_of
from fotaxis.core.proposals.whole import whole_picture
from fotaxis.core.render.arrays.emitters import Emitters
from fotaxis.core.render.arrays.pack_emitters import pack_emitters
from fotaxis.core.render.final.final_render import SceneLayers, render_scene_layers
from fotaxis.core.render.final.quality import FINAL, SCREEN, ProgressCallback, RenderQuality, never_cancel
from fotaxis.core.render.layers import Layers, develop, layer_gains, mixed
from fotaxis.core.render.lighting import DRAFT, draft_lighting
from fotaxis.core.render.mirrored import MirrorSamples, OnSet, mirrored_thing, place_in_frame, trace_mirrored, zone_names
from fotaxis.core.render.parallel import beside_a_page
from fotaxis.core.render.preview.preview_cache import PreviewCache
from fotaxis.core.render.preview.render_preview import mirrored_layers, render_preview
from fotaxis.core.render.preview.traced_scene import TracedScene, layers_of, relight_draft, static_part, trace_scene
from fotaxis.core.render.probe import PixelProbe, SeenThing, mirror_images, probe_pixel, seen_at
from fotaxis.core.render.tracing.trace import CUT, PREVIEW_CUT
from fotaxis.core.scene.naming import names_of
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.product import Product
from fotaxis.services.cache import Kept
from fotaxis.services.exposure_reading import read_exposure
from fotaxis.services.shown import Shown


@dataclass(frozen=True, slots=True, kw_only=True)
class Room:
    """Bytes that one process may keep: traced stages, fine scenes and pictures, drafts by layer, drags, fine pictures of captures."""

    stages: int = 350_000_000
    pictures: int = 100_000_000
    looks: int = 40_000_000
    drags: int = 450_000_000
    levels: int = 150_000_000


AT_A_DESK = Room()
AT_WORK = Room(stages=300_000_000, pictures=100_000_000, looks=0, drags=0)
"""Of a server, and of a worker that makes pictures for its screens."""

MERGING = Room(stages=250_000_000, pictures=0, looks=60_000_000, drags=0)
"""Of a worker that joins real frames: what is predicted of them is drafted on a few traced sets."""

STUDYING = Room(stages=120_000_000, pictures=0, looks=8_000_000, drags=0)
"""Of a worker that looks at many variants of one set: what stands still is traced once."""

MAKING_FINALS = Room(stages=0, pictures=0, looks=0, drags=0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Prediction:
    """Layers of a plan and what they add up to at its exposure."""

    plan: Plan
    is_product: np.ndarray
    layers: Layers

    @property
    def gains(self) -> np.ndarray:
        """Factor of every layer. Raises DomainError when flash and shutter contradict each other."""
        return layer_gains(self.plan)

    def developed(self) -> np.ndarray:
        """The planned picture, (height, width, 3) uint8."""
        return develop(self.layers, self.gains, self.plan.tone)

    def scaled_layers(self) -> np.ndarray:
        """Every layer at its planned power, (1 + lights, height, width, 3) float32; together they are the levels."""
        scaled: np.ndarray = self.layers.pictures * self.gains.astype(np.float32)[:, None, None, None]
        return scaled

    def levels(self) -> np.ndarray:
        """Linear levels, (height, width, 3) float32."""
        return mixed(self.layers, self.gains)


def _gains(plan: Plan, shown: Shown | None) -> np.ndarray | None:
    """Factor of every layer as it is shown; None where flash and shutter contradict each other."""
    try:
        return (shown or Shown()).gains(plan)
    except DomainError:
        return None


def _line_places(stage: TracedScene, line: ReadingLine) -> LinePlaces | None:
    return places_along(line, product_edges(stage.is_product, line), width=stage.width, height=stage.height)


def _at_places(plan: Plan, stage: TracedScene, on: MirrorSamples, mirrored: np.ndarray | None) -> MirroredAt:
    """What is known of places that were traced; mirrored: luminance there in the planned mix."""
    names = names_of(plan)

    @cache
    def emitters() -> Emitters:
        return pack_emitters(plan, stage.scene, cells=DRAFT.light, card_cells=DRAFT.card, sheet=DRAFT.sheet, rays=DRAFT.rays)

    def thing(place: int) -> str:
        key = mirrored_thing(plan, emitters(), on, place)
        return names.get(key, "")

    ground = plan.ground_m(plan.product)
    return MirroredAt(
        mirrored=mirrored, height_m=on.ends[:, 1] - ground, zone=on.zone, bare=on.bare, clear=on.clear,
        names=zone_names(plan, stage.scene, on), thing=thing,
    )  # fmt: skip


NO_PIXEL = np.zeros(1, np.int64)

Hand = str
"""Names the hand of one window while it drags."""


class Pictures:
    """Keeps traced stages, so that moving a light costs no tracing, and fine pictures, within a number of bytes."""

    def __init__(self, room: Room = AT_A_DESK) -> None:
        self._stages: Kept[tuple[Any, ...], TracedScene] = Kept(room.stages, grows=True)
        self._scenes: Kept[tuple[Plan, int, RenderQuality], SceneLayers] = Kept(room.pictures // 2)
        self._fine: Kept[tuple[Plan, int, RenderQuality], tuple[np.ndarray, Layers]] = Kept(room.pictures // 2)
        self._drafts: Kept[tuple[Plan, int], tuple[np.ndarray, Layers]] = Kept(room.looks)
        self._looks: Kept[tuple[Plan, Shown], PixelProbe] = Kept(room.looks)
        self._drags: Kept[Hand, PreviewCache] = Kept(room.drags, grows=True)
        self._mirrors: Kept[tuple[Any, ...], MirrorSamples] = Kept(room.looks, grows=True)
        self._mirrored: Kept[tuple[Any, ...], np.ndarray] = Kept(room.looks // 8)
        self._levels: Kept[tuple[Plan, int], np.ndarray] = Kept(room.levels)
        self._areas: Kept[tuple[Any, ...], SceneAreas] = Kept(room.looks)

    @property
    def kept_bytes(self) -> int:
        """What is kept of all kinds now."""
        kept = (
            self._stages,
            self._scenes,
            self._fine,
            self._drafts,
            self._looks,
            self._drags,
            self._mirrors,
            self._mirrored,
            self._areas,
            self._levels,
        )
        return sum(k.bytes for k in kept)

    def _stage(self, plan: Plan, *, long_side: int, cut: float = PREVIEW_CUT) -> TracedScene:
        width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=long_side)
        key = (static_part(plan), width, height, cut)
        return self._stages.get(key, lambda: trace_scene(plan, width=width, height=height, cut=cut))

    def preview(
        self,
        plan: Plan,
        line: ReadingLine,
        *,
        shown: Shown | None = None,
        long_side: int = PREVIEW_SIDE,
        hand: Hand | None = None,
    ) -> tuple[np.ndarray, LineReading]:
        """While something is dragged: the picture (height, width, 3) uint8 and what the line reads.

        hand: the caller's own, for not two threads at once; what is kept for it makes its next picture cost less.

        Raises DomainError when flash and shutter contradict each other.
        """
        stage = self._stage(plan, long_side=long_side)
        places = _line_places(stage, line)
        on = self._on_places(plan, stage, places.in_frame(line)) if places else None
        numbers, shares = pixels_along(line, width=stage.width, height=stage.height)
        gains = (shown or Shown()).gains(plan)
        drag = None
        if hand is not None:
            # Without room for it (others are dragging) a fresh one is kept for this picture alone, which then costs more.
            drag = self._drags.peek(hand) or PreviewCache()
        with beside_a_page() if drag else nullcontext():
            made = render_preview(stage, plan, gains=gains, pixels=numbers.ravel(), drag=drag, places=on)
        if hand is not None and drag is not None and self._drags.peek(hand) is None:
            self._drags.keep(hand, drag)
        level = luminance_at(made.read.reshape(1, *numbers.shape, 3), shares)[0]
        found = _at_places(plan, stage, on, made.mirrored) if on is not None else None
        return made.picture, read_line(places, found, level=level, pixel=line.pixel(width=stage.width, height=stage.height))

    def read(
        self, plan: Plan, line: ReadingLine, *, shown: Shown | None = None, long_side: int = PREVIEW_SIDE,
        layers: Layers | None = None,
    ) -> LineReading:  # fmt: skip
        """What a line reads, by layer: in `layers`, else the fine picture of the plan if that is kept, of any size, else a draft."""
        layers = layers or self._best(plan, long_side=long_side)[1]
        per_layer = luminance_along(layers.pictures, line)
        stage = self._stage(plan, long_side=long_side)
        places = _line_places(stage, line)
        gains = _gains(plan, shown)
        level = None if gains is None else gains @ per_layer
        on = self._look(plan, places.in_frame(line), gains, long_side=long_side) if places else None
        width, height = layers.size
        return read_line(places, on, level=level, pixel=line.pixel(width=width, height=height), per_layer=per_layer)

    def _on_places(self, plan: Plan, stage: TracedScene, places: np.ndarray) -> MirrorSamples:
        """Places of the frame traced for what the product mirrors there; kept."""
        key = (static_part(plan), stage.width, stage.height, places.tobytes())
        return self._mirrors.get(
            key, lambda: trace_mirrored(plan, stage.scene, places, width=stage.width, height=stage.height)
        )

    def _look(self, plan: Plan, places: np.ndarray, gains: np.ndarray | None, *, long_side: int) -> MirroredAt:
        """What the product mirrors at places of the frame; gains (1 + lights,), None where the exposure contradicts itself."""
        stage = self._stage(plan, long_side=long_side)
        on = self._on_places(plan, stage, places)
        if gains is None:
            return _at_places(plan, stage, on, None)
        by_layer = self._mirrored.get((_as_lit(plan), places.tobytes()), lambda: mirrored_layers(stage, plan, on))
        return _at_places(plan, stage, on, gains @ by_layer)

    def let_go(self, hand: Hand) -> None:
        """Nothing need be kept for a hand any more."""
        self._drags.drop(hand)

    def _best(self, plan: Plan, *, long_side: int) -> tuple[np.ndarray, Layers]:
        """Pixels of the product and layers of a plan: of its fine picture if that is kept, whatever its size, else of a draft."""
        kept = self._kept(plan)
        if kept is None:
            stage = self._stage(plan, long_side=long_side)
            kept = self._drafts.get((_as_lit(plan), long_side), lambda: (stage.is_product, relight_draft(stage, plan)))
        return kept

    def _kept(self, plan: Plan, *, least: int = 0) -> tuple[np.ndarray, Layers] | None:
        """The newest kept fine picture of a plan whose long side is `least` pixels or more."""
        lit = _as_lit(plan)
        return self._fine.find(lambda key: key[0] == lit and key[1] >= least)

    def named(
        self, plan: Plan, readings: tuple[NamedReading, ...], *, shown: Shown | None = None, long_side: int = PREVIEW_SIDE
    ) -> dict[str, Value | None]:
        """What named readings read, by key; None where the product does not show them.

        Raises DomainError when flash and shutter contradict each other.
        """
        is_product, layers = self._best(plan, long_side=long_side)
        gains = (shown or Shown()).gains(plan)

        def look(places: np.ndarray) -> MirroredAt:
            return self._look(plan, places, gains, long_side=long_side)

        frame = LayeredFrame(pictures=layers.pictures, gains=gains, is_product=is_product, mirror=look)
        return {reading.key: reading.at.read(frame) for reading in readings}

    def stage(self, plan: Plan, *, long_side: int = PREVIEW_SIDE) -> TracedScene:
        """What stands still, traced; kept."""
        return self._stage(plan, long_side=long_side)

    def whole(self, plan: Plan, *, long_side: int = PREVIEW_SIDE) -> WholePicture:
        """The picture as a whole, for what must not be in it. Raises DomainError when flash and shutter contradict each other."""
        stage = self._stage(plan, long_side=long_side)
        spots = product_spots(stage.is_product)
        mirrored = self._look(plan, spots, layer_gains(plan), long_side=long_side).mirrored
        ways = ways_of(plan, stage.scene, self._on_places(plan, stage, spots), spots, (stage.width, stage.height))
        assert mirrored is not None, "layer_gains has raised for what contradicts itself"
        room = read_exposure(plan).black.stops
        return whole_picture(plan, stage, ways, mirrored, self.faults(plan, long_side=long_side), room_stops=room)

    def faults(self, plan: Plan, *, long_side: int = PREVIEW_SIDE) -> list[Fault]:
        """What would spoil the photograph, see core.frames.faults. Raises DomainError when flash and shutter contradict each other."""
        stage = self._stage(plan, long_side=long_side)
        gains = layer_gains(plan)
        levels = mixed(self._best(plan, long_side=long_side)[1], gains)
        luminance = levels.astype(np.float64) @ np.array(REC709_LUMINANCE)
        return [
            *things_in_frame(plan, stage.scene), *crossings(plan), *light_into_lens(plan, draft_lighting(plan, stage.scene), gains),
            *table_edges(plan, stage.scene, luminance), *clipped_product(plan, stage, levels),
        ]  # fmt: skip

    def spot(
        self, plan: Plan, *, x: float, y: float, shown: Shown | None = None, long_side: int = PREVIEW_SIDE
    ) -> SeenThing:
        """What is seen at parts x, y of the picture. Raises DomainError when flash and shutter contradict each other."""
        shown = shown or Shown()

        def make() -> PixelProbe:
            return probe_pixel(self._stage(plan, long_side=long_side), plan, gains=shown.gains(plan))

        return seen_at(self._looks.get((plan, shown), make), x=x, y=y)

    def on_product(self, plan: Plan, *, x: float, y: float, long_side: int = PREVIEW_SIDE) -> ProductSpot | None:
        """The spot of the product at a place in the frame; None beside it."""
        return on_product(self._stage(plan, long_side=long_side).is_product, x=x, y=y)

    def on_set(self, plan: Plan, *, x: float, y: float, long_side: int = PREVIEW_SIDE) -> OnSet | None:
        """What stands still at a place in the frame; None where nothing does."""
        stage = self._stage(plan, long_side=long_side)
        return place_in_frame(plan, stage.scene, x, y, width=stage.width, height=stage.height)

    def on_body(
        self, plan: Plan, product: Product, *, x: float, y: float, long_side: int = PREVIEW_SIDE
    ) -> BodyPlace | None:
        """Where on a product a place in the frame lies; None where something else is seen there."""
        lies = self.on_set(plan, x=x, y=y, long_side=long_side)
        wanted = PRODUCT_KEY if product is plan.product else product.key
        return on_body(plan, product, lies) if lies is not None and lies.owner == wanted else None

    def images(self, plan: Plan, *, long_side: int = PREVIEW_SIDE) -> dict[str, np.ndarray]:
        """Where the picture shows lights, cards and sheets mirrored, see core.prediction.spot."""
        return mirror_images(self._stage(plan, long_side=long_side), plan)

    def remember_fine(self, plan: Plan, is_product: np.ndarray, layers: Layers) -> None:
        """Take a fine picture of a plan that was made elsewhere for one's own."""
        self._fine.keep((_as_lit(plan), max(layers.size), SCREEN), (is_product, layers))

    def at_once(self, plan: Plan, *, long_side: int) -> tuple[np.ndarray, bool]:
        """The best picture there is without waiting, (height, width, 3) uint8, and whether it is fine: the kept fine one, of
        whatever size, else a draft. Raises DomainError when flash and shutter contradict each other."""
        kept = self._kept(plan, least=PREVIEW_SIDE)
        if kept is not None:
            return develop(kept[1], layer_gains(plan), plan.tone), True
        stage = self._stage(plan, long_side=long_side)
        return render_preview(stage, plan, gains=layer_gains(plan), pixels=NO_PIXEL).picture, False

    def has_fine(self, plan: Plan) -> bool:
        """Is a fine picture of the plan kept that is large enough to be shown by itself?"""
        return self._kept(plan, least=PREVIEW_SIDE) is not None

    def quick(self, plan: Plan, *, long_side: int) -> np.ndarray:
        """A small picture at once, (height, width, 3) uint8: a draft of twice the size, four pixels to one.

        Raises DomainError when flash and shutter contradict each other.
        """
        stage = self._stage(plan, long_side=2 * long_side)
        large = render_preview(stage, plan, gains=layer_gains(plan), pixels=NO_PIXEL).picture
        height, width = large.shape[0] // 2 * 2, large.shape[1] // 2 * 2
        parts = large[:height, :width].reshape(height // 2, 2, width // 2, 2, 3)
        small: np.ndarray = parts.mean(axis=(1, 3)).round().astype(np.uint8)
        return small

    def levels(self, plan: Plan, *, long_side: int) -> np.ndarray:
        """Linear levels of a plan as a draft of this very size, (height, width, 3) float32; its layers are kept.

        Raises DomainError when flash and shutter contradict each other.
        """
        return mixed(self.layers(plan, long_side=long_side), layer_gains(plan))

    def layers(self, plan: Plan, *, long_side: int) -> Layers:
        """Layers of a plan as a draft of this very size; kept."""
        stage = self._stage(plan, long_side=long_side)
        return self._drafts.get((_as_lit(plan), long_side), lambda: (stage.is_product, relight_draft(stage, plan)))[1]

    def fine_levels(self, plan: Plan, *, long_side: int) -> np.ndarray | None:
        """As levels, of the fine picture of this very size if that is kept."""
        known = self._levels.peek((plan, long_side))
        if known is not None:
            return known
        lit = _as_lit(plan)
        kept = self._fine.find(lambda key: key[0] == lit and key[1] == long_side)
        return mixed(kept[1], layer_gains(plan)) if kept else None

    def keep_levels(self, plan: Plan, layers: Layers) -> None:
        """Keep what fine layers make of a plan: many captures need room for one picture each, not for all their lights."""
        self._levels.keep((plan, max(layers.size)), mixed(layers, layer_gains(plan)))

    def areas(self, plan: Plan, *, long_side: int) -> SceneAreas:
        """Where things lie in a picture of this size; kept."""
        key = (static_part(plan), long_side)
        return self._areas.get(key, lambda: scene_areas(plan, self._stage(plan, long_side=long_side)))

    def look(self, plan: Plan, places: np.ndarray, *, long_side: int = PREVIEW_SIDE) -> MirroredAt:
        """What the product mirrors at places of the frame. Raises DomainError as layer_gains does."""
        return self._look(plan, places, layer_gains(plan), long_side=long_side)

    def draft_layers(self, plan: Plan, *, long_side: int) -> Layers:
        """Layers of a plan as a draft, at once."""
        return relight_draft(self._stage(plan, long_side=long_side), plan)

    def product_of(self, plan: Plan, *, long_side: int) -> np.ndarray:
        """Where a picture of a plan shows the product, (height, width) bool."""
        return self._stage(plan, long_side=long_side).is_product

    def small_alone(self, plan: Plan, key: str, *, long_side: int) -> np.ndarray:
        """One light by itself at its power, small and at once, (height, width, 3) uint8.

        Raises DomainError when flash and shutter contradict each other.
        """
        stage = self._stage(plan, long_side=PREVIEW_SIDE)
        picture = render_preview(stage, plan, gains=Shown(alone=key).gains(plan), pixels=NO_PIXEL).picture
        step = max(1, PREVIEW_SIDE // long_side)
        height, width = picture.shape[0] // step * step, picture.shape[1] // step * step
        parts = picture[:height, :width].reshape(height // step, step, width // step, step, 3)
        small: np.ndarray = parts.mean(axis=(1, 3)).round().astype(np.uint8)
        return small

    def fine(
        self, plan: Plan, *, long_side: int, quality: RenderQuality = FINAL, watch: ProgressCallback = never_cancel
    ) -> Prediction:
        """For a hand at rest, a sheet, a file. Raises RenderCancelled when `watch` says no."""

        def make() -> tuple[np.ndarray, Layers]:
            stage = self._stage(plan, long_side=long_side, cut=CUT)
            scene = self._scenes.get(
                (_scene_of(plan, quality), long_side, quality),
                lambda: render_scene_layers(stage, plan, quality=quality, watch=watch),
            )
            return stage.is_product, layers_of(plan, stage, scene.lit, scene.flat, hazy=True, focused=scene.focused)

        is_product, layers = self._fine.get((_as_lit(plan), long_side, quality), make)
        return Prediction(plan=plan, is_product=is_product, layers=layers)


def _as_lit(plan: Plan) -> Plan:
    """The plan without what its layers do not depend on, powers and switches above all: equal values have equal layers."""
    lights = tuple(at_full_power(light) for light in plan.lights)
    exposure = Exposure(shutter_s=1.0, f_number=plan.exposure.f_number, iso=100)
    return replace(plan, lights=lights, exposure=exposure, room_lux=0.0, tone=PLAIN_TONE, meter=None, key_light="")


def _scene_of(plan: Plan, quality: RenderQuality) -> Plan:
    """As _as_lit, for the scene before the lens, or with what its opening makes soft where the quality says so."""
    before_lens = BeforeLens(polariser=plan.before_lens.polariser)
    f_number = plan.exposure.f_number if quality.lens else 1.0
    return replace(_as_lit(plan), exposure=Exposure(shutter_s=1.0, f_number=f_number, iso=100), before_lens=before_lens)
