"""Against Mitsuba 3 (compiled for the CPU): processor time for the same error in highlights, in one run."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np

from fotaxis.core.render.final.final_render import render_final
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.scene.plan import Plan
from tests import mitsuba_scene
from tests.core.render.test_against_mitsuba import bottle

WIDTH, HEIGHT = 320, 400
TRUTH_PASSES = 64
LABEL = slice(216, 312)


def processor_s(work: Callable[[], np.ndarray]) -> tuple[float, np.ndarray]:
    """Processor seconds, all threads, and the result."""
    began = time.process_time()
    result = work()
    return time.process_time() - began, result


def run() -> None:
    compare("coated black", bottle(), part="highlights", depth=12)


def compare(name: str, plan: Plan, *, part: str, depth: int) -> None:
    """Print processor time of ours and of the reference at our error, over the highlights or over the glass."""
    mitsuba = mitsuba_scene.load()
    scene = mitsuba_scene.scene(mitsuba, plan, width=WIDTH, height=HEIGHT, depth=depth)
    halves = [mitsuba_scene.render(mitsuba, scene, passes=TRUTH_PASSES // 2, seed=seed)[..., 1] for seed in (1000, 5000)]
    truth = (halves[0] + halves[1]) / 2
    looked_at = truth > 0.1 * np.quantile(truth, 0.995)
    if part == "highlights":
        looked_at[LABEL] = False
    else:
        seen = trace_scene(plan, width=WIDTH, height=HEIGHT).is_product
        looked_at &= seen

    def error(picture: np.ndarray) -> float:
        """Root mean square difference over what is looked at, relative to its mean.

        The truth's own grain does not count: the differences from two truths, each with its own grain, are multiplied.
        """
        apart = (picture - halves[0])[looked_at] * (picture - halves[1])[looked_at]
        return float(np.sqrt(max(np.mean(apart), 1e-12)) / truth[looked_at].mean())

    def ours() -> np.ndarray:
        stage = trace_scene(plan, width=WIDTH, height=HEIGHT)
        return render_final(stage, plan).pictures[1:].sum(axis=0)[..., 1]

    ours()
    taken, picture = min((processor_s(ours) for _ in range(5)), key=lambda pair: pair[0])
    our_error = error(picture)
    print(f"Against the reference renderer, {name}, {WIDTH} x {HEIGHT}, {looked_at.sum()} pixels looked at")
    print(f"  ours: trace and relight {taken:.3f} s of processor time, error {our_error:.2%} of their mean")
    costs, errors = [], []
    for samples in (4, 16, 64):
        mitsuba_scene.render(mitsuba, scene, passes=1, samples=samples)
        cost, drawn = min(
            (
                processor_s(lambda n=samples: mitsuba_scene.render(mitsuba, scene, passes=1, samples=n, seed=7))
                for _ in range(3)
            ),
            key=lambda pair: pair[0],
        )
        costs.append(cost)
        errors.append(error(drawn[..., 1]))
        print(f"  reference, {samples:3} samples a pixel: {cost:.3f} s, error {errors[-1]:.2%}")
    # Cost is linear in samples; the error falls with a power of their number, taken from the three runs.
    slope, level = np.polyfit(np.log(costs), np.log(errors), 1)
    needed = float(np.exp((np.log(our_error) - level) / slope))
    print(f"  reference at our error: {needed:.2f} s of processor time; ratio {needed / taken:.1f}")
